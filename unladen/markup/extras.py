"""Parts of a page that a platform writes and that no browser, reader or search engine of today needs; told by what
they do.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from unladen.markup.html import Document, Element

Sort = Literal["old browsers", "generator", "remote editing", "discovery of embeds", "feed of comments"]
# Comments that Internet Explorer up to 9 read as markup; the other sort shows what it holds to everybody.
_CONDITIONAL = re.compile(r"<!--\[if\b[^\]]*\]>(?!\s*-->|<!-->).*?<!\[endif\]-->", re.S | re.I)
_OLD_META = {"x-ua-compatible", "imagetoolbar", "cleartype", "mssmarttagspreventparsing"}
_FEEDS = ("application/rss+xml", "application/atom+xml")


@dataclass(frozen=True, slots=True)
class Extra:
    """A part that could go: its span in the text, and of what sort it is."""

    start: int
    end: int
    sort: Sort


def extras_in(document: Document) -> list[Extra]:
    """All of them in the order of the text, none within another."""
    result = [Extra(e.start, e.end, sort) for e in document.elements if (sort := _sort_of(e))]
    result += _comments(document)
    ordered: list[Extra] = []
    for extra in sorted(result, key=lambda each: each.start):
        if not ordered or extra.start >= ordered[-1].end:
            ordered.append(extra)
    return ordered


def _comments(document: Document) -> Iterator[Extra]:
    # Within scripts and the like such a text is something else.
    spans = [(e.end, e.inner_end) for e in document.elements if e.tag in ("script", "style", "textarea", "title")]
    for match in _CONDITIONAL.finditer(document.chars):
        if not any(start <= match.start() < end for start, end in spans):
            yield Extra(match.start(), match.end(), "old browsers")


def _sort_of(element: Element) -> Sort | None:
    attrs = element.attrs
    if element.inert:
        return None
    if element.tag == "meta":
        if attrs.get("name", "").lower() == "generator":
            return "generator"
        named = attrs.get("http-equiv") or attrs.get("name") or ""
        return "old browsers" if named.lower() in _OLD_META else None
    if element.tag != "link":
        return None
    relation, sort = attrs.get("rel", "").lower().split(), attrs.get("type", "").lower().strip()
    if relation in (["edituri"], ["wlwmanifest"]):
        return "remote editing"
    if relation == ["alternate"] and sort.endswith("+oembed"):
        return "discovery of embeds"
    if relation == ["alternate"] and sort in _FEEDS and "/comments/" in attrs.get("href", "").lower():
        return "feed of comments"
    return None
