"""`mule compare`: two documents of `mule weigh`, side by side."""

from __future__ import annotations

import argparse
import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from unladen.cli.command import Command, add_json, document_at, kilobytes
from unladen.ledger import compare_documents


def _arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("before", type=Path, metavar="A.json", help="as `mule weigh --json` prints it")
    parser.add_argument("after", type=Path, metavar="B.json")
    add_json(parser)


def _run(options: argparse.Namespace) -> int:
    names = str(options.before), str(options.after)
    document = compare_documents(document_at(options.before), document_at(options.after), names)
    print(json.dumps(document, indent=1) if options.json else _lines(document))
    return 0


def _lines(document: Mapping[str, Any]) -> str:
    lines = []
    for pair in document["pairs"]:
        before, after, more = pair["before"], pair["after"], pair["difference"]
        load = pair["load_ms"]
        lines.append(
            f"{pair['page']} on {pair['device']}: "
            f"{kilobytes(before['transferred'])} in {before['requests']} requests, "
            f"then {kilobytes(after['transferred'])} in {after['requests']}: {kilobytes(more['transferred'])}, "
            f"{more['requests']} requests; "
            f"load {load['before']['median']:,.0f} ms, then {load['after']['median']:,.0f} ms"
        )
        lines += [f"  newly missing: {url}" for url in pair["new_missing"]]
        lines += [f"  new error: {text}" for text in pair["new_errors"]]
    lines += [f"only in the first: {name}" for name in document["only_before"]]
    lines += [f"only in the second: {name}" for name in document["only_after"]]
    lines += [f"note: {note}" for note in document["notes"]]
    return "\n".join(lines)


COMMAND = Command(
    name="compare",
    usage="A.json B.json",
    help="compare weigh-ins of the same conditions",
    example="compare before.json after.json",
    declare_arguments=_arguments,
    run=_run,
)
