"""Scripts as trees of what is written in them."""

from __future__ import annotations

from collections.abc import Iterator

import tree_sitter_javascript
from tree_sitter import Language, Node, Parser

_LANGUAGE = Language(tree_sitter_javascript.language())


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
