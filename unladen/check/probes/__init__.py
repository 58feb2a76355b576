"""What a check looks at: one module per kind of difference. A new one is its module and a line here."""

from __future__ import annotations

from unladen.check.probes import (
    images,
    layout,
    meaning,
    missing,
    picture,
    scripts,
    stills,
    styles,
    walk,
    ways,
    without_scripts,
    words,
)
from unladen.check.probes.spec import Observation, Probe, Scene

# In the order in which differences are told.
PROBES: tuple[Probe, ...] = (
    missing.PROBE,
    scripts.ERRORS,
    images.PROBE,
    layout.LAYOUT,
    layout.HITS,
    stills.PROBE,
    walk.PROBE,
    picture.PROBE,
    styles.PROBE,
    words.PROBE,
    ways.PROBE,
    meaning.PROBE,
    scripts.SCRIPTS,
    without_scripts.PROBE,
)


def probes(*, quick: bool = False) -> tuple[Probe, ...]:
    """All of them, or those of a quick check; to be asked when needed rather than kept."""
    return tuple(probe for probe in PROBES if not (quick and probe.slow))


__all__ = ["Observation", "Probe", "Scene", "probes"]
