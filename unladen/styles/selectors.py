"""What a selector asks for (Selectors Level 4): a wider one that a page can be asked for, and the names that it
needs.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

_COMMENT = re.compile(r"/\*.*?\*/", re.S)
# Letters, digits, "_", "-" and all beyond ASCII, by what is none of them: a set with so much in it compiles slowly.
_NAMED = r"[^\x00-,./:-@\[-\^`{-\x7f]"
_CHAR = rf"{_NAMED}|\\[0-9a-fA-F]{{1,6}}\s?|\\[^\n]"
_IDENT = rf"-?(?:(?![\d-])(?:{_CHAR}))(?:{_CHAR})*+|--(?:{_CHAR})*+"
_PART = re.compile(
    rf"""(?P<space>\s*(?P<combinator>[>+~]|\|\|)\s*|\s+)
    |(?P<universal>\*)
    |\#(?P<id>(?:{_CHAR})++)
    |\.(?P<class>{_IDENT})
    |\[\s*(?P<attribute>{_IDENT})\s*(?:(?P<how>[~|^$*]?=)\s*(?P<value>"(?:[^"\\\n]|\\.)*"|'(?:[^'\\\n]|\\.)*'|{_IDENT})\s*(?P<flag>[iIsS])?\s*)?\]
    |(?P<pseudo>::?)(?P<name>{_IDENT})(?P<open>\()?
    |(?P<tag>{_IDENT})""",
    re.X | re.S,
)
_ESCAPE = re.compile(r"\\(?:([0-9a-fA-F]{1,6})\s?|(.))", re.S)
_SOME_OF = frozenset({"is", "where", "matches", "any", "-webkit-any", "-moz-any"})
# What is about trees of their own, which are not looked at.
_ELSEWHERE = frozenset({"host", "host-context", "slotted", "part", "scope"})
# Values of these are part of the document; of all others scripts make states.
_OF_THE_DOCUMENT = frozenset({"class", "id", "href", "src", "type", "lang", "rel", "name"})


@dataclass(frozen=True, slots=True)
class Wanted:
    """What a selector asks for.

    `relaxed` matches whatever the selector matches in any state, and more. `names` are what has to be in the page for
    that: `.class`, `#id`, `tag`, `[attribute]`.
    """

    relaxed: str
    names: tuple[str, ...]


def split_list(chars: str, start: int, end: int) -> tuple[tuple[int, int], ...]:
    """The spans of the selectors of a list, without white space and comments around them."""
    text = _COMMENT.sub(lambda m: " " * len(m[0]), chars[start:end])
    cuts, depth, place = [-1], 0, 0
    while place < len(text):
        c = text[place]
        if c == "\\":
            place += 1
        elif c in "\"'":
            close = place + 1
            while close < len(text) and text[close] != c:
                close += 2 if text[close] == "\\" else 1
            place = close
        elif c in "([":
            depth += 1
        elif c in ")]":
            depth -= 1
        elif c == "," and depth <= 0:
            cuts.append(place)
        place += 1
    cuts.append(len(text))
    spans = []
    for before, after in pairwise(cuts):
        piece = text[before + 1 : after]
        bare = piece.strip()
        begin = before + 1 + len(piece) - len(piece.lstrip())
        spans.append((start + begin, start + begin + len(bare)))
    return tuple(spans)


def unescaped(name: str) -> str:
    """A name as it stands in the document."""
    return _ESCAPE.sub(lambda m: chr(min(int(m[1], 16), 0x10FFFF) or 0xFFFD) if m[1] else m[2], name)


@lru_cache(maxsize=20_000)
def wanted(selector: str) -> Wanted | None:
    """What a selector asks for; None for one that cannot be read, or that is about other trees or other rules."""
    return _wanted(_COMMENT.sub(" ", selector).strip(), 0)


def _wanted(selector: str, depth: int) -> Wanted | None:
    if not selector or depth > 8:
        return None
    out: list[str] = []
    names: list[str] = []
    compound: list[str] = []
    place = 0
    read = False  # whether there is anything in this compound, left out or not
    while place < len(selector):
        match = _PART.match(selector, place)
        if match is None:
            return None
        place = match.end()
        if match["space"] is not None:
            if not read or match["combinator"] == "||":
                return None  # relative, or two combinators
            out += ["".join(compound) or "*", f" {match['combinator']} " if match["combinator"] else " "]
            compound.clear()
            read = False
            continue
        if match["universal"]:
            if selector[place : place + 1] == "|":
                return None  # namespaces
            compound.append("*")
        elif match["id"]:
            names.append("#" + unescaped(match["id"]))
            compound.append(match[0])
        elif match["class"]:
            names.append("." + unescaped(match["class"]))
            compound.append(match[0])
        elif match["attribute"]:
            attribute = unescaped(match["attribute"]).lower()
            names.append(f"[{attribute}]")
            known = attribute in _OF_THE_DOCUMENT and match["how"]
            compound.append(match[0] if known else f"[{match['attribute']}]")
        elif match["pseudo"]:
            name = match["name"].lower()
            inner, place = _argument(selector, place) if match["open"] else ("", place)
            if inner is None or name in _ELSEWHERE:
                return None
            if match["pseudo"] == ":" and name in _SOME_OF:
                spans = split_list(inner, 0, len(inner))
                parts = [_wanted(inner[a:b], depth + 1) for a, b in spans]
                if any(part is None for part in parts):
                    return None
                result = [part for part in parts if part is not None]
                compound.append(f":is({','.join(part.relaxed for part in result)})")
                if len(result) == 1:
                    names.extend(result[0].names)
        else:
            if selector[place : place + 1] == "|" or compound:
                return None
            names.append(unescaped(match["tag"]).lower())
            compound.append(match[0])
        read = True
    if not read:
        return None
    return Wanted("".join([*out, "".join(compound) or "*"]), tuple(dict.fromkeys(names)))


def _argument(selector: str, place: int) -> tuple[str | None, int]:
    """What stands in the parenthesis that is open at a place, and where it ends."""
    depth, here = 1, place
    while here < len(selector):
        c = selector[here]
        if c == "\\":
            here += 1
        elif c in "\"'":
            here += 1
            while here < len(selector) and selector[here] != c:
                here += 2 if selector[here] == "\\" else 1
        elif c == "(":
            depth += 1
        elif c == ")":
            depth -= 1
            if depth == 0:
                return selector[place:here], here + 1
        here += 1
    return None, here
