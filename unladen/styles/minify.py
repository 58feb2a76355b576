"""A style sheet without comments and needless white space, by rcssmin; what it says stays, and its guard sees to it."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

import rcssmin  # type: ignore[import-untyped]

from unladen.styles.rules import Node, prelude, tree

_COMMENT = re.compile(r"/\*.*?\*/", re.S)
# Where white space says nothing: in selectors and conditions, and in declarations, where it does around + and -.
_IN_PRELUDES = re.compile(r"\s*([,>+~:=])\s*|(?<=[(\[])\s+|\s+(?=[)\]])")
_IN_RULES = re.compile(r"\s*([;:,!=])\s*|(?<=\()\s+|\s+(?=\))")
_SPACE = re.compile(r"\s+")
_MORE = re.compile(r";+")


def minified(chars: str) -> str:
    """The shorter text, with comments that begin with `/*!`; raises `ValueError` where it would not say the same."""
    result = str(rcssmin.cssmin(chars, keep_bang_comments=True))
    if list(_said(chars, tree(chars))) != list(_said(result, tree(result))):
        raise ValueError("it would not read as before without white space")
    return result


def _said(chars: str, nodes: Iterable[Node]) -> Iterator[str]:
    """Each rule in order: its prelude, and the text of those that hold no others, written alike."""
    for node in nodes:
        yield _alike(prelude(chars, node), _IN_PRELUDES)
        if node.inner:
            yield "{"
            yield from _said(chars, node.inner)
            yield "}"
        elif not node.is_statement:
            yield _alike(chars[node.block.open + 1 : node.block.end - 1], _IN_RULES)


def _alike(text: str, nothing: re.Pattern[str]) -> str:
    plain = _SPACE.sub(" ", _COMMENT.sub(" ", text))
    return _MORE.sub(";", nothing.sub(lambda m: m[1] or "", plain).strip(" ;"))
