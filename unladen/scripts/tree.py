"""Scripts as trees of what is written in them."""

from __future__ import annotations

from collections.abc import Iterator

import tree_sitter_javascript
from tree_sitter import Language, Node, Parser

_LANGUAGE = Language(tree_sitter_javascript.language())


FUNCTIONS = frozenset({
    "function_declaration", "function_expression", "arrow_function", "method_definition", "generator_function",
    "generator_function_declaration",
})  # fmt: skip
_PATTERNS = ("identifier", "shorthand_property_identifier_pattern")


def parsed(data: bytes) -> Node:
    """The root of a script in UTF-8; `has_error` says whether something in it cannot be read."""
    return Parser(_LANGUAGE).parse(data).root_node


def walk(root: Node) -> Iterator[Node]:
    """All nodes, outer ones first."""
    cursor = root.walk()
    while True:
        node = cursor.node
        assert node is not None
        yield node
        if cursor.goto_first_child():
            continue
        while not cursor.goto_next_sibling():
            if not cursor.goto_parent():
                return


def names_in(pattern: Node) -> Iterator[bytes]:
    """All names in a pattern, also those that it only uses."""
    waiting = [pattern]
    while waiting:
        here = waiting.pop()
        if here.type in _PATTERNS and here.text:
            yield here.text
        waiting.extend(here.children)
