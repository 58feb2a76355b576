"""`mule weigh`: the weight of pages, as a table, JSON, HAR or CSV."""

from __future__ import annotations

import argparse
import json
from collections.abc import Sequence
from pathlib import Path

from unladen.cli.command import Command, add_site, expect_folders, kilobytes, pages_of, progress, site_of
from unladen.weigh.records.conditions import UNLIMITED, USUAL_DEVICES, VISITS, Conditions, device_named, link_named
from unladen.weigh.records.export import csv_of, har_of
from unladen.weigh.records.model import WeighIn, weigh_ins_document
from unladen.weigh.session import Session
from unladen.weigh.visits.weighing import browser_for, weigh_pages


def _arguments(parser: argparse.ArgumentParser) -> None:
    add_site(parser)
    parser.add_argument("--visit", choices=VISITS, default="first", help="a first visit, or one with a filled cache")
    parser.add_argument(
        "--link", default=UNLIMITED.label, metavar="LINK", help="unlimited, or figures such as “1.6 Mbit/s, 150 ms”"
    )
    parser.add_argument("--runs", type=int, default=3, metavar="N", help="loads; the median is kept (default: 3)")
    parser.add_argument("--har", type=Path, metavar="OUT.har", help="write the kept loads as HAR 1.2 with bodies")
    parser.add_argument("--csv", type=Path, metavar="OUT.csv", help="write all requests as CSV")


def _run(options: argparse.Namespace) -> int:
    with site_of(options) as capture:
        pages = pages_of(capture, options)
        link = link_named(options.link)
        names = dict.fromkeys(options.device or USUAL_DEVICES)
        conditions = [Conditions(device_named(name), options.visit, link, options.runs) for name in names]
        expect_folders(options.har, options.csv)
        with browser_for(capture) as browser:
            weigh_ins = weigh_pages(Session.of(browser, capture, progress()), pages, conditions)
        if options.har:
            options.har.write_text(json.dumps(har_of(capture, weigh_ins), indent=1))
        if options.csv:
            options.csv.write_text(csv_of(capture, weigh_ins))
    print(json.dumps(weigh_ins_document(weigh_ins), indent=1) if options.json else weigh_in_table(weigh_ins))
    return 0


def weigh_in_table(weigh_ins: Sequence[WeighIn]) -> str:
    """A row for each weigh-in, with missing files and errors below it."""
    lines = [f"{'page':<32} {'device':<8} {'requests':>8} {'transferred':>14} {'decoded':>14} {'load':>9}"]
    for weigh_in in weigh_ins:
        row = weigh_in.as_json()
        lines.append(
            f"{row['page']:<32} {row['device']:<8} {row['requests']:>8} {kilobytes(row['transferred']):>14} "
            f"{kilobytes(row['decoded']):>14} {row['load_ms']:>6,.0f} ms"
        )
        if row["scrolled"]["requests"]:
            more = row["scrolled"]
            lines.append(f"  scrolled to the end: {more['requests']} more, {kilobytes(more['transferred'])}")
        lines += [f"  missing: {url}" for url in row["missing"]]
        lines += [f"  error: {text}" for text in row["errors"]]
    return "\n".join(lines)


COMMAND = Command(
    name="weigh",
    usage="SITE",
    help="weigh pages",
    example="weigh site.zip --page /index.html --device phone --json",
    declare_arguments=_arguments,
    run=_run,
)
