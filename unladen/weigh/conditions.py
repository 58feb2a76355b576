"""The conditions that a weigh-in states: device, visit, link, number of runs."""

from __future__ import annotations

from dataclasses import dataclass

# What a request costs beside its body: request line and fields out, status line and fields back, after compression.
# A fixed figure, since the true one differs by a few bytes from run to run (HPACK, RFC 7541).
HEADER_BYTES = 250


@dataclass(frozen=True, slots=True)
class Device:
    """A window: `width` and `height` in CSS px, `density` in device px per CSS px."""

    name: str
    width: int
    height: int
    density: float
    mobile: bool

    @property
    def label(self) -> str:
        """As shown on screens, for instance “Phone 390 at 2x”."""
        return f"{self.name.capitalize()} {self.width} at {self.density:g}x"


DEVICES = {
    "phone": Device("phone", 390, 844, 2, True),
    "desktop": Device("desktop", 1280, 800, 1, False),
}


@dataclass(frozen=True, slots=True)
class Conditions:
    """All that must be equal for two weigh-ins to be compared."""

    device: Device
    visit: str = "first"
    link: str = "unlimited"
    runs: int = 1
