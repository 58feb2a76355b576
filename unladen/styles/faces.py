"""Faces of fonts in style sheets: a smaller file for some characters, the one as found for all others."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Iterator

from unladen.markup.css import css_declaration, css_urls
from unladen.markup.edits import Edit, apply_edits
from unladen.markup.references import resolve
from unladen.styles.rules import Node, every, tree

_FORMAT = re.compile(r"\s*(?:format|tech)\(\s*[^)]*\)", re.I)
_DISPLAY = re.compile(r"font-display\s*:\s*([A-Za-z]+)", re.I)
_RANGE = re.compile(r"unicode-range\s*:\s*", re.I)


def faces_of(chars: str, base: str, urls: Collection[str]) -> Iterator[Node]:
    """The font faces of a sheet, whose addresses count from `base`, that name a file by one of its addresses."""
    for node in every(tree(chars)):
        if node.block.at == "@font-face" and not node.is_statement and _entry(chars, node, base, urls):
            yield node


def range_of(chars: str, face: Node) -> str:
    """The characters that a face says it is for, "" for all."""
    span = _range(chars, face)
    return _RANGE.sub("", chars[span[0] : span[1]]).strip() if span else ""


def with_smaller(
    chars: str,
    base: str,
    urls: Collection[str],
    link: str,
    parts: Callable[[str], tuple[str, str]],
    *,
    before: bool = False,
) -> str:
    """Each face that names a file becomes one that names `link`, of WOFF2, in its place, and one as it was.

    `parts` gives their `unicode-range`s for that of the face as found ("" for all); without a second one the first
    stands alone, for all that the face as found is for. `before`: the file as found stays in the list behind the
    other one.
    """
    edits = []
    for face in faces_of(chars, base, urls):
        entry = _entry(chars, face, base, urls)
        assert entry is not None
        start, end = face.block.start, face.block.end
        ranges = range_of(chars, face)
        kept, left = parts(ranges)
        inner = [Edit(*entry, f'url("{link}") format("woff2")' + (f",{chars[slice(*entry)]}" if before else ""))]
        first = _shifted(chars, face, [*inner, *(_ranged(chars, face, kept) if left else [])])
        second = _shifted(chars, face, _ranged(chars, face, left)) if left else ""
        edits.append(Edit(start, end, first + second))
    return apply_edits(chars, edits)


def shown_at_once(chars: str, base: str, urls: Collection[str], display: str) -> str:
    """Each face that names one of these files says how its text shows until that is there (CSS Fonts Level 4, 4.11
    "font-display"), unless it has said so itself; `auto` and `block` say no more than nothing.
    """
    edits = []
    for face in faces_of(chars, base, urls):
        match = _DISPLAY.search(chars, face.block.open, face.block.end)
        if match is None:
            edits.append(_last(chars, face, f"font-display:{display}"))
        elif match[1].lower() in ("auto", "block"):
            edits.append(Edit(*match.span(1), display))
    return apply_edits(chars, edits)


def _last(chars: str, face: Node, declaration: str) -> Edit:
    """The edit that puts a declaration at the end of a face."""
    end = face.block.end - 1
    mark = "" if chars[face.block.open + 1 : end].rstrip().endswith((";", "{")) else ";"
    return Edit(end, end, f"{mark}{declaration}")


def _shifted(chars: str, face: Node, edits: list[Edit]) -> str:
    start = face.block.start
    moved = [Edit(edit.start - start, edit.end - start, edit.text) for edit in edits]
    return apply_edits(chars[start : face.block.end], moved)


def _ranged(chars: str, face: Node, characters: str) -> list[Edit]:
    span = _range(chars, face)
    if span:
        return [Edit(*span, f"unicode-range:{characters}")]
    return [_last(chars, face, f"unicode-range:{characters}")]


def _range(chars: str, face: Node) -> tuple[int, int] | None:
    match = _RANGE.search(chars, face.block.open, face.block.end)
    return css_declaration(chars, match.start()) if match else None


def _entry(chars: str, face: Node, base: str, urls: Collection[str]) -> tuple[int, int] | None:
    """Where a face names a file, with its format."""
    text = chars[face.block.start : face.block.end]
    for result in css_urls(text):
        if resolve(base, result.value) in urls:
            begin = text.lower().rfind("url(", 0, result.start + 1)
            close = text.find(")", result.end)
            if begin >= 0 and close >= 0:
                more = _FORMAT.match(text, close + 1)
                return face.block.start + begin, face.block.start + (more.end() if more else close + 1)
    return None
