"""`mule gate`: whether pages keep to their limits."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from unladen.cli.command import Command, add_site, document_at, expect_folders, pages_of, progress, site_of
from unladen.errors import BadInput
from unladen.ledger.allowance import Allowance
from unladen.ledger.gate import gate_document, gate_junit, gate_lines, gate_markdown, judge
from unladen.weigh.records.conditions import USUAL_DEVICES, Conditions, device_named
from unladen.weigh.session import Session
from unladen.weigh.visits.weighing import browser_for, weigh_pages


def _arguments(parser: argparse.ArgumentParser) -> None:
    add_site(parser)
    parser.add_argument("--allow", required=True, type=Path, metavar="ALLOWANCE.json", help="the limits")
    parser.add_argument("--against", type=Path, metavar="A.json", help="weigh-ins from which growth is counted")
    parser.add_argument("--junit", type=Path, metavar="OUT.xml", help="write test results for a build server")
    parser.add_argument("--markdown", type=Path, metavar="OUT.md", help="write a table for a comment")


def _run(options: argparse.Namespace) -> int:
    with site_of(options) as capture:
        allowance = Allowance.from_json(document_at(options.allow), str(options.allow))
        pinned = document_at(options.against) if options.against else None
        expect_folders(options.junit, options.markdown)
        pages = pages_of(capture, options)
        if not pages:
            raise BadInput(options.site, "holds no page to weigh")
        limited = [limit.device for limit in allowance.limits if limit.device]
        names = dict.fromkeys(options.device or [*USUAL_DEVICES, *limited])
        with browser_for(capture) as browser:
            weigh_ins = weigh_pages(
                Session.of(browser, capture, progress()), pages, [Conditions(device_named(n)) for n in names]
            )
        verdict = judge(allowance, weigh_ins, capture, pinned=pinned, pinned_name=str(options.against))
    if options.junit:
        options.junit.write_bytes(gate_junit(verdict))
    if options.markdown:
        options.markdown.write_text(gate_markdown(verdict))
    print(json.dumps(gate_document(verdict), indent=1) if options.json else "\n".join(gate_lines(verdict)))
    return 0 if verdict.passes else 1


COMMAND = Command(
    name="gate",
    usage="SITE --allow FILE",
    help="check the limits of pages",
    example="gate site.zip --allow allowance.json --junit limits.xml",
    declare_arguments=_arguments,
    run=_run,
)
