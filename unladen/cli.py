"""The command line: weigh and lighten. Results go to standard output, all else to standard error."""

from __future__ import annotations

import argparse
import json
import sys
import tempfile
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from unladen.capture import BodyStore, Capture, read_site, write_zip
from unladen.errors import BadInput, UnladenError
from unladen.lighten import Lightened, lighten
from unladen.plan import EFFORTS
from unladen.progress import Progress
from unladen.weigh.conditions import DEVICES, Conditions
from unladen.weigh.model import WeighIn, weigh_ins_document
from unladen.weigh.weighing import browser_for, weigh_pages

PROGRAM = "mule"


def _parser() -> _Parser:
    parser = _Parser(prog=PROGRAM, description="Weigh web pages and make them lighter.")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)
    shared = _Parser(add_help=False)
    shared.add_argument("site", metavar="SITE", help="a folder or a ZIP file of static files")
    shared.add_argument(
        "--page", action="append", default=[], metavar="P", help="a path like /index.html; repeatable"
    )
    shared.add_argument("--device", action="append", default=[], choices=list(DEVICES), help="repeatable")
    shared.add_argument("--json", action="store_true", help="print the published JSON document and nothing else")
    commands.add_parser("weigh", parents=[shared], help="weigh pages at a first visit")
    light = commands.add_parser("lighten", parents=[shared], help="hand over a lighter, checked site")
    light.add_argument("--effort", choices=list(EFFORTS), required=True)
    light.add_argument("--out", required=True, type=Path, metavar="OUT.zip")
    light.add_argument("--save-plan", type=Path, metavar="PLAN.json")
    return parser


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> Any:
        """One line and exit code 2, without the usage before it."""
        self.exit(2, f"{PROGRAM}: {message}\n")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run a command; returns the exit code: 0, or 2 with one line on standard error."""
    options = _parser().parse_args(arguments)
    try:
        with tempfile.TemporaryDirectory(prefix="mule-") as folder:
            capture = read_site(Path(options.site), BodyStore(Path(folder) / "bodies"))
            for notice in capture.notices:
                print(f"{PROGRAM}: {notice}", file=sys.stderr)
            return {"weigh": _weigh, "lighten": _lighten}[options.command](capture, options)
    except UnladenError as error:
        return _fail(str(error))
    except OSError as error:
        return _fail(f"{error.filename or options.site}: {error.strerror or error}")
    except KeyboardInterrupt:
        return _fail("stopped")


def _fail(text: str) -> int:
    print(f"{PROGRAM}: {' '.join(text.split())}", file=sys.stderr)
    return 2


def _progress() -> Progress:
    if not sys.stderr.isatty():
        return Progress()

    def report(stage: str, done: int, total: int, note: str) -> None:
        sys.stderr.write(f"\r\x1b[K{stage} {done}/{total} {note}")
        if done == total:
            sys.stderr.write("\r\x1b[K")
        sys.stderr.flush()

    return Progress(report)


def _weigh(capture: Capture, options: argparse.Namespace) -> int:
    pages = [capture.page(path) for path in options.page] or capture.pages()
    conditions = [Conditions(DEVICES[name], runs=3) for name in dict.fromkeys(options.device or DEVICES)]
    with browser_for(capture) as browser:
        weigh_ins = weigh_pages(browser, capture, pages, conditions, _progress())
    if options.json:
        print(json.dumps(weigh_ins_document(weigh_ins), indent=1))
    else:
        print(_table(weigh_ins))
    return 0


def _lighten(capture: Capture, options: argparse.Namespace) -> int:
    if not options.out.absolute().parent.is_dir():
        raise BadInput(str(options.out), "its folder does not exist")
    result = lighten(
        capture,
        options.effort,
        _progress(),
        pages=options.page,
        devices=list(dict.fromkeys(options.device)),
    )
    write_zip(result.capture, options.out)
    if options.save_plan:
        options.save_plan.write_text(json.dumps(result.plan.as_json(), indent=1) + "\n")
    if options.json:
        print(json.dumps(result.ledger(), indent=1))
    else:
        print(_summary(result))
    return 0


def _kilobytes(count: int) -> str:
    return f"{count / 1000:,.1f} kB"


def _table(weigh_ins: Sequence[WeighIn]) -> str:
    lines = [f"{'page':<32} {'device':<8} {'requests':>8} {'transferred':>14} {'decoded':>14} {'load':>9}"]
    for weigh_in in weigh_ins:
        row = weigh_in.as_json()
        lines.append(
            f"{row['page']:<32} {row['device']:<8} {row['requests']:>8} {_kilobytes(row['transferred']):>14} "
            f"{_kilobytes(row['decoded']):>14} {row['load_ms']:>6,.0f} ms"
        )
        lines += [f"  missing: {url}" for url in row["missing"]]
        lines += [f"  error: {text}" for text in row["errors"]]
    return "\n".join(lines)


def _summary(result: Lightened) -> str:
    total = result.account
    lines = [
        f"as found {_kilobytes(total.before.bytes)} in {total.before.requests} requests, "
        f"now {_kilobytes(total.after.bytes)} in {total.after.requests}, over {len(result.before)} weigh-ins"
    ]
    for change in result.plan.changes:
        saved = total.saved_by(change.id)
        state = f"set aside: {change.set_aside}" if change.set_aside else "" if change.on else "off: saved nothing"
        lines.append(f"{_kilobytes(saved.bytes):>14} {saved.requests:>4} requests  {change.id}  {state}".rstrip())
    unexplained = total.unexplained
    lines.append(f"{_kilobytes(unexplained.bytes):>14} {unexplained.requests:>4} requests  unexplained")
    lines += [f"note: {notice}" for notice in result.notices]
    return "\n".join(lines)


if __name__ == "__main__":
    sys.exit(main())
