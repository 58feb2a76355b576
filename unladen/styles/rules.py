"""The rules of a style sheet with their places (CSS Syntax Level 3)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from functools import lru_cache

from unladen.markup.css import CssBlock, css_blocks
from unladen.styles.selectors import split_list

# At-rules that hold rules of the same sort as stand outside.
GROUPS = frozenset(
    {"@media", "@supports", "@layer", "@container", "@scope", "@starting-style", "@document", "@-moz-document"}
)
_DEEPEST = 40  # what lies deeper is taken as a part of what holds it
KEYFRAMES = frozenset({"@keyframes", "@-webkit-keyframes", "@-moz-keyframes", "@-o-keyframes"})


@dataclass(slots=True)
class Node:
    """A rule or at-rule: its block, and the ones in it in their order.

    `selectors` of a style rule are the spans of its selectors in the text, without white space around them.
    """

    block: CssBlock
    inner: list[Node] = field(default_factory=list)
    selectors: tuple[tuple[int, int], ...] = ()

    @property
    def is_style(self) -> bool:
        """Whether it is a style rule."""
        return not self.block.at

    @property
    def is_statement(self) -> bool:
        """Whether it ends with a semicolon instead of a block."""
        return self.block.open == self.block.end - 1


@lru_cache(maxsize=32)
def tree(chars: str) -> tuple[Node, ...]:
    """The outermost rules with those in them; what is broken is left out, as a browser does. Not to be altered."""
    roots: list[Node] = []
    waiting: dict[int, list[Node]] = {}
    for block in css_blocks(chars):  # each after those within it
        if block.depth > _DEEPEST:
            continue
        node = Node(block, waiting.pop(block.depth + 1, []))
        if node.is_style:
            node.selectors = split_list(chars, block.start, block.open)
        (waiting.setdefault(block.depth, []) if block.depth else roots).append(node)
    return tuple(roots)


def every(nodes: Iterable[Node]) -> Iterator[Node]:
    """These and all that are in them, in the order of the text."""
    for node in nodes:
        yield node
        yield from every(node.inner)


def prelude(chars: str, node: Node) -> str:
    """What stands before the brace or semicolon, without white space around it."""
    return chars[node.block.start : node.block.open].strip()
