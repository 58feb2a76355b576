"""The lines of a ledger as a table for other programs."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from typing import Any

COLUMNS = ("remedy", "change", "standing", "page", "device", "bytes saved", "requests saved", "reason")


def ledger_csv(ledger: Mapping[str, Any]) -> str:
    """The ledger's document as CSV (RFC 4180): a line for what each change saved at each weigh-in, and the rest.

    The column of bytes sums up to what was saved in all.
    """
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    changes = {change["id"]: change for change in ledger["changes"]}
    listed = set()
    for line in ledger["lines"]:
        change = changes.get(line["change"], {"remedy": "", "standing": "", "reason": ""})
        listed.add(line["change"])
        row = (change["remedy"], line["change"], change["standing"], line["page"], line["device"])
        writer.writerow([*map(safe_cell, row), line["bytes"], line["requests"], safe_cell(change["reason"])])
    for change in ledger["changes"]:
        if change["id"] not in listed and change["on"]:
            row = (change["remedy"], change["id"], change["standing"], "", "")
            writer.writerow([*map(safe_cell, row), 0, 0, safe_cell(change["reason"])])
    rest = ledger["unexplained"]
    writer.writerow(["unexplained", "", "", "", "", rest["bytes"], rest["requests"], ""])
    return out.getvalue()


def safe_cell(text: str) -> str:
    """A table program must not take a name for a formula."""
    return "'" + text if text.startswith(("=", "+", "-", "@", "\t", "\r")) else text
