"""`mule check`: whether another version of a site looks and works as before."""

from __future__ import annotations

import argparse
import json
import tempfile
from collections.abc import Sequence
from pathlib import Path

from unladen.capture import BodyStore, read_site
from unladen.check import PageCheck
from unladen.check.between import check_document, compare_sites
from unladen.cli.command import Command, add_json, add_pages, document_at, progress, warn
from unladen.errors import BadInput
from unladen.plan import Tolerance
from unladen.remedies.fields import FieldRefused
from unladen.weigh.records.conditions import DEVICES, device_named
from unladen.weigh.session import Session
from unladen.weigh.visits.walk import WalkOrders, orders_from
from unladen.weigh.visits.weighing import browser_for


def _arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("before", type=Path, metavar="BEFORE", help="a folder, a ZIP, HAR or WARC file")
    parser.add_argument("after", type=Path, metavar="AFTER")
    add_pages(parser)
    parser.add_argument("--quick", action="store_true", help="at rest only: the walk is left out")
    parser.add_argument(
        "--tolerance",
        type=Path,
        metavar="FILE",
        help='accepted differences: a plan, or {"accepted": [...], "masks": [...]} as in a plan',
    )
    parser.add_argument(
        "--steps",
        type=Path,
        metavar="FILE",
        help='custom steps: {"/index.html": {"own": [{"action": "click", "selector": "#agree"}], "off": []}}',
    )
    add_json(parser)


def _run(options: argparse.Namespace) -> int:
    devices = [device_named(name) for name in dict.fromkeys(options.device or DEVICES)]
    tolerance = _tolerance(options.tolerance) if options.tolerance else None
    orders = _steps(options.steps) if options.steps else None
    with tempfile.TemporaryDirectory(prefix="mule-") as folder:
        store = BodyStore(Path(folder) / "bodies")
        before, after = (read_site(path, store) for path in (options.before, options.after))
        for notice in dict.fromkeys((*before.notices, *after.notices)):
            warn(str(notice))
        with browser_for(before) as browser:
            session = Session.of(browser, before, progress())
            pairs = compare_sites(
                session, after, options.page, devices, quick=options.quick, tolerance=tolerance, orders=orders
            )
            document = check_document(pairs, f"Chromium {browser.version}", quick=options.quick)
    print(json.dumps(document, indent=1) if options.json else _differences(pairs))
    return 0 if document["same"] else 1


def _tolerance(path: Path) -> Tolerance:
    data = document_at(path)
    try:
        return Tolerance.from_json(data.get("tolerance", data) if isinstance(data, dict) else data)
    except FieldRefused as refused:
        raise BadInput(str(path), str(refused)) from None


def _steps(path: Path) -> dict[str, WalkOrders]:
    data = document_at(path)
    if not isinstance(data, dict):
        raise BadInput(str(path), "must be an object that holds the walk of each page under its path")
    try:
        return {page: orders_from(wanted) for page, wanted in data.items()}
    except BadInput as error:
        raise BadInput(str(path), f"{error.name} {error.reason}") from None


def _differences(pairs: Sequence[PageCheck]) -> str:
    lines = []
    for pair in pairs:
        state = f"cannot be compared: {pair.cannot}" if pair.cannot else "the same" if pair.passed else "differs"
        lines.append(f"{pair.page} on {pair.device}: {state}")
        lines += [f"  {difference.text}" for difference in pair.differences]
        lines += [f"  not compared: {text}" for text in pair.left]
    return "\n".join(lines)


COMMAND = Command(
    name="check",
    usage="BEFORE AFTER",
    help="compare how two versions of a site look and work",
    example="check before.zip after.zip --page /index.html",
    declare_arguments=_arguments,
    run=_run,
)
