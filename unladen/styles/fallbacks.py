"""Font families followed by another one, wherever a style sheet asks for them."""

from __future__ import annotations

import re
from collections.abc import Mapping

from unladen.markup.edits import Edit, apply_edits
from unladen.styles.rules import every, tree

_ASKS = re.compile(r"(?<![\w-])(font-family|font|--[\w-]*font[\w-]*)\s*:\s*([^;{}]*)", re.I)
# What comes right before the families in `font` (CSS Fonts Level 4, 2.8).
_SIZE = re.compile(r"(?:\d[\w.%]*|\)|small|medium|large|smaller|larger|normal)$", re.I)
_GENERIC = re.compile(r"(?<![\w-])(sans-serif|serif|monospace)(?![\w-])", re.I)


def _family(name: str) -> re.Pattern[str]:
    """A family in a list: quoted or not, at its end or before a comma."""
    words = r"\s+".join(re.escape(word) for word in name.split())
    return re.compile(rf"(?<![\w\-\"\'])(?:\"{words}\"|\'{words}\'|{words})(?=\s*(?:,|$|!))", re.I)


def _named(pattern: re.Pattern[str], value: str) -> re.Match[str] | None:
    """Where a value asks for a family: at its start, after a comma, or after the size in `font`."""
    for result in pattern.finditer(value):
        before = value[: result.start()].rstrip()
        if not before or before.endswith(",") or _SIZE.search(before):
            return result
    return None


def with_fallbacks(chars: str, aliases: Mapping[str, str]) -> str:
    """A sheet in which each of these families is followed by its alias wherever a rule asks for it."""
    faces = [(n.block.start, n.block.end) for n in every(tree(chars)) if n.block.at == "@font-face"]
    patterns = {alias: _family(name) for name, alias in aliases.items()}
    edits = []
    for result in _ASKS.finditer(chars):
        if any(start <= result.start() < end for start, end in faces):
            continue
        for alias, pattern in patterns.items():
            if named := _named(pattern, result[2]):
                at = result.start(2) + named.end()
                edits.append(Edit(at, at, f',"{alias}"', slot=alias))
    return apply_edits(chars, edits)


def generic_after(chars: str, family: str) -> str:
    """The generic family that stands behind a family where a sheet asks for it; "" where none does."""
    pattern = _family(family)
    for result in _ASKS.finditer(chars):
        if (named := _named(pattern, result[2])) and (generic := _GENERIC.search(result[2], named.end())):
            return generic[1].lower()
    return ""
