"""Planned edits made: the new text of a file, guarded, with what each change did to its bytes.

The same text with the same edits is made once in a process, so that switching one change costs only the texts it touches.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from unladen.capture.mediatypes import is_page
from unladen.capture.model import sent_body
from unladen.markup.css import css_urls
from unladen.markup.edits import Edit, apply_edits
from unladen.markup.html import MarkupBroken, edit_html
from unladen.markup.text import Text

_CSS = "text/css"
# Attributes that hold addresses of images.
_REPOINTED = frozenset({
    "src", "srcset", "poster", "background", "style", "href", "imagesrcset", "xlink:href", "xlink href", "data",
})  # fmt: skip


@dataclass(frozen=True, slots=True)
class Pending:
    """An edit that a change wants. `attribute` may differ by it; "*" stands for all that name images, "" for none."""

    change: str
    edit: Edit
    attribute: str


@dataclass(frozen=True, slots=True)
class Edited:
    """The new body, and for each change in order its bytes as sent before and after it."""

    body: bytes
    steps: tuple[tuple[str, int, int], ...]


@lru_cache(maxsize=512)
def edited_text(text: Text, media_type: str, encoding: str, pending: tuple[Pending, ...]) -> Edited:
    """Make all edits; raises `MarkupBroken` or `ValueError` when the text would not read as before."""
    edits = [entry.edit for entry in pending]
    if is_page(media_type):
        named = {entry.attribute for entry in pending}
        data = {name for name in named if name.startswith("data-")}
        final = edit_html(text.chars, edits, named | data | (_REPOINTED if "*" in named else set()))
    else:
        final = apply_edits(text.chars, edits)
        added = any(edit.adds for edit in edits)
        if media_type == _CSS and not added and len(list(css_urls(final))) != len(list(css_urls(text.chars))):
            raise MarkupBroken("the style sheet would not read as before")
    before = len(sent_body(text.encode(text.chars), encoding)[0])
    steps = []
    for position, change in enumerate(order := list(dict.fromkeys(entry.change for entry in pending))):
        done = set(order[: position + 1])
        chars = apply_edits(text.chars, [entry.edit for entry in pending if entry.change in done])
        after = len(sent_body(text.encode(chars), encoding)[0])
        steps.append((change, before, after))
        before = after
    return Edited(text.encode(final), tuple(steps))
