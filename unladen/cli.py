"""The command line: weigh, lighten, check, compare, gate. Results go to standard output, all else to standard error."""

from __future__ import annotations

import argparse
import json
import os
import shutil
import sys
import tempfile
import time
from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from unladen.capture import BodyStore, Capture, Exchange, read_site, write_zip
from unladen.capture.addresses import site_path
from unladen.capture.choosing import chosen_pages
from unladen.check import PageCheck, Standing
from unladen.check.between import check_document, compare_sites
from unladen.check.group_members import kin_notices
from unladen.documents import read_json
from unladen.errors import BadInput, UnladenError
from unladen.ledger import compare_documents, ledger_from, replacements, replacements_csv
from unladen.ledger.allowance import Allowance
from unladen.ledger.gate import gate_document, gate_junit, gate_lines, gate_markdown, judge
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
from unladen.lighten import Lightened, lighten
from unladen.markup.page_groups import standing_for_all
from unladen.markup.titles import title_of
from unladen.plan import EFFORTS, Plan, Tolerance
from unladen.progress import Progress, time_left
from unladen.remedies import LIKENESS, Delivery, ImageSettings
from unladen.remedies.fields import FieldRefused
from unladen.weigh.records.conditions import (
    DEVICES,
    UNLIMITED,
    USUAL_DEVICES,
    VISITS,
    Conditions,
    device_named,
    link_named,
)
from unladen.weigh.records.export import csv_of, har_of
from unladen.weigh.records.model import WeighIn, weigh_ins_document
from unladen.weigh.visits.walk import WalkOrders, orders_from
from unladen.weigh.visits.weighing import browser_for, weigh_pages
from unladen.work_cache import WorkCache

PROGRAM = "mule"
_PAGE = "a path like /index.html, a pattern like /blog/*, or the word sitemap; repeatable"
_OUR_FAULT = 70  # EX_SOFTWARE of sysexits.h
_MOST_READ = 10_000_000  # bytes of a logo or text


