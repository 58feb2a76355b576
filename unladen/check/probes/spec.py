"""What a probe says of itself, and what it gets to see."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from playwright.async_api import Page

from unladen.check.pairs import Difference
from unladen.weigh.chromium.recorder import Recorder
from unladen.weigh.records.conditions import Device
from unladen.weigh.visits.visit import Watch


@dataclass(frozen=True, slots=True)
class Observation:
    """What a probe saw: plain values, and bodies such as pictures by name. It can be kept and compared later."""

    values: Mapping[str, Any] = field(default_factory=dict)
    bodies: Mapping[str, bytes] = field(default_factory=dict)


@dataclass(slots=True)
class Scene:
    """A page at rest, and what was heard on the way there.

    `found` is what one script told of its elements (look.js).
    """

    page: Page
    url: str
    device: Device
    recorder: Recorder
    watch: Watch
    found: Mapping[str, Any]
    calm: Callable[[], Awaitable[object]]


@dataclass(frozen=True, slots=True)
class Probe:
    """Looks at one kind of thing and says what differs.

    `compare` gets what was seen of the page as found, twice, and of the page as it would be handed over; what differs
    between the first two moves by itself and is not held against anybody. `when`: at rest, or while something is done
    to the page (those come later and must leave nothing to be seen by the former), or at the end of all that.
    """

    name: str
    observe: Callable[[Scene], Awaitable[Observation]]
    compare: Callable[[Observation, Observation, Observation], list[Difference]]
    when: Literal["at rest", "acting", "at the end"] = "at rest"
    version: int = 1
