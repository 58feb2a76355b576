"""What a probe says of itself, and what it gets to see."""

from __future__ import annotations

import asyncio
import hashlib
import json
import re
from collections.abc import Awaitable, Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from playwright.async_api import Error as PlaywrightError
from playwright.async_api import Frame, Page

from unladen.capture import Capture
from unladen.check.file_judge import Question
from unladen.check.pairs import Difference
from unladen.weigh.chromium.recorder import Recorder
from unladen.weigh.records.conditions import Device
from unladen.weigh.visits.visit import Watch
from unladen.weigh.visits.walk import WalkOrders

# As one text: passed on value by value, what a page has to say costs a second and more of this program's own time.
_PACKED = """async (argument) => {
  const pack = window[Symbol.for("unladen.pack")] ?? JSON.stringify;
  return pack(await (%s)(argument));
}"""
# Halves of characters, which JSON writes so and no file can hold; after an even number of backslashes.
_HALF_BEGINS = "\\ud"
_HALF = re.compile(r"(?<!\\)((?:\\\\)*+)\\ud[89a-f][0-9a-f]{2}")
_ANSWER_WITHIN = 60.0  # s; pages may be large and the machine busy


@dataclass(frozen=True, slots=True)
class Observation:
    """What a probe saw: plain values, and bodies such as pictures by name. It can be kept and compared later."""

    values: Mapping[str, Any] = field(default_factory=dict)
    bodies: Mapping[str, bytes] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Focus:
    """Elements (by place) whose computed styles have to be read, in which states and media; `everything`: all of the
    page.

    `rules` are those that only one of two pages has, each with what stands around it, its selector and its
    declarations.
    """

    places: tuple[str, ...]
    states: tuple[str, ...] = ()
    media: tuple[str, ...] = ()
    everything: bool = False
    rules: tuple[tuple[str, str, str], ...] = ()

    @property
    def key(self) -> str:
        """What tells it from others."""
        said = json.dumps([self.places, self.states, self.media, self.everything])
        return hashlib.sha256(said.encode()).hexdigest()[:16]


@dataclass(slots=True)
class Scene:
    """A page at rest, and what was heard on the way there.

    `found` is what one script told of the elements of all frames (seen.js), `arrived` what showed before anything was
    scrolled (arrived.js). `frames` are those that can be asked, each with what goes before the places of its
    elements. `rest` waits until the page is at rest again and says what stands in the way, if something does.
    `orders` is what the user wants of a walk. `instead` are the places where something stands in for something else;
    `left`: what was not looked at, in words; `asked`: addresses of files that the page does not ask for itself and
    that were looked up for it. `focus`: where computed styles are read, everywhere without one.
    """

    page: Page
    url: str
    device: Device
    recorder: Recorder
    watch: Watch
    capture: Capture
    frames: list[tuple[str, Frame]]
    rest: Callable[[], Awaitable[str]]
    found: Mapping[str, Any] = field(default_factory=dict)
    arrived: Mapping[str, Any] = field(default_factory=dict)
    instead: tuple[str, ...] = ()
    left: list[str] = field(default_factory=list)
    asked: set[str] = field(default_factory=set)
    orders: WalkOrders = field(default_factory=WalkOrders)
    until: str = ""
    focus: Focus | None = None

    async def ask(self, script: str, argument: Any = None) -> list[tuple[str, Any]]:
        """What a script says in each frame, with what goes before its places; frames that do not answer are left
        out.
        """
        return await self.ask_each(script, lambda _: argument)

    async def ask_each(self, script: str, argument: Callable[[str], Any]) -> list[tuple[str, Any]]:
        """As `ask`, with an argument for each frame from what goes before its places."""
        answers = []
        for prefix, frame in self.frames:
            answer = await ask_frame(frame, script, argument(prefix))
            if answer is not None:
                answers.append((prefix, answer))
        return answers

    async def tables(self, script: str, argument: Any = None) -> dict[str, Any]:
        """The tables (name to place to value) that a script gives in each frame, put together by name.

        What is no table is taken from the page itself.
        """
        joined: dict[str, Any] = {}
        for prefix, answer in await self.ask(script, argument):
            for name, value in answer.items():
                if isinstance(value, dict):
                    joined.setdefault(name, {}).update({prefix + place: entry for place, entry in value.items()})
                elif not prefix:
                    joined[name] = value
        return joined


async def ask_frame(frame: Frame, script: str, argument: Any = None, within: float = _ANSWER_WITHIN) -> Any:
    """The result of a script (a function of one argument) in a frame, or None when it does not answer in time or has
    gone.
    """
    try:
        said = await asyncio.wait_for(frame.evaluate(_PACKED % script, argument), within)
    except (PlaywrightError, TimeoutError):
        return None
    return None if said is None else json.loads(_HALF.sub(r"\1\\ufffd", said) if _HALF_BEGINS in said else said)


async def pass_time(frame: Frame, ms: int, within: float = _ANSWER_WITHIN) -> int | None:
    """Let so much of its own time pass in a frame; how many timers ran by it, None when it does not answer any more."""
    script = "(ms) => window[Symbol.for('unladen.watch')]?.advance(ms) ?? 0"
    ran: int | None = await ask_frame(frame, script, ms, within)
    return ran


Judge = Callable[[Sequence[Question]], Sequence[float | None]]
Compare = Callable[[Observation, Observation, Observation], list[Difference]]
CompareFiles = Callable[[Observation, Observation, Observation, Judge], list[Difference]]


def cannot_tell(questions: Sequence[Question]) -> Sequence[float | None]:
    """The judge who has no files."""
    return [None for _ in questions]


def _nothing_differs(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    return []


@dataclass(frozen=True, slots=True)
class Probe:
    """Looks at one kind of thing and says what differs.

    `compare` gets what was seen of the page as found, twice, and of the page as it would be handed over; what differs
    between the first two moves by itself and is not held against anybody. `judges` is such a function that is told
    how alike image files are, too. `when`: at rest, or while something is done to the page (those come later and must
    leave nothing to be seen by the former), or at the end of all that. `slow`: left out of a quick check; `apart`: it
    opens a page of its own, so that no other one sees what it does; `close`: it only looks where it is asked to by
    name. In the text of a difference “{place}” stands for what people call the first of its places.
    """

    name: str
    observe: Callable[[Scene], Awaitable[Observation]]
    compare: Compare = _nothing_differs
    when: Literal["at rest", "acting", "at the end"] = "at rest"
    slow: bool = False
    apart: bool = False
    close: bool = False
    version: int = 1
    judges: CompareFiles | None = None

    def differences(
        self, before: Observation, again: Observation, after: Observation, judge: Judge
    ) -> list[Difference]:
        """What differs, `judge` telling how alike image files are to a visitor."""
        return self.judges(before, again, after, judge) if self.judges else self.compare(before, again, after)
