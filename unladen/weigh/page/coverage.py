"""Which parts of scripts and styles were used, as the browser tells it. Offsets count UTF-16 code units of the text."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any

from unladen.markup.css import css_blocks
from unladen.markup.spans import Span, Units, union
from unladen.weigh.chromium.protocol import Params, Protocol
from unladen.weigh.chromium.recorder import Command

# The browser never reports these as used; whether something names them is not for a walk to say.
_NEVER_REPORTED = {
    "@charset", "@container", "@counter-style", "@font-face", "@font-feature-values", "@import", "@keyframes",
    "@-webkit-keyframes", "@-moz-keyframes", "@-o-keyframes", "@layer", "@namespace", "@page", "@property",
}  # fmt: skip
_GROUPS = {"@container", "@layer", "@media", "@scope", "@starting-style", "@supports"}


@dataclass(slots=True)
class FileUse:
    """One file of styles or scripts: its length and the used spans, disjoint and in order."""

    url: str
    kind: str
    length: int
    used: list[Span] = field(default_factory=list)

    @property
    def used_length(self) -> int:
        """Code units used."""
        return sum(end - start for start, end in self.used)


def prepare() -> list[Command]:
    """What a target must be told before it runs."""
    return [
        ("Profiler.enable", {}),
        ("Profiler.startPreciseCoverage", {"callCount": True, "detailed": True}),
        ("DOM.enable", {}),
        ("CSS.enable", {}),
        ("CSS.startRuleUsageTracking", {}),
    ]


@dataclass(slots=True)
class Collector:
    """Hears which style sheets there are, and asks at the end what of them and of the scripts was used."""

    sheets: dict[tuple[str, str], Params] = field(default_factory=dict)

    def hear(self, session: str, method: str, params: Params) -> None:
        """An event of a target."""
        if method == "CSS.styleSheetAdded":
            header = params["header"]
            self.sheets[(session, header["styleSheetId"])] = header

    async def collect(self, protocol: Protocol, sessions: Sequence[str]) -> list[FileUse]:
        """The use of every file that has an address of its own; what stands in a page itself is left out."""
        result: dict[str, FileUse] = {}
        for session in sessions:
            try:
                scripts = await protocol.send("Profiler.takePreciseCoverage", {}, session)
                for script in scripts["result"]:
                    _merge(result, script_use(script))
            except RuntimeError:
                continue  # a kind of target without scripts of this sort, or one that is gone
            try:
                rules = (await protocol.send("CSS.stopRuleUsageTracking", {}, session))["ruleUsage"]
            except RuntimeError:
                continue
            for (owner, key), header in self.sheets.items():
                if owner != session or header.get("isInline") or not header.get("sourceURL", "").startswith("http"):
                    continue
                try:
                    text = (await protocol.send("CSS.getStyleSheetText", {"styleSheetId": key}, session))["text"]
                except RuntimeError:
                    continue
                spans = [(rule["startOffset"], rule["endOffset"]) for rule in rules if rule["styleSheetId"] == key]
                _merge(result, style_use(header["sourceURL"], text, spans))
        return [use for _, use in sorted(result.items())]


def _merge(found: dict[str, FileUse], use: FileUse) -> None:
    if not use.url.startswith("http"):
        return
    known = found.setdefault(use.url, use)
    if known is not use:
        known.used = union([*known.used, *use.used])
        known.length = max(known.length, use.length)


def script_use(script: dict[str, Any]) -> FileUse:
    """From the browser's nested ranges with counts: the innermost range around a place decides."""
    ranges = [entry for function in script["functions"] for entry in function["ranges"]]
    # Outer ranges first, so that inner ones paint over them.
    ranges.sort(key=lambda entry: (entry["startOffset"], -entry["endOffset"]))
    length = max((entry["endOffset"] for entry in ranges), default=0)
    used: list[Span] = []
    open_: list[tuple[int, bool]] = []  # end and whether used
    place = 0

    def until(position: int) -> None:
        nonlocal place
        while open_ and open_[-1][0] <= position:
            end, counts = open_.pop()
            if counts and end > place:
                used.append((place, end))
            place = max(place, end)
        if open_ and open_[-1][1] and position > place:
            used.append((place, position))
        place = max(place, position)

    for entry in ranges:
        until(entry["startOffset"])
        open_.append((entry["endOffset"], entry["count"] > 0))
    until(length)
    return FileUse(script["url"], "scripts", length, union(used))


def style_use(url: str, text: str, spans: Iterable[Span]) -> FileUse:
    """The used rules of a style sheet, with the at-rules around them and those that a browser never reports."""
    wide = Units(text)
    used = union(spans)
    kept = list(used)
    for block in css_blocks(text):
        start, brace, end = wide.at(block.start), wide.at(block.open), wide.at(block.end)
        if block.at in _NEVER_REPORTED and block.at not in _GROUPS:
            kept.append((start, end))
        elif block.at in _GROUPS:
            if block.open == block.end - 1:
                kept.append((start, end))
            elif any(start < last and first < end for first, last in used):
                kept += [(start, brace + 1), (end - 1, end)]
    return FileUse(url, "styles", wide.length, union(kept))


def used_bytes(text: str, use: FileUse) -> int:
    """Bytes in UTF-8 of the used spans of this text."""
    wide = text.encode("utf-16-le", "surrogatepass")
    if len(wide) // 2 == len(text) and text.isascii():
        return min(use.used_length, len(text))
    return sum(len(wide[2 * start : 2 * end].decode("utf-16-le", "replace").encode()) for start, end in use.used)
