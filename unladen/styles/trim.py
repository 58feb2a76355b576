"""Style sheets without the rules that nothing on a site's pages can match.

What stays is as it was, byte for byte, in the order in which it was.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Literal

from unladen.markup.css import css_declaration
from unladen.markup.edits import Edit, apply_edits
from unladen.markup.spans import touching, union
from unladen.styles.rules import GROUPS, KEYFRAMES, Node, every, prelude, tree
from unladen.styles.selectors import Wanted, wanted

# Groups of which an empty one still counts, since it says where its layer comes.
_ORDERS = "@layer"
_COMMENT = re.compile(r"/\*.*?\*/", re.S)
_WORD = re.compile(r"[\w\x80-\U0010ffff-]+")
_CUSTOM = re.compile(r"--[\w\x80-\U0010ffff-]+")
_FACE_FAMILY = re.compile(r"font-family\s*:\s*([^;}]+)", re.I)


@dataclass(frozen=True, slots=True)
class Gone:
    """A part that goes: its span in the text as it was, what it is, and why."""

    start: int
    end: int
    sort: Literal["rule", "selector", "keyframes", "font face", "custom property", "group"]
    what: str
    why: str
    selectors: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Dead:
    """What nothing on the pages can match: `absent` names that are nowhere, and `unmatched` relaxed selectors.

    `keep` are patterns of what stays all the same: texts of selectors, with `*` for anything.
    """

    absent: frozenset[str] = frozenset()
    unmatched: frozenset[str] = frozenset()
    keep: tuple[str, ...] = ()

    def why(self, selector: str) -> str:
        """Why a selector can go, "" if it must stay."""
        asked = wanted(selector)
        if asked is None or any(is_like(pattern, selector) for pattern in self.keep):
            return ""
        for name in asked.names:
            if name.lower() in self.absent:
                return f"no page has {name}"
        return "nothing on any page matches it" if asked.relaxed in self.unmatched else ""


def is_like(pattern: str, selector: str) -> bool:
    """Whether a selector has a part of a pattern with `*` for anything."""
    expression = ".*".join(re.escape(part) for part in pattern.split("*"))
    return re.search(rf"(?<![\w-]){expression}(?![\w-])", selector) is not None if pattern.strip("* ") else False


@dataclass(slots=True)
class Trimmed:
    """A sheet without what is dead, and what went."""

    chars: str
    gone: list[Gone] = field(default_factory=list)


def selectors_in(chars: str) -> Iterator[Wanted]:
    """What the selectors of a sheet ask for, in the order of the text; those that cannot be read are left out."""
    for node in style_rules(chars):
        for start, end in node.selectors:
            if result := wanted(chars[start:end]):
                yield result


def style_rules(chars: str) -> Iterator[Node]:
    """The style rules of a sheet, also those in groups, in the order of the text."""
    yield from _style_rules(tree(chars))


def _style_rules(nodes: Iterable[Node]) -> Iterator[Node]:
    for node in nodes:
        if node.is_style:
            yield node
        elif node.block.at in GROUPS:
            yield from _style_rules(node.inner)


def trimmed(
    chars: str, dead: Dead, named_elsewhere: Callable[[str], bool] = lambda _: True, *, proves: bool = True
) -> Trimmed:
    """A sheet without dead rules, dead selectors of lists, groups left empty, and what only these had named.

    `named_elsewhere` says whether some other text of the site has a name in it, of a custom property, an animation or
    a font family; what it names stays. Raises `ValueError` where the result would not read as the rest of the
    original, if it `proves` it.
    """
    gone: list[Gone] = []
    _walk(chars, tree(chars), dead, gone)
    _unnamed(chars, gone, lambda name: named_elsewhere(name) or any(is_like(pattern, name) for pattern in dead.keep))
    result = apply_edits(chars, [Edit(_with_space(chars, part), part.end, "") for part in gone])
    if proves:
        _expect_the_rest(chars, result, gone)
    return Trimmed(result, sorted(gone, key=lambda part: part.start))


def _with_space(chars: str, part: Gone) -> int:
    """Where a part begins with the white space before it, if it is a rule of its own."""
    if part.sort in ("selector", "custom property"):
        return part.start
    start = part.start
    while start > 0 and chars[start - 1].isspace():
        start -= 1
    return start


def _walk(chars: str, nodes: Iterable[Node], dead: Dead, gone: list[Gone]) -> bool:
    """Whether all of these went."""
    everything = True
    for node in nodes:
        if node.is_style and node.selectors:
            everything &= _rule(chars, node, dead, gone)
        elif node.block.at in GROUPS and node.block.at != "@scope" and not node.is_statement and node.inner:
            here: list[Gone] = []
            if _walk(chars, node.inner, dead, here) and node.block.at != _ORDERS and not _declares(chars, node):
                gone.append(
                    Gone(node.block.start, node.block.end, "group", prelude(chars, node), "all that was in it went")
                )
            else:
                gone += here
                everything = False
        else:
            everything = False
    return everything


def _declares(chars: str, node: Node) -> bool:
    """Whether there is more in a group than the rules that are known."""
    inside = [(node.block.open + 1, node.block.end - 1)]
    beside = _minus(inside, [(inner.block.start, inner.block.end) for inner in node.inner])
    return bool(_COMMENT.sub("", "".join(chars[a:b] for a, b in beside)).strip(" \t\r\n\f;"))


def _rule(chars: str, node: Node, dead: Dead, gone: list[Gone]) -> bool:
    reasons = [dead.why(chars[start:end]) for start, end in node.selectors]
    if all(reasons):
        selectors = tuple(chars[start:end] for start, end in node.selectors)
        gone.append(Gone(node.block.start, node.block.end, "rule", prelude(chars, node), reasons[0], selectors))
        return True
    if any(reasons) and "/*" not in chars[node.block.start : node.block.open]:
        gone += _selectors(chars, node, reasons)
    return False


def _selectors(chars: str, node: Node, reasons: list[str]) -> Iterator[Gone]:
    """Single selectors with a comma beside them; what stays keeps its own white space."""
    stays = [i for i, why in enumerate(reasons) if not why]
    for i, ((start, end), why) in enumerate(zip(node.selectors, reasons, strict=True)):
        if why:
            # With the comma before it, but for those at the head, which take the one behind.
            if i < stays[0]:
                start, end = start, node.selectors[i + 1][0]
            else:
                start = node.selectors[i - 1][1]
            selector = chars[slice(*node.selectors[i])]
            yield Gone(start, end, "selector", selector, why, (selector,))


def _unnamed(chars: str, gone: list[Gone], named_elsewhere: Callable[[str], bool]) -> None:
    """Add keyframes, font faces and custom properties that nothing names any more, until there are none."""
    elsewhere = lru_cache(maxsize=None)(named_elsewhere)
    remaining = _minus([(0, len(chars))], [(part.start, part.end) for part in gone])
    result = [part for part in _definitions(chars) if _stands(remaining, part.start) and not elsewhere(part.what)]
    # A name counts as named by whatever is left beside the places that define it, and by what is named itself.
    rest = _minus(remaining, [(part.start, part.end) for part in result])
    said = _Said("".join(chars[start:end] for start, end in rest))
    defining: dict[str, str] = {}
    for part in result:
        defining[part.what] = defining.get(part.what, "") + chars[part.start : part.end]
    named: set[str] = set()
    new = {name for name in defining if said.names(name)}
    while new:
        named |= new
        said = _Said("".join(defining[name] for name in new))
        new = {name for name in defining.keys() - named if said.names(name)}
    gone += [part for part in result if part.what not in named]


class _Said:
    """A text, asked for many names."""

    def __init__(self, chars: str) -> None:
        self._chars = chars.lower()
        self._words = set(_WORD.findall(self._chars))

    def names(self, name: str) -> bool:
        """Whether it has a name in it, as a word or as several."""
        wanted = name.lower()
        return wanted in self._words if _WORD.fullmatch(wanted) else wanted in self._chars


def defined_names(chars: str) -> frozenset[str]:
    """The names of custom properties, keyframes and font families that a sheet defines, in lower case."""
    return frozenset(part.what.lower() for part in _definitions(chars))


def _definitions(chars: str) -> Iterator[Gone]:
    for node in every(tree(chars)):
        if node.block.at in KEYFRAMES and (name := prelude(chars, node).partition(" ")[2].strip().strip("\"'")):
            yield Gone(node.block.start, node.block.end, "keyframes", name, "no rule that is left plays them")
        elif node.block.at == "@font-face" and (name := _family(chars, node)):
            yield Gone(node.block.start, node.block.end, "font face", name, "no rule that is left asks for it")
    for start, end, name in _properties(chars):
        yield Gone(start, end, "custom property", name, "nothing names it")


def _family(chars: str, face: Node) -> str:
    match = _FACE_FAMILY.search(chars, face.block.open, face.block.end)
    return match[1].strip().strip("\"'") if match else ""


def _properties(chars: str) -> Iterator[tuple[int, int, str]]:
    """Declarations of custom properties with their semicolons."""
    for match in _CUSTOM.finditer(chars):
        if chars[match.end() : match.end() + 50].lstrip().startswith(":"):
            span = css_declaration(chars, match.start())
            if span and span[0] == match.start():
                yield span[0], span[1] + (chars[span[1]] == ";"), match[0]


def _minus(spans: Iterable[tuple[int, int]], cut: Iterable[tuple[int, int]]) -> list[tuple[int, int]]:
    """Spans without what others cover, in order."""
    taken = union(cut)
    remaining = []
    for start, end in spans:
        place = start
        for a, b in touching(taken, start, end):
            if a > place:
                remaining.append((place, a))
            place = max(place, b)
        if place < end:
            remaining.append((place, end))
    return remaining


def _stands(left: list[tuple[int, int]], place: int) -> bool:
    return bool(touching(left, place, place + 1))


def _expect_the_rest(before: str, after: str, gone: Iterable[Gone]) -> None:
    cut = union((part.start, part.end) for part in gone)
    if list(_said(before, tree(before), cut)) != list(_said(after, tree(after), [])):
        raise ValueError("the style sheet would not read as before without what goes")


def _said(chars: str, nodes: Iterable[Node], cut: list[tuple[int, int]]) -> Iterator[tuple[str, ...]]:
    """What a sheet says without some spans: each rule with its own selectors and text, in order."""
    for node in nodes:
        block = node.block
        if any(a <= block.start and block.end <= b for a, b in touching(cut, block.start, block.end)):
            continue
        selectors = [chars[a:b] for a, b in node.selectors if not touching(cut, a, b)]
        yield (block.at, *(selectors if selectors else [chars[block.start : block.open].strip()]))
        if block.at in GROUPS and not node.is_statement:
            yield from _said(chars, node.inner, cut)
            yield ("end",)
        else:
            spans = _minus([(block.open, block.end)], touching(cut, block.open, block.end))
            yield ("".join(chars[a:b] for a, b in spans),)
