"""`mule report`: the report of a run, as PDF or HTML."""

from __future__ import annotations

import argparse
import json
from datetime import UTC, datetime
from pathlib import Path

from unladen.cli.command import Command, add_pages, bytes_at, document_at, expect_folders, progress, site_of
from unladen.errors import BadInput
from unladen.ledger import ledger_from
from unladen.ledger.report import (
    MOST_WORDS,
    PAPERS,
    Report,
    Sender,
    ledger_csv,
    logo_of,
    report_html,
    report_of,
    report_pdf,
)
from unladen.lighten import lighten
from unladen.markup.titles import title_of
from unladen.plan import EFFORTS


def _arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "site", metavar="SITE-OR-LEDGER", help="a site, or a ledger that `mule lighten --json` printed"
    )
    parser.add_argument("--out", required=True, type=Path, metavar="REPORT.pdf", help="ends in .pdf or .html")
    parser.add_argument("--short", action="store_true", help="leave out the appendix: five pages at most")
    parser.add_argument("--effort", choices=list(EFFORTS), default="steady", help="for a site (default: steady)")
    add_pages(parser)
    parser.add_argument("--paper", choices=PAPERS, default=PAPERS[0])
    parser.add_argument("--title", default="", metavar="TEXT", help="name of the site")
    parser.add_argument("--by", default="", metavar="NAME", help="name of the sender")
    parser.add_argument("--logo", type=Path, metavar="FILE", help="a PNG, JPEG, WebP or GIF picture")
    parser.add_argument("--words", type=Path, metavar="FILE", help="a text file with an introduction")
    parser.add_argument("--csv", type=Path, metavar="OUT.csv", help="write the ledger as CSV")
    parser.add_argument("--ledger", type=Path, metavar="OUT.json", help="write the ledger as JSON")


def _run(options: argparse.Namespace) -> int:
    form = options.out.suffix.lower()
    if form not in (".pdf", ".html"):
        raise BadInput(str(options.out), "should end in .pdf or .html")
    expect_folders(options.out, options.csv, options.ledger)
    report = _report(options, _sender(options))
    html = report_html(report, short=options.short)
    options.out.write_bytes(report_pdf(html, options.paper) if form == ".pdf" else html.encode())
    if options.csv:
        options.csv.write_text(ledger_csv(report.ledger))
    if options.ledger:
        options.ledger.write_text(json.dumps(report.ledger, indent=1) + "\n")
    return 0


def _sender(options: argparse.Namespace) -> Sender:
    logo = logo_of(bytes_at(options.logo), str(options.logo)) if options.logo else ""
    words = bytes_at(options.words).decode(errors="replace") if options.words else ""
    if len(words) > MOST_WORDS:
        raise BadInput(str(options.words), f"has more than {MOST_WORDS:,} characters; shorten the introduction")
    return Sender(options.by, logo, words)


def _report(options: argparse.Namespace, sender: Sender) -> Report:
    made = datetime.now(UTC).strftime("%Y-%m-%d")
    if options.site.endswith(".json") and Path(options.site).is_file():
        ledger = ledger_from(document_at(Path(options.site)), options.site)
        return Report(options.title or "The site", ledger, sender, made=made)
    with site_of(options) as capture:
        devices = list(dict.fromkeys(options.device))
        result = lighten(capture, options.effort, progress(), pages=options.page, devices=devices)
        name = options.title or title_of(capture) or "The site"
        excess = [each.as_json() for each in result.excess]
        # The pictures are read now: the store goes with the folder.
        return report_of(name, result.ledger(), result.pairs, capture.store, excess, sender, made)


COMMAND = Command(
    name="report",
    usage="SITE-OR-LEDGER --out FILE",
    help="write a report as PDF or HTML",
    example="report site.zip --out report.pdf --by “Weir & Sons” --short",
    declare_arguments=_arguments,
    run=_run,
)
