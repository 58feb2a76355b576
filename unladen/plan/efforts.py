"""How far a ready-made plan goes."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Effort:
    """`similarity` is the target of lossy coding, 1 for none; `density` the device px kept per CSS px shown.

    A density of 0 keeps what the weighed devices themselves can show.
    """

    name: str
    similarity: float
    density: float
    resizes: bool
    hint: str


EFFORTS = {
    "gentle": Effort("gentle", 1.0, 0, False, "Nothing lossy"),
    "steady": Effort("steady", 0.97, 2, True, "What nobody will notice"),
    "bold": Effort("bold", 0.95, 0, True, "All that passes the checks"),
}
