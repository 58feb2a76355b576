"""What a site calls itself."""

from __future__ import annotations

import html

from unladen.capture import Capture
from unladen.markup.references import parse_document
from unladen.markup.text import Undecodable, decode, without_surrogates

_LONGEST = 80


def title_of(capture: Capture) -> str:
    """The title of the first page, or "" when it has none that can be read."""
    page = capture.pages()[0]
    try:
        chars = decode(capture.body(page)).chars
    except Undecodable:
        return ""
    for element in parse_document(chars).elements:
        if element.tag == "title" and not element.inert:
            words = html.unescape(without_surrogates(chars[element.end : element.inner_end])).split()
            return " ".join(words)[:_LONGEST]
    return ""