def _parser() -> _Parser:
    parser = _Parser(prog=PROGRAM, description="Weigh web pages and make them lighter.")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)
    shared = _Parser(add_help=False)
    shared.add_argument("site", metavar="SITE", help="a folder or a ZIP file of static files, a HAR or a WARC file")
    shared.add_argument("--page", action="append", default=[], metavar="P", help=_PAGE)
    shared.add_argument(
        "--kinds", type=int, default=0, metavar="N", help="weigh at most N pages, which stand for all built like them"
    )
    shared.add_argument(
        "--device", action="append", default=[], metavar="D", help="phone, tablet, desktop or 1440x900@1; repeatable"
    )
    shared.add_argument("--json", action="store_true", help="print the published JSON document and nothing else")
    weigh = commands.add_parser("weigh", parents=[shared], help="weigh pages")
    weigh.add_argument("--visit", choices=VISITS, default="first", help="a first visit, or one with a filled cache")
    weigh.add_argument(
        "--link", default=UNLIMITED.label, metavar="LINK", help="unlimited, or figures such as “1.6 Mbit/s, 150 ms”"
    )
    weigh.add_argument("--runs", type=int, default=3, metavar="N", help="the median of so many is kept (default: 3)")
    weigh.add_argument("--har", type=Path, metavar="OUT.har", help="write the kept runs as HAR 1.2 with bodies")
    weigh.add_argument("--csv", type=Path, metavar="OUT.csv", help="write all requests as CSV")
    compare = commands.add_parser("compare", help="two documents of weigh, side by side")
    compare.add_argument("before", type=Path, metavar="A.json")
    compare.add_argument("after", type=Path, metavar="B.json")
    compare.add_argument("--json", action="store_true", help="print the published JSON document and nothing else")
    light = commands.add_parser("lighten", parents=[shared], help="hand over a lighter, checked site")
    light.add_argument("--effort", choices=list(EFFORTS), default="")
    light.add_argument("--out", required=True, type=Path, metavar="OUT.zip")
    light.add_argument("--save-plan", type=Path, metavar="PLAN.json")
    light.add_argument("--likeness", choices=list(LIKENESS), default="", help="how alike smaller images must look")
    light.add_argument("--same-names", action="store_true", help="change files in their place and nothing else")
    light.add_argument("--fallback", action="store_true", help="keep the older format for browsers that need it")
    light.add_argument(
        "--no-avif", action="store_true", help="no AVIF as a further source where it is a tenth smaller"
    )
    light.add_argument("--phones", type=int, default=60, help="how many visits of a hundred come from phones")
    light.add_argument("--one-size", action="store_true", help="no narrower files for phones")
    light.add_argument("--copyright", action="store_true", help="keep what images say about their owner")
    light.add_argument("--list", type=Path, metavar="OUT.csv", help="write what to replace where")
    light.add_argument(
        "--plan", type=Path, metavar="PLAN.json", help="carry out this plan instead of an effort's own"
    )
    light.add_argument("--strict", action="store_true", help="exit 3 when something was set aside or not comparable")
    check = commands.add_parser("check", help="does another version of a site look and work as before?")
    check.add_argument("before", type=Path, metavar="BEFORE", help="a folder, a ZIP, HAR or WARC file")
    check.add_argument("after", type=Path, metavar="AFTER")
    check.add_argument("--page", action="append", default=[], metavar="P", help=_PAGE)
    check.add_argument("--device", action="append", default=[], metavar="D", help="as for weigh; repeatable")
    check.add_argument("--quick", action="store_true", help="at rest only: no control is pressed")
    check.add_argument(
        "--tolerance",
        type=Path,
        metavar="FILE",
        help='what may differ: a plan, or {"accepted": [...], "masks": [...]} as in a plan',
    )
    check.add_argument(
        "--steps",
        type=Path,
        metavar="FILE",
        help='what walks do besides: {"/index.html": {"own": [{"action": "click", "selector": "#agree"}], "off": []}}',
    )
    check.add_argument("--json", action="store_true", help="print the published JSON document and nothing else")
    gate = commands.add_parser("gate", parents=[shared], help="do the pages keep to what they may weigh?")
    gate.add_argument("--allow", required=True, type=Path, metavar="ALLOWANCE.json")
    gate.add_argument("--against", type=Path, metavar="A.json", help="weigh-ins that growth is counted from")
    gate.add_argument("--junit", type=Path, metavar="OUT.xml", help="write test results for a build server")
    gate.add_argument("--markdown", type=Path, metavar="OUT.md", help="write a table for a comment")
    report = commands.add_parser("report", help="show what was made lighter, as a PDF or an HTML file")
    report.add_argument(
        "site", metavar="SITE-OR-RUN", help="a site, or the ledger of a run as lighten --json prints it"
    )
    report.add_argument("--out", required=True, type=Path, metavar="REPORT.pdf", help="ends in .pdf or .html")
    report.add_argument("--effort", choices=list(EFFORTS), default="steady", help="for a site (default: steady)")
    report.add_argument("--page", action="append", default=[], metavar="P", help="as for weigh; repeatable")
    report.add_argument("--device", action="append", default=[], metavar="D", help="as for weigh; repeatable")
    report.add_argument("--paper", choices=PAPERS, default=PAPERS[0])
    report.add_argument("--title", default="", metavar="TEXT", help="what the site is called")
    report.add_argument("--by", default="", metavar="NAME", help="who hands it over")
    report.add_argument("--logo", type=Path, metavar="FILE", help="a PNG, JPEG, WebP or GIF picture")
    report.add_argument("--words", type=Path, metavar="FILE", help="a text of one's own to begin with")
    report.add_argument("--csv", type=Path, metavar="OUT.csv", help="write the ledger as CSV")
    report.add_argument("--ledger", type=Path, metavar="OUT.json", help="write the ledger's document")
    work_cache = commands.add_parser("memo", help="list cached work by type")
    work_cache.add_argument("folder", type=Path, metavar="FOLDER", help="the data folder, or one of a site")
    light.add_argument(
        "--machines",
        default="",
        metavar="ADDRESS",
        help="a Dask scheduler for the encodes, such as tcp://10.0.0.5:8786",
    )
    return parser


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> Any:
        """One line and exit code 2, without the usage before it."""
        self.exit(2, f"{PROGRAM}: {message}\n")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run a command; returns the exit code.

    0; 2 with one line on standard error; 1 from `check` where something differs and from `gate` where something is
    over; 3 from `lighten --strict`; 70 where the fault is ours.
    """
    options = _parser().parse_args(arguments)
    try:
        if options.command == "compare":
            return _compare(options)
        if options.command == "memo":
            return _memo(options)
        if options.command == "check":
            return _check(options)
        if options.command == "report":
            return _report(options)
        with tempfile.TemporaryDirectory(prefix="mule-") as folder:
            capture = read_site(Path(options.site), BodyStore(Path(folder) / "bodies"))
            for notice in capture.notices:
                print(f"{PROGRAM}: {notice}", file=sys.stderr)
            return {"weigh": _weigh, "lighten": _lighten, "gate": _gate}[options.command](capture, options)
    except UnladenError as error:
        return _fail(str(error))
    except OSError as error:
        return _fail(f"{error.filename or getattr(options, 'site', '')}: {error.strerror or error}")
    except KeyboardInterrupt:
        return _fail("stopped")
    except Exception as error:
        if os.environ.get("MULE_TRACE"):
            raise
        # Nobody is helped by the places in our own files, unless they ask for them.
        _fail(f"internal error: {_short(error)} (MULE_TRACE=1 shows where)")
        return _OUR_FAULT


def _short(error: Exception) -> str:
    """What went wrong in a line, without the paths of this installation."""
    first = (str(error).splitlines() or [""])[0][:300]
    return f"{type(error).__name__} {first}".strip().replace(str(Path(__file__).parents[1]), "…")


def _fail(text: str) -> int:
    print(f"{PROGRAM}: {' '.join(text.split())}", file=sys.stderr)
    return 2


def _progress() -> Progress:
    if not sys.stderr.isatty():
        return Progress()

    began: dict[str, float] = {}

    def report(stage: str, done: int, total: int, note: str) -> None:
        now = time.monotonic()
        began.setdefault(stage, now)
        left = time_left(now - began[stage], done, total)
        to_go = f", about {_duration(left)} to go" if left is not None else ""
        width = shutil.get_terminal_size().columns - 1
        line = f"{stage}: {done} of {total} ({_duration(now - began[stage])} so far{to_go}) {note}"
        sys.stderr.write(f"\r\x1b[K{line[:width]}")
        if done == total:
            began.pop(stage)
            sys.stderr.write("\r\x1b[K")
        sys.stderr.flush()

    return Progress(report)


def _duration(seconds: float) -> str:
    """In words: "40 s", "3 min"."""
    return f"{seconds:.0f} s" if seconds < 100 else f"{seconds / 60:.0f} min"


def _pages(capture: Capture, options: argparse.Namespace) -> list[Exchange]:
    """The pages to weigh; for which others they stand is told."""
    pages = chosen_pages(capture, options.page)
    if options.kinds < 0:
        raise BadInput("--kinds", "must be at least 1")
    if not options.kinds:
        return pages
    chosen, kin = standing_for_all(capture, options.kinds, pages)
    for notice in kin_notices(capture, [site_path(capture.base_url, page.url) for page in chosen], kin):
        print(f"{PROGRAM}: {notice}", file=sys.stderr)
    return chosen


def _weigh(capture: Capture, options: argparse.Namespace) -> int:
    pages = _pages(capture, options)
    link = link_named(options.link)
    names = dict.fromkeys(options.device or USUAL_DEVICES)
    conditions = [Conditions(device_named(name), options.visit, link, options.runs) for name in names]
    for target in filter(None, (options.har, options.csv)):
        _expect_folder(target)
    with browser_for(capture) as browser:
        weigh_ins = weigh_pages(browser, capture, pages, conditions, _progress())
    if options.har:
        options.har.write_text(json.dumps(har_of(capture, weigh_ins), indent=1))
    if options.csv:
        options.csv.write_text(csv_of(capture, weigh_ins))
    if options.json:
        print(json.dumps(weigh_ins_document(weigh_ins), indent=1))
    else:
        print(_table(weigh_ins))
    return 0


def _expect_folder(target: Path) -> None:
    if not target.absolute().parent.is_dir():
        raise BadInput(str(target), "its folder does not exist")


def _compare(options: argparse.Namespace) -> int:
    names = str(options.before), str(options.after)
    found = compare_documents(_document(options.before), _document(options.after), names)
    print(json.dumps(found, indent=1) if options.json else _comparison(found))
    return 0


def _memo(options: argparse.Namespace) -> int:
    if not options.folder.is_dir():
        raise BadInput(str(options.folder), "is not a folder")
    found = sorted(path.parent for path in options.folder.rglob("made") if path.parent.name == "memo")
    for root in found:
        work_cache = WorkCache(root, BodyStore(root.parent / "bodies"))
        held = work_cache.holds()
        total = sum(size for _, size in held.values())
        print(f"{root}: {_kilobytes(total)} of {_kilobytes(work_cache.limit)}")
        for name, (count, size) in held.items():
            print(f"{_kilobytes(size):>14} {count:>7} outcomes  {name}")
    if not found:
        print("The work cache is empty.")
    return 0


def _document(path: Path) -> Any:
    try:
        return read_json(path.read_bytes(), str(path))
    except OSError as error:
        raise BadInput(str(path), f"cannot be read: {error.strerror}") from error


def _check(options: argparse.Namespace) -> int:
    devices = [device_named(name) for name in dict.fromkeys(options.device or DEVICES)]
    tolerance = _tolerance(options.tolerance) if options.tolerance else None
    orders = _steps(options.steps) if options.steps else None
    with tempfile.TemporaryDirectory(prefix="mule-") as folder:
        store = BodyStore(Path(folder) / "bodies")
        before, after = (read_site(path, store) for path in (options.before, options.after))
        for notice in dict.fromkeys((*before.notices, *after.notices)):
            print(f"{PROGRAM}: {notice}", file=sys.stderr)
        work_cache = WorkCache(Path(folder) / "memo", store)
        with browser_for(before) as browser:
            pairs = compare_sites(
                browser, before, after, options.page, devices, work_cache, _progress(),
                quick=options.quick, tolerance=tolerance, orders=orders,
            )  # fmt: skip
            document = check_document(pairs, f"Chromium {browser.version}", quick=options.quick)
    if options.json:
        print(json.dumps(document, indent=1))
    else:
        print(_differences(pairs))
    return 0 if document["same"] else 1


def _gate(capture: Capture, options: argparse.Namespace) -> int:
    allowance = Allowance.from_json(_document(options.allow), str(options.allow))
    pinned = _document(options.against) if options.against else None
    for target in filter(None, (options.junit, options.markdown)):
        _expect_folder(target)
    pages = _pages(capture, options)
    if not pages:
        raise BadInput(options.site, "holds no page to weigh")
    named = [limit.device for limit in allowance.limits if limit.device]
    names = dict.fromkeys(options.device or [*USUAL_DEVICES, *named])
    with browser_for(capture) as browser:
        weigh_ins = weigh_pages(browser, capture, pages, [Conditions(device_named(n)) for n in names], _progress())
    found = judge(allowance, weigh_ins, capture, pinned=pinned, pinned_name=str(options.against))
    if options.junit:
        options.junit.write_bytes(gate_junit(found))
    if options.markdown:
        options.markdown.write_text(gate_markdown(found))
    print(json.dumps(gate_document(found), indent=1) if options.json else "\n".join(gate_lines(found)))
    return 0 if found.passes else 1


def _report(options: argparse.Namespace) -> int:
    form = options.out.suffix.lower()
    if form not in (".pdf", ".html"):
        raise BadInput(str(options.out), "should end in .pdf or .html")
    for target in filter(None, (options.out, options.csv, options.ledger)):
        _expect_folder(target)
    logo = logo_of(_bytes(options.logo), str(options.logo)) if options.logo else ""
    words = _bytes(options.words).decode(errors="replace") if options.words else ""
    if len(words) > MOST_WORDS:
        raise BadInput(str(options.words), f"has more than the {MOST_WORDS:,} characters that a report begins with")
    sender = Sender(options.by, logo, words)
    made = datetime.now(UTC).strftime("%Y-%m-%d")
    with tempfile.TemporaryDirectory(prefix="mule-") as folder:
        if options.site.endswith(".json") and Path(options.site).is_file():
            ledger = ledger_from(_document(Path(options.site)), options.site)
            report = Report(options.title or "The site", ledger, sender, made=made)
        else:
            capture = read_site(Path(options.site), BodyStore(Path(folder) / "bodies"))
            for notice in capture.notices:
                print(f"{PROGRAM}: {notice}", file=sys.stderr)
            devices = list(dict.fromkeys(options.device))
            result = lighten(capture, options.effort, _progress(), pages=options.page, devices=devices)
            name = options.title or title_of(capture) or "The site"
            excess = [each.as_json() for each in result.excess]
            report = report_of(name, result.ledger(), result.pairs, capture.store, excess, sender, made)
    html = report_html(report)
    options.out.write_bytes(report_pdf(html, options.paper) if form == ".pdf" else html.encode())
    if options.csv:
        options.csv.write_text(ledger_csv(report.ledger))
    if options.ledger:
        options.ledger.write_text(json.dumps(report.ledger, indent=1) + "\n")
    return 0


def _bytes(path: Path) -> bytes:
    try:
        with path.open("rb") as file:
            return file.read(_MOST_READ + 1)
    except OSError as error:
        raise BadInput(str(path), f"cannot be read: {error.strerror}") from error


def _settings(**values: Any) -> ImageSettings:
    try:
        return ImageSettings(**values)
    except FieldRefused as refused:
        raise BadInput(f"--{refused.place}", refused.reason) from None


def _tolerance(path: Path) -> Tolerance:
    data = _document(path)
    try:
        return Tolerance.from_json(data.get("tolerance", data) if isinstance(data, dict) else data)
    except FieldRefused as refused:
        raise BadInput(str(path), str(refused)) from None


def _steps(path: Path) -> dict[str, WalkOrders]:
    data = _document(path)
    if not isinstance(data, dict):
        raise BadInput(str(path), "should be an object with what is wanted of the walk by the path of the page")
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
        lines += [f"  not looked at: {text}" for text in pair.left]
    return "\n".join(lines)


def _lighten(capture: Capture, options: argparse.Namespace) -> int:
    for target in filter(None, (options.out, options.list)):
        _expect_folder(target)
    if bool(options.effort) == bool(options.plan):
        raise BadInput("lighten", "needs either --effort or --plan")
    plan = Plan.from_json(_document(options.plan), str(options.plan)) if options.plan else None
    progress = _progress()
    progress.machines = options.machines
    result = lighten(
        capture,
        plan or options.effort,
        progress,
        pages=options.page,
        devices=list(dict.fromkeys(options.device)),
        kinds=options.kinds,
        images=_settings(
            likeness=options.likeness,
            fallback=options.fallback,
            avif=not options.no_avif,
            phones=options.phones,
            widths=not options.one_size,
            copyright=options.copyright,
        ),
        delivery=Delivery(same_names=options.same_names),
    )
    write_zip(result.capture, options.out)
    if options.list:
        options.list.write_text(replacements_csv(replacements(capture, result.capture)))
    if options.save_plan:
        options.save_plan.write_text(json.dumps(result.plan.as_json(), indent=1) + "\n")
    if options.json:
        print(json.dumps(result.ledger(), indent=1))
    else:
        print(_summary(result))
    if not options.strict:
        return 0
    aside = any(o.standing is Standing.SET_ASIDE or o.parts for o in result.outcomes.by_change.values())
    return 3 if aside or any(not pair.passed for pair in result.pairs) else 0


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
        if row["scrolled"]["requests"]:
            more = row["scrolled"]
            lines.append(f"  scrolled to the end: {more['requests']} more, {_kilobytes(more['transferred'])}")
        lines += [f"  missing: {url}" for url in row["missing"]]
        lines += [f"  error: {text}" for text in row["errors"]]
    return "\n".join(lines)


def _comparison(found: dict[str, Any]) -> str:
    lines = []
    for pair in found["pairs"]:
        before, after, more = pair["before"], pair["after"], pair["difference"]
        load = pair["load_ms"]
        lines.append(
            f"{pair['page']} on {pair['device']}: {_kilobytes(before['transferred'])} in {before['requests']} requests, "
            f"then {_kilobytes(after['transferred'])} in {after['requests']}: {_kilobytes(more['transferred'])}, "
            f"{more['requests']} requests; load {load['before']['median']:,.0f} ms, then {load['after']['median']:,.0f} ms"
        )
        lines += [f"  newly missing: {url}" for url in pair["new_missing"]]
        lines += [f"  new error: {text}" for text in pair["new_errors"]]
    lines += [f"only in the first: {name}" for name in found["only_before"]]
    lines += [f"only in the second: {name}" for name in found["only_after"]]
    lines += [f"note: {note}" for note in found["notes"]]
    return "\n".join(lines)


def _state(result: Lightened, change: str) -> str:
    outcome = result.outcomes.by_change.get(change)
    if outcome is None:
        return "off"
    if outcome.parts and outcome.standing is not Standing.SET_ASIDE:
        return "; ".join(f"without {', '.join(part.pieces) or part.target}: {part.reason}" for part in outcome.parts)
    return f"{outcome.standing}: {outcome.reason}" if outcome.reason else ""


def _summary(result: Lightened) -> str:
    total = result.account
    lines = [
        f"as found {_kilobytes(total.before.bytes)} in {total.before.requests} requests, "
        f"now {_kilobytes(total.after.bytes)} in {total.after.requests}, over {len(result.before)} weigh-ins"
    ]
    for remedy, saved in result.account.by_remedy(result.plan).items():
        lines.append(f"{_kilobytes(saved.bytes):>14} {saved.requests:>4} requests  by {remedy}")
    for change in result.plan.changes:
        saved = total.saved_by(change.id)
        lines.append(
            f"{_kilobytes(saved.bytes):>14} {saved.requests:>4} requests  {change.id}  {_state(result, change.id)}".rstrip()
        )
    unexplained = total.unexplained
    lines.append(f"{_kilobytes(unexplained.bytes):>14} {unexplained.requests:>4} requests  unexplained")
    passed = sum(pair.passed for pair in result.pairs)
    aside = sum(bool(o.parts) or o.standing is Standing.SET_ASIDE for o in result.outcomes.by_change.values())
    lines.append(f"compared {len(result.pairs)} times a page on a device, the same {passed} times; {aside} set aside")
    lines += [f"note: {p.page} on {p.device} cannot be compared: {p.cannot}" for p in result.pairs if p.cannot]
    lines += [f"note: {notice}" for notice in result.notices]
    return "\n".join(lines)


if __name__ == "__main__":
    sys.exit(main())
