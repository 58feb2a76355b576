"""The rules of a style sheet that the first view of a page needs."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator
from functools import lru_cache

from unladen.markup.css import css_declaration, css_urls
from unladen.markup.edits import Edit, apply_edits
from unladen.styles.minify import minified
from unladen.styles.rules import GROUPS, Node, prelude, tree
from unladen.styles.selectors import wanted

# Of these a sheet that comes later says all that is to be said: files, and what moves.
_LATER = frozenset({"@import", "@charset", "@namespace", "@font-face", "@page", "@property", "@counter-style"})


def first_rules(chars: str, matching: Collection[str]) -> str:
    """Rules with a relaxed selector among these, or with one that cannot be read, in their groups and their order;
    without what names files. Written short. Raises `ValueError` where the result cannot be read as what it is.
    """
    return _rules(chars, frozenset(matching))


@lru_cache(maxsize=64)
def _rules(chars: str, matching: frozenset[str]) -> str:
    text = "".join(_first(chars, tree(chars), matching))
    return minified(text) if text else ""


def _first(chars: str, nodes: Iterable[Node], matching: frozenset[str]) -> Iterator[str]:
    for node in nodes:
        at = node.block.at
        if node.is_style:
            selectors = [chars[start:end] for start, end in node.selectors]
            kept = [text for text in selectors if (asked := wanted(text)) is None or asked.relaxed in matching]
            body = _without_files(chars[node.block.open : node.block.end]) if kept else ""
            if body.strip("{} \t\r\n\f;"):
                yield f"{','.join(kept)}{body}\n"
        elif at in GROUPS and not node.is_statement:
            inner = "".join(_first(chars, node.inner, matching))
            if inner or at == "@layer":
                yield f"{prelude(chars, node)}{{{inner}}}\n"
        elif at == "@layer":
            yield chars[node.block.start : node.block.end] + "\n"


def _without_files(body: str) -> str:
    """A block without declarations that name a file."""
    spans = {css_declaration(body, result.start) for result in css_urls(body)}
    if None in spans:
        return ""
    return apply_edits(body, [Edit(start, end, "") for start, end in sorted(span for span in spans if span)])
