"""What a check looks at: one module per kind of difference. A new one is its module and a line here."""

from __future__ import annotations

from collections.abc import Collection

from unladen.check.probes import (
    arrival,
    images,
    layout,
    meaning,
    missing,
    picture,
    rules,
    scripts,
    stills,
    styles,
    walk,
    ways,
    without_scripts,
    words,
)
from unladen.check.probes.spec import Focus, Observation, Probe, Scene

# In the order in which differences are told.
PROBES: tuple[Probe, ...] = (
    missing.PROBE,
    scripts.ERRORS,
    images.PROBE,
    layout.LAYOUT,
    arrival.PROBE,
    layout.HITS,
    stills.PROBE,
    walk.PROBE,
    picture.PROBE,
    rules.PROBE,
    styles.PROBE,
    words.PROBE,
    ways.PROBE,
    meaning.PROBE,
    scripts.SCRIPTS,
    without_scripts.PROBE,
)


def all_probes() -> tuple[Probe, ...]:
    """All of them, those too that look only where they are asked to."""
    return PROBES


def probes(*, quick: bool = False, only: Collection[str] = ()) -> tuple[Probe, ...]:
    """All of them, or those of a quick check; to be asked when needed rather than kept.

    Of `only` these by name, if any are named, with whatever they see the doings of, and who knows the elements' names.
    """
    usual = tuple(probe for probe in PROBES if not (quick and probe.slow) and (not probe.close or probe.name in only))
    if not only:
        return usual
    acted = any(probe.name in only and probe.when != "at rest" and not probe.apart for probe in usual)
    return tuple(
        probe
        for probe in usual
        if probe.name in only or probe is layout.LAYOUT or (acted and probe.when == "acting" and not probe.apart)
    )


__all__ = ["Focus", "Observation", "Probe", "Scene", "all_probes", "probes"]
