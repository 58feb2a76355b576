"""Sizes that were derived from one picture, as content systems and cameras' tools make them: told by name and shape."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable

# Endings of a file's stem that state a size: -300x200, _800w, -1024, @2x, -scaled, -small (common practice, no source).
_SIZE = re.compile(r"(?:[-_.@](?:\d{2,5}x\d{2,5}|\d{2,5}w?|[1-4]x|scaled|thumb(?:nail)?|small|medium|large))+$", re.I)
_SAME_SHAPE = 0.02


def stem_of(path: str) -> str:
    """A path without its extension and without what states a size."""
    stem, _, extension = path.rpartition(".")
    return f"{_SIZE.sub('', stem)}.{extension.lower()}"


def families(images: Iterable[tuple[str, int, int]]) -> dict[str, str]:
    """For (path, width, height) in px: which family each path of one belongs to, named by its largest member.

    Members have the same stem and shape; a crop is a picture of its own.
    """
    by_stem: dict[str, list[tuple[str, int, int]]] = defaultdict(list)
    for path, width, height in images:
        if width and height:
            by_stem[stem_of(path)].append((path, width, height))
    families: dict[str, str] = {}
    for members in by_stem.values():
        remaining = sorted(members, key=lambda m: (-m[1] * m[2], m[0]))
        while remaining:
            head = remaining[0]
            same = [m for m in remaining if abs(m[1] * head[2] / (m[2] * head[1]) - 1) <= _SAME_SHAPE]
            remaining = [m for m in remaining if m not in same]
            if len({m[1] for m in same}) > 1:
                families |= dict.fromkeys((m[0] for m in same), head[0])
    return families
