"""What edits may do to a text, by its media type.

Each guard returns the new text or raises `ValueError` with the reason.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Collection, Sequence

from unladen.capture.mediatypes import is_page
from unladen.markup.css import css_urls
from unladen.markup.edits import Edit, apply_edits
from unladen.markup.html import MarkupBroken, edit_html, same_elements

# What may not stand in an address without quotes (CSS Syntax Level 3, 4.3.6 "Consume a url token").
_ENDS_AN_ADDRESS = re.compile(r"[\s\"'()\\]")
Guard = Callable[[str, Sequence[Edit], Collection[str]], str]

# Attributes that hold addresses of images; "*" stands for all of them.
_REPOINTED = frozenset({
    "src", "srcset", "poster", "background", "style", "href", "imagesrcset", "xlink:href", "xlink href", "data",
})  # fmt: skip
# What could end a string, a template or the script around it (ECMAScript, 12.9.4; HTML Standard, 4.12.1.3).
_ENDS_A_STRING = ("'", '"', "`", "\n", "\r", "\u2028", "\u2029", "${", "</", "<!--")


def edited_page(chars: str, edits: Sequence[Edit], attributes: Collection[str]) -> str:
    """A page in which nothing differs but these attributes and what was added."""
    return edit_html(chars, list(edits), set(attributes) | (_REPOINTED if "*" in attributes else set()))


def edited_styles(chars: str, edits: Sequence[Edit], attributes: Collection[str]) -> str:
    """A style sheet that names as many files as before, unless an edit adds some."""
    final = apply_edits(chars, edits)
    if any(edit.adds for edit in edits):
        return final
    if any(_ENDS_AN_ADDRESS.search(edit.text) for edit in edits):
        raise MarkupBroken("an address of the style sheet would not end where it did")
    if len(list(css_urls(final))) != len(list(css_urls(chars))):
        raise MarkupBroken("the style sheet would not read as before")
    return final


def edited_script(chars: str, edits: Sequence[Edit], attributes: Collection[str]) -> str:
    """A script in which parts of strings are others now, and no string ends elsewhere."""
    for edit in edits:
        gone = chars[edit.start : edit.end]
        if "\\" in edit.text or any(end in part for part in (edit.text, gone) for end in _ENDS_A_STRING):
            raise MarkupBroken("a string of the script would not end where it did")
    return apply_edits(chars, edits)


def edited_data(chars: str, edits: Sequence[Edit], attributes: Collection[str]) -> str:
    """JSON that is still JSON, if it was."""
    final = apply_edits(chars, edits)
    try:
        json.loads(chars)
    except ValueError:
        return final
    json.loads(final)
    return final


def _edited_text(chars: str, edits: Sequence[Edit], attributes: Collection[str]) -> str:
    return apply_edits(chars, edits)


def guard_for(media_type: str) -> Guard:
    """The guard of a media type."""
    if is_page(media_type):
        return edited_page
    if media_type == "text/css":
        return edited_styles
    if media_type.endswith("/javascript"):
        return edited_script
    if media_type.endswith("json"):
        return edited_data
    return _edited_text


def expect_same(media_type: str, before: str, after: str, names: Collection[str] = ()) -> None:
    """Raises `ValueError` where a transform has made something else of a whole text than a text of the same sort.

    A page keeps its elements, and a style sheet the files that it names, or a part of them; it may name these too.
    """
    if is_page(media_type) and not same_elements(before, after):
        raise MarkupBroken("the page would have other elements")
    if media_type == "text/css":
        named = {*names, *(result.value for result in css_urls(before))}
        if any(result.value not in named for result in css_urls(after)):
            raise MarkupBroken("the style sheet would name other files")
    if media_type.endswith("json") and json.loads(before) != json.loads(after):
        raise MarkupBroken("the data would not be the same")
