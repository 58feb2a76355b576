"""A page without comments that nobody needs, and with little white space between its tags."""

from __future__ import annotations

import re

from unladen.markup.edits import Edit, apply_edits
from unladen.markup.references import parse_document

# Of these the text is no markup, or every space of it shows.
_AS_IT_IS = frozenset(
    {
        "script",
        "style",
        "textarea",
        "pre",
        "xmp",
        "listing",
        "plaintext",
        "title",
        "iframe",
        "noembed",
        "noframes",
        "noscript",
        "template",
        "svg",
        "math",
        "code",
        "samp",
        "select",
        "object",
    }
)
_PART = re.compile(
    r"""(?P<comment><!--(?P<said>(?!>|->).*?)--!?>)
    |(?P<endless><!--(?!-?>))
    |(?P<tag><[/!?A-Za-z][^<>"']*(?:"[^"]*"[^<>"']*|'[^']*'[^<>"']*)*>)
    |(?P<space>[ \t\r\n\f]{2,})""",
    re.S | re.X,
)
# Marks of browsers, servers, search engines and frameworks, and what has to be told to whoever copies the page.
_MARK = re.compile(r"\s*(?:\[|<!|#|/|ko\b|\$|\?|!|noindex|google|wp:)", re.I)
_TOLD = re.compile(r"copyright|licen[sc]e|\(c\)|\u00a9|@preserve", re.I)


def tidied(chars: str) -> str:
    """The shorter text. White space stays where there was some, one character for a run of it between two tags."""
    kept = _kept(chars)
    edits: list[Edit] = []
    place = 0
    after_tag = False
    for start, end in [*kept, (len(chars), len(chars))]:
        while place < start and (match := _PART.search(chars, place, start)) is not None:
            after_tag = after_tag and match.start() == place
            place = match.end()
            if match["endless"] is not None:
                return apply_edits(chars, edits)  # all that follows is a comment
            if match["tag"] is not None:
                after_tag = True
            elif match["comment"] is not None:
                if _MARK.match(match["said"]) or _TOLD.search(match["said"]):
                    after_tag = False
                else:
                    edits.append(Edit(match.start(), match.end(), ""))
            else:
                between = after_tag and chars[place : place + 1] == "<"
                if between:
                    edits.append(Edit(match.start(), match.end(), "\n" if "\n" in match[0] else " "))
                after_tag = between
        place, after_tag = max(place, end), True
    return apply_edits(chars, edits)


def _kept(chars: str) -> list[tuple[int, int]]:
    """The spans of elements that stay as they are, none within another."""
    spans: list[tuple[int, int]] = []
    for element in sorted(parse_document(chars).elements, key=lambda e: e.start):
        if element.tag in _AS_IT_IS and (not spans or element.start >= spans[-1][1]):
            spans.append((element.start, max(element.end, element.inner_end)))
    return spans
