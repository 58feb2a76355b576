"""What a check looks at: one module per kind of difference. A new one is its module and a line here."""

from __future__ import annotations

from unladen.check.probes import elements, errors, images, missing, picture, stills
from unladen.check.probes.spec import Observation, Probe, Scene

# In the order in which differences are told.
PROBES: tuple[Probe, ...] = (
    missing.PROBE,
    errors.PROBE,
    images.PROBE,
    elements.PROBE,
    stills.PROBE,
    picture.PROBE,
)


def probes() -> tuple[Probe, ...]:
    """All of them; to be asked when needed rather than kept."""
    return PROBES


__all__ = ["Observation", "Probe", "Scene", "probes"]
