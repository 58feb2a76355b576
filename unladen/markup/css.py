"""Addresses in style sheets, with their positions."""

from __future__ import annotations

import bisect
import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

# Tokens of CSS Syntax Level 3 as far as addresses and block structure need them. Nothing in it goes back over what it
# has read (possessive), and what is broken is taken whole as the standard has it, so that hostile text takes no
# longer.
_TOKEN = re.compile(
    r"""(?P<comment>/\*.*?(?:\*/|\Z))
    |(?P<url>url\(\s*+(?:"(?P<dq>(?:\\.|[^"\\\n])*+)"|'(?P<sq>(?:\\.|[^'\\\n])*+)'|(?P<bare>(?:\\[0-9a-f]{1,6}+\s?|\\.|[^()"'\\\s])*+))\s*+(?:\)|\Z))
    |(?P<bad>url\(\s*+(?!["'])(?:\\.?|[^)\\])*+(?:\)|\Z))
    |(?P<string>"(?P<sdq>(?:\\.|[^"\\\n])*+)(?:"|(?=\n)|\\?\Z)|'(?P<ssq>(?:\\.|[^'\\\n])*+)(?:'|(?=\n)|\\?\Z))
    |(?P<at>@[-\w]+)
    |(?P<set>(?:-webkit-)?image-set\()
    |(?P<name>(?:[-\w]|[^\x00-\x7f]|\\(?:[0-9a-f]{1,6}+\s?|[^\n]))++)
    |(?P<punct>[{};()])
    |(?P<other>[^{};()"'/\\@\w\x80-\U0010ffff-]++|.)""",
    re.S | re.I | re.X,
)
_BACKGROUND_PART = re.compile(r"background(-[a-z]+)*\s*:", re.I)
_BACKGROUND = re.compile(r"\s*background(?:-image)?\s*:", re.I)
_COMMENT = re.compile(r"/\*.*?\*/", re.S)
_ESCAPE = re.compile(r"\\(?:([0-9a-fA-F]{1,6})\s?|(.))", re.S)


@dataclass(frozen=True, slots=True)
class CssUrl:
    """An address in a style sheet: its unescaped value and where its raw text stands, without quotes."""

    value: str
    start: int
    end: int
    imported: bool


def _unescape(raw: str) -> str:
    return _ESCAPE.sub(lambda m: _char(int(m[1], 16)) if m[1] else m[2], raw)


def _char(number: int) -> str:
    """CSS Syntax 4.3.7: what is no character, or half of one, is replaced."""
    return "\ufffd" if number == 0 or 0xD800 <= number <= 0xDFFF or number > 0x10FFFF else chr(number)


def identifier(name: str) -> str:
    """A name as it stands in a selector (CSSOM, 2.1 "serialize an identifier")."""
    result = []
    for index, char in enumerate(name):
        code = ord(char)
        led = index == 0 or (index == 1 and name[0] == "-")
        if code == 0:
            result.append("\ufffd")
        elif code < 0x20 or code == 0x7F or (char.isascii() and char.isdigit() and led):
            result.append(f"\\{code:x} ")
        elif name == "-" or not (code >= 0x80 or char in "-_" or char.isalnum()):
            result.append("\\" + char)
        else:
            result.append(char)
    return "".join(result)


@lru_cache(maxsize=64)  # sheets are asked again for every plan that is tried
def css_urls(chars: str) -> tuple[CssUrl, ...]:
    """All addresses: in url(), in image-set() strings and in @import."""
    return tuple(_css_urls(chars))


def _css_urls(chars: str) -> Iterator[CssUrl]:
    importing = False
    sets: list[bool] = []
    for token in _TOKEN.finditer(chars):
        kind = token.lastgroup
        if token.group("url") is not None:
            group = next(g for g in ("dq", "sq", "bare") if token.group(g) is not None)
            yield CssUrl(_unescape(token.group(group)), *token.span(group), importing)
        elif token.group("string") is not None:
            if importing or any(sets):
                group = "sdq" if token.group("sdq") is not None else "ssq"
                yield CssUrl(_unescape(token.group(group)), *token.span(group), importing)
                importing = False
        elif kind == "at":
            importing = token.group().lower() == "@import"
        elif kind == "set":
            sets.append(True)
        elif kind == "punct":
            mark = token.group()
            if mark == "(":
                sets.append(False)
            elif mark == ")" and sets:
                sets.pop()
            elif mark in "{};":
                importing = False
                sets.clear()


def selector_before(chars: str, rule: CssBlock) -> str:
    """The selector of a rule, without comments."""
    return _COMMENT.sub("", chars[rule.start : rule.open]).strip()


