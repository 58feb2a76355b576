"""A transform of each style sheet in a file or page."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from unladen.capture import Exchange
from unladen.capture.mediatypes import is_page
from unladen.markup.edits import Edit, apply_edits
from unladen.markup.references import parse_document
from unladen.remedies.draft import Draft
from unladen.styles.sheets import Sheet, is_sheet, sheets_of

Make = Callable[[str], str]


@dataclass(frozen=True, slots=True)
class _InPage:
    """What stands in the style elements of a page, but for ours; a function for each in turn."""

    makes: tuple[Make, ...]

    def __call__(self, chars: str) -> str:
        elements = [e for e in parse_document(chars).elements if is_sheet(e) and "data-unladen" not in e.attrs]
        edits = []
        for element, make in zip(elements, self.makes, strict=True):
            text = chars[element.end : element.inner_end]
            if (made := make(text)) != text:
                edits.append(Edit(element.end, element.inner_end, made))
        return apply_edits(chars, edits)


def sheets_in(draft: Draft, exchange: Exchange) -> list[Sheet]:
    """The style sheets in a file or page, in order."""
    return [sheet for sheet in sheets_of(draft.texts) if sheet.exchange.url == exchange.url]


def over(exchange: Exchange, makes: list[Make]) -> Make:
    """What makes of a whole file or page what these make of its sheets, one for each."""
    return _InPage(tuple(makes)) if is_page(exchange.media_type) else makes[0]
