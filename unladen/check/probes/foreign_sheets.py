"""Style sheets of other hosts, which no script of a page may read, read and edited through the browser's protocol."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Callable, Collection
from dataclasses import dataclass, field
from types import TracebackType
from typing import Any

from playwright.async_api import CDPSession, Frame, Page
from playwright.async_api import Error as PlaywrightError

from unladen.markup.css import css_blocks


@dataclass(slots=True)
class ForeignSheets:
    """The sheets of some addresses in a page and its frames; a context manager that lets go of them at its end.

    `nested`: also those that these bring, which have addresses of their own.

    Raises nothing: a sheet that cannot be reached is not among `read`.
    """

    page: Page
    frames: Collection[Frame]
    addresses: Collection[str]
    nested: bool = False
    texts: dict[tuple[int, str], str] = field(default_factory=dict)
    read: set[str] = field(default_factory=set)
    _sessions: list[CDPSession] = field(default_factory=list)
    _addresses: dict[tuple[int, str], str] = field(default_factory=dict)

    async def __aenter__(self) -> ForeignSheets:
        if not self.addresses:
            return self
        # Frames of other sites have processes, and sessions, of their own; for all others this raises.
        targets: list[Page | Frame] = [self.page, *(frame for frame in self.frames if frame.parent_frame)]
        for target in targets:
            with contextlib.suppress(PlaywrightError):
                await self._open(target)
        return self

    async def __aexit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        for session in self._sessions:
            with contextlib.suppress(PlaywrightError):
                await session.detach()

    async def _open(self, target: Page | Frame) -> None:
        session = await self.page.context.new_cdp_session(target)
        self._sessions.append(session)
        result: list[dict[str, Any]] = []
        session.on("CSS.styleSheetAdded", lambda event: result.append(event["header"]))
        await session.send("DOM.enable")
        await session.send("CSS.enable")  # tells of all sheets there are before it answers
        for header in result:
            if header["sourceURL"] in self.addresses or (self.nested and not header["isInline"]):
                answer = await session.send("CSS.getStyleSheetText", {"styleSheetId": header["styleSheetId"]})
                key = len(self._sessions) - 1, header["styleSheetId"]
                self.texts[key], self._addresses[key] = answer["text"], header["sourceURL"]
                self.read.add(header["sourceURL"])

    def by_address(self) -> dict[str, str]:
        """The texts by the address of each sheet."""
        return {self._addresses[key]: text for key, text in self.texts.items()}

    def conditions(self) -> list[str]:
        """Under which conditions the sheets have rules, or bring others."""
        return [
            text[block.start : block.open]
            for text in self.texts.values()
            for block in css_blocks(text)
            if block.at in ("@media", "@import")
        ]

    def states(self, names: Collection[str]) -> list[str]:
        """Which of these states the sheets have rules for."""
        states: set[str] = set()
        for text in self.texts.values():
            states |= {match[1] for _, _, selector in _selectors(text) for match in _state(names).finditer(selector)}
        return sorted(states)

    async def force(self, names: Collection[str], forced_by: Callable[[str], str]) -> None:
        """Let a rule for one of these states hold also where `forced_by` (a selector for the state's name) does."""
        for (session, sheet), text in self.texts.items():
            await self._set(session, sheet, forced(text, names, forced_by))

    async def restore(self) -> None:
        """Give the sheets their own texts again."""
        for (session, sheet), text in self.texts.items():
            await self._set(session, sheet, text)

    async def _set(self, session: int, sheet: str, text: str) -> None:
        with contextlib.suppress(PlaywrightError):
            await self._sessions[session].send("CSS.setStyleSheetText", {"styleSheetId": sheet, "text": text})


def forced(text: str, names: Collection[str], forced_by: Callable[[str], str]) -> str:
    """A style sheet in whose selectors each of these states reads `:is(:state, what forces it)`."""
    pieces, last = [], 0
    for start, end, selector in _selectors(text):
        changed = _state(names).sub(lambda m: f":is({m[0]},{forced_by(m[1])})", selector)
        if changed != selector:
            pieces += [text[last:start], changed]
            last = end
    return "".join([*pieces, text[last:]])


def _selectors(text: str) -> list[tuple[int, int, str]]:
    """Where the selectors with a colon begin and end, and what they say, in the order of the text."""
    rules = sorted((block.start, block.open) for block in css_blocks(text) if not block.at)
    return [(start, end, text[start:end]) for start, end in rules if ":" in text[start:end]]


def _state(names: Collection[str]) -> re.Pattern[str]:
    return re.compile(rf":({'|'.join(sorted(map(re.escape, names), key=len, reverse=True))})(?![-\w(])")
