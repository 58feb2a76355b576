"""What to replace where, for people who put files into a site by hand."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass

from unladen.capture import Capture
from unladen.capture.mediatypes import is_page
from unladen.ledger.report.table import safe_cell
from unladen.markup.site import texts_of

COLUMNS = ("file", "what to do", "pages", "bytes before", "bytes after")


@dataclass(frozen=True, slots=True)
class Replacement:
    """A file of the lighter site that is new or differs. Sizes in bytes of the file; `before` is 0 for a new one."""

    url: str
    path: str
    what: str
    pages: tuple[str, ...]
    before: int
    after: int


def replacements(found: Capture, lighter: Capture) -> list[Replacement]:
    """All files that differ, those that save most first; `pages` are those whose texts name the file."""
    texts = texts_of(lighter)
    uses = texts.all_uses()
    rows = []
    for exchange in lighter.files():
        old = found.exchanges.get(exchange.url)
        if old is not None and old.digest == exchange.digest:
            continue
        pages = {page for use in uses.get(exchange.url, []) for page in texts.pages_of(use.text)}
        if is_page(exchange.media_type):
            pages = {texts.path(exchange)}
        what = "add the file" if old is None else "replace the file of the same name"
        size = old.size if old else 0
        rows.append(Replacement(exchange.url, texts.path(exchange), what, tuple(sorted(pages)), size, exchange.size))
    return sorted(rows, key=lambda row: (row.after - row.before, row.path))


def replacements_csv(rows: list[Replacement]) -> str:
    """The list as CSV (RFC 4180), the pages in one field with spaces between."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for row in rows:
        writer.writerow([safe_cell(row.path), row.what, safe_cell(" ".join(row.pages)), row.before, row.after])
    return out.getvalue()
