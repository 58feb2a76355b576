"""The names that pages and scripts use, so far as a text tells: what may come about at run time stays.

A script can only bring about a class, an id or a tag that it can spell, in one piece or from parts.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache

_WORD = re.compile(r"[A-Za-z_\x80-\U0010ffff](?:[\w\x80-\U0010ffff]|-(?!->))*+|(?<![\w-])-[A-Za-z_][\w-]*+|--[\w-]+")
_IN_MARKUP = re.compile(r"""\b(?:class|id|data-[\w-]+)\s*=\s*(?:"([^"]*)"|'([^']*)'|([^\s"'>]+))""", re.I)
_TAG = re.compile(r"<([A-Za-z][\w-]*)")
_SPLIT = re.compile(r"[\s,;:.#\[\]()'\"]+")
# Parts of names, such as `is-` and `-open`; shorter ones, and those with more marks, are arithmetic.
_START, _END = re.compile(r"[^-].*[^-_][-_]", re.S), re.compile(r"-[^-].{2,}", re.S)
_CAMEL = re.compile(r"-([a-z])")


@dataclass(frozen=True, slots=True)
class Names:
    """Names in lower case; those that begin or end with one of `starts` or `ends` may be made of parts."""

    whole: frozenset[str] = frozenset()
    starts: tuple[str, ...] = ()
    ends: tuple[str, ...] = ()

    def may_name(self, wanted: str) -> bool:
        """Whether what a selector wants (`.class`, `#id`, `tag`, `[attribute]`) may be named by these."""
        name = wanted.strip(".#[]").lower()
        if name in self.whole or name.startswith(self.starts) or name.endswith(self.ends):
            return True
        if wanted.startswith("[data-"):
            return _CAMEL.sub(lambda m: m[1].upper(), name.removeprefix("data-")).lower() in self.whole
        return False


@lru_cache(maxsize=256)
def names_in_script(chars: str) -> Names:
    """All words of a script, also those in its comments: what is named there is kept."""
    words = {match[0].lower() for match in _WORD.finditer(chars)}
    return Names(
        frozenset(words),
        tuple(sorted(word for word in words if _START.fullmatch(word))),
        tuple(sorted(word for word in words if _END.fullmatch(word))),
    )


@lru_cache(maxsize=256)
def names_in_markup(chars: str) -> Names:
    """Classes, ids and tags of a page wherever they stand: in templates, comments and what waits for scripts to be
    off too.
    """
    words: set[str] = {tag.lower() for tag in _TAG.findall(chars)}
    for match in _IN_MARKUP.finditer(chars):
        words.update(_SPLIT.split((match[1] or match[2] or match[3] or "").lower()))
    return Names(frozenset(words - {""}))


def names_of(every: Iterable[Names]) -> Names:
    """All of them together."""
    whole: set[str] = set()
    starts: set[str] = set()
    ends: set[str] = set()
    for names in every:
        whole |= names.whole
        starts.update(names.starts)
        ends.update(names.ends)
    return Names(frozenset(whole), tuple(sorted(starts)), tuple(sorted(ends)))