@dataclass(frozen=True, slots=True)
class CssBlock:
    """A rule or at-rule: `start` is where its prelude begins, `open` its brace, `end` after the closing one.

    A statement without a block, such as `@import`, has `open` at its semicolon. `at` is the lower-case at-keyword or
    "".
    """

    start: int
    open: int
    end: int
    at: str
    depth: int


def css_blocks(chars: str) -> Iterator[CssBlock]:
    """All rules and at-rules, each after those within it."""
    above: list[tuple[int, int, str]] = []
    start, at = -1, ""
    for token in _TOKEN.finditer(chars):
        mark = token.group()
        if token.lastgroup == "comment" or (start < 0 and mark.isspace()):
            continue
        if token.lastgroup == "punct" and mark == "{":
            above.append((start if start >= 0 else token.start(), token.start(), at))
            start, at = -1, ""
        elif token.lastgroup == "punct" and mark == "}":
            if above:
                begin, brace, name = above.pop()
                yield CssBlock(begin, brace, token.end(), name, len(above))
            start, at = -1, ""
        elif token.lastgroup == "punct" and mark == ";":
            if at:
                yield CssBlock(start, token.start(), token.end(), at, len(above))
            start, at = -1, ""
        elif start < 0:
            start = token.start() + len(mark) - len(mark.lstrip())
            at = mark.lower() if token.lastgroup == "at" else ""


class _Layout:
    """Where a sheet's declarations and blocks are, for many questions about it."""

    def __init__(self, chars: str) -> None:
        self.marks: list[int] = []
        self.begins: list[int] = []
        start, depth = 0, 0
        for token in _TOKEN.finditer(chars):
            mark = token.group()
            if token.lastgroup != "punct":
                continue
            if mark in "()":
                depth += 1 if mark == "(" else -1
            elif depth <= 0 or mark in "{}":
                self.begins.append(start)
                self.marks.append(token.start())
                start, depth = token.end(), 0
        self.blocks = sorted((b for b in css_blocks(chars) if chars[b.open] == "{"), key=lambda block: block.open)
        self.opens = [block.open for block in self.blocks]
        self.around: list[int] = []
        open_: list[int] = []
        for n, block in enumerate(self.blocks):
            while open_ and self.blocks[open_[-1]].end <= block.open:
                open_.pop()
            self.around.append(open_[-1] if open_ else -1)
            open_.append(n)

    def inside(self, position: int) -> list[CssBlock]:
        """The blocks that a position lies in, the innermost first."""
        parts = []
        n = bisect.bisect_left(self.opens, position) - 1
        while n >= 0:
            if position < self.blocks[n].end:
                parts.append(self.blocks[n])
            n = self.around[n]
        return parts


# Sheets are asked about one after the other, each many times.
_layout = lru_cache(maxsize=4)(_Layout)


def css_declaration(chars: str, position: int) -> tuple[int, int] | None:
    """Where the declaration that holds a position starts and ends, without its semicolon; None outside of one."""
    layout = _layout(chars)
    n = bisect.bisect_left(layout.marks, position)
    if n == len(layout.marks):
        return None
    start, mark = layout.begins[n], layout.marks[n]
    begin = start + len(chars[start:mark]) - len(chars[start:mark].lstrip())
    return (begin, mark) if chars[mark] in ";}" and ":" in chars[begin:mark] else None


def background_rule(chars: str, position: int, *, layers: bool = False) -> tuple[CssBlock, str] | None:
    """The style rule whose only background is named at a position, and that declaration; None for all else.

    `layers`: gradients may lie over it.
    """
    span = css_declaration(chars, position)
    inside = _layout(chars).inside(position)
    if span is None or not inside:
        return None
    rule = inside[0]
    declaration = chars[span[0] : span[1]]
    above = r"image-set\(" if layers else r"gradient\(|image-set\("
    plain = not re.search(above, declaration, re.I) and declaration.lower().count("url(") == 1
    if rule.at or any(not block.at for block in inside if block is not rule):
        return None  # a nested rule, or one such as @font-face
    return (rule, declaration) if plain and _BACKGROUND.match(declaration) else None


def backgrounds_in(chars: str, rule: CssBlock) -> list[tuple[int, int]]:
    """Where the declarations of a rule that say something of its background start and end, in their order."""
    backgrounds, position = [], rule.open + 1
    while (span := css_declaration(chars, position)) and span[1] < rule.end:
        if _BACKGROUND_PART.match(chars, span[0]):
            backgrounds.append(span)
        position = span[1] + 1
    return backgrounds
