"""The conditions that a weigh-in states: device, link, visit, number of runs."""

from __future__ import annotations

import re
from dataclasses import dataclass

from unladen.errors import BadInput

# What a request costs beside its body: request line and fields out, status line and fields back, after compression.
# A fixed figure, since the true one differs by a few bytes from run to run (HPACK, RFC 7541).
HEADER_BYTES = 250
VISITS = ("first", "repeat")
MOST_RUNS = 15
_SIDES = range(200, 4097)  # CSS px


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
    "tablet": Device("tablet", 820, 1180, 2, True),
    "desktop": Device("desktop", 1280, 800, 1, False),
}
# What is weighed when nobody says otherwise: the phone before the desktop.
USUAL_DEVICES = ("phone", "desktop")
_OWN_DEVICE = re.compile(r"^(\d{2,4})x(\d{2,4})(?:@(\d(?:\.\d+)?))?$")


def own_device(width: int, height: int, density: float) -> Device:
    """A window of one's own, named by its figures; narrow ones behave as phones do. Raises `BadInput`."""
    name = f"{width}x{height}@{density:g}"
    if width not in _SIDES or height not in _SIDES or not 0.5 <= density <= 4:
        raise BadInput(name, f"a window has {_SIDES[0]} to {_SIDES[-1]} CSS px a side and a density of 0.5 to 4")
    return Device(name, width, height, density, width <= 900)


def device_named(name: str) -> Device:
    """A known device, or one's own as `WIDTHxHEIGHT@DENSITY`; raises `BadInput`."""
    if name in DEVICES:
        return DEVICES[name]
    match = _OWN_DEVICE.match(name)
    if match is None:
        raise BadInput(name, f"is not a device; use {', '.join(DEVICES)} or a viewport such as 1440x900@1")
    return own_device(int(match[1]), int(match[2]), float(match[3] or 1))


@dataclass(frozen=True, slots=True)
class Link:
    """A link by its figures: `rate` in bits per second each way (0: unlimited), `latency` in ms for the round trip."""

    rate: int = 0
    latency: int = 0

    @property
    def label(self) -> str:
        """As in the formats: `unlimited`, or for instance `1.6 Mbit/s, 150 ms`."""
        return f"{self.rate / 1e6:g} Mbit/s, {self.latency} ms" if self.rate else "unlimited"

    @property
    def bytes_per_ms(self) -> float:
        """The rate in bytes per ms; infinite when it is unlimited."""
        return self.rate / 8000 if self.rate else float("inf")


UNLIMITED = Link()
# Named by nothing but their figures: a good fixed line, a usual phone link, a poor one.
LINKS = (UNLIMITED, Link(10_000_000, 40), Link(1_600_000, 150), Link(400_000, 400))
_LINK = re.compile(r"^\s*(\d+(?:\.\d+)?)\s*([kM])bit/s\s*,\s*(\d+)\s*ms\s*$")


def link_named(text: str) -> Link:
    """A link from its label; raises `BadInput`."""
    if text.strip() == UNLIMITED.label:
        return UNLIMITED
    match = _LINK.match(text)
    if match is None:
        raise BadInput(text, "is not a network; use “unlimited” or figures such as “1.6 Mbit/s, 150 ms”")
    rate = round(float(match[1]) * (1e6 if match[2] == "M" else 1e3))
    latency = int(match[3])
    if not 10_000 <= rate <= 10_000_000_000 or latency > 10_000:
        raise BadInput(text, "a link has 0.01 to 10,000 Mbit/s and at most 10,000 ms")
    return Link(rate, latency)


@dataclass(frozen=True, slots=True)
class Conditions:
    """All that must be equal for two weigh-ins to be compared."""

    device: Device
    visit: str = "first"
    link: Link = UNLIMITED
    runs: int = 1

    def __post_init__(self) -> None:
        if self.visit not in VISITS:
            raise BadInput(self.visit, f"is not a visit; use {' or '.join(VISITS)}")
        if not 1 <= self.runs <= MOST_RUNS:
            raise BadInput(str(self.runs), f"is not a number of loads; use 1 to {MOST_RUNS}")

    @property
    def key(self) -> str:
        """The conditions in one line; equal ones have equal keys."""
        d = self.device
        window = f"{d.name} {d.width}x{d.height} at {d.density:g}"
        return f"{window}, {self.visit} visit, {self.link.label}, {self.runs} {'run' if self.runs == 1 else 'runs'}"

    def differences(self, other: Conditions) -> list[str]:
        """In words, what these conditions have that others have not; empty when they may be compared."""
        pairs = [
            ("device", self.device.label, other.device.label),
            ("height", self.device.height, other.device.height),
            ("visit", self.visit, other.visit),
            ("link", self.link.label, other.link.label),
            ("runs", self.runs, other.runs),
        ]
        return [f"{what}: {mine} and {theirs}" for what, mine, theirs in pairs if mine != theirs]
