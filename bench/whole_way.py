"""The steady effort from weighed to handed over, in times of weighing the page three times on phone and desktop.

The demo, and index pages of packages: python -m bench.whole_way [demo|PACKAGE ...] prints a line each.
"""

from __future__ import annotations

import itertools
import sys
import tempfile
import time
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from bench.sites import demo_site
from tests.sites import registry_package
from unladen.capture import BodyStore, Capture, Exchange, read_site
from unladen.capture.addresses import canonical
from unladen.check import Standing
from unladen.check.page_checks import PageChecks
from unladen.lighten import Order, carry_out, look_ahead, surveyed
from unladen.progress import Progress
from unladen.survey import SurveyInputs
from unladen.weigh.records.conditions import DEVICES, USUAL_DEVICES, Conditions
from unladen.weigh.records.model import WeighIn
from unladen.weigh.session import Session
from unladen.weigh.visits.weighing import browser_for, weigh_pages
from unladen.work_cache import WorkCache

PACKAGES = {
    "startbootstrap-sb-admin-2": ("4.1.4", "", "/index.html"),
    "gentelella-rtl": ("1.4.0", "public", "/index.html"),
    "flexslider": ("2.7.2", "demo", "/index.html"),
    "startbootstrap-new-age": ("6.0.7", "dist", "/index.html"),
}
EQUAL, STEADY, SURVEY, BACK = 1.5, 3.0, 10.0, 0.3


def _site(name: str, folder: Path) -> tuple[Capture, list[Exchange]]:
    if name == "demo":
        capture = demo_site(folder)
        return capture, list(capture.pages())
    version, part, page = PACKAGES[name]
    capture = read_site(registry_package(name, version) / part, BodyStore(folder / "site" / "bodies"))
    return capture, [capture.page(page)]


def _with_a_comment(capture: Capture, weighed: Sequence[WeighIn]) -> Capture:
    """A copy in which a comment more stands in the largest style sheet that the pages ask for."""
    asked = {canonical(request.url) for weigh_in in weighed for request in weigh_in.visit.requests}
    files = (capture.exchanges[url] for url in sorted(asked & capture.exchanges.keys()))
    sheets = (file for file in files if file.media_type == "text/css" and capture.owns(file.url))
    largest = max(sheets, key=lambda exchange: exchange.size)
    body = capture.body(largest) + b"\n/* one more */"
    return capture.with_changes([replace(largest, digest=capture.store.put(body), size=len(body))])


def ratios(name: str) -> dict[str, float]:
    """Seconds of weighing, and the times of it that everything else takes."""
    with tempfile.TemporaryDirectory() as root:
        folder = Path(root)
        capture, pages = _site(name, folder)
        conditions = [Conditions(DEVICES[device], runs=3) for device in USUAL_DEVICES]
        with browser_for(capture) as browser:
            times = [time.perf_counter()]
            weighed = weigh_pages(Session.of(browser, capture, Progress()), pages, conditions, layouts=True)
            times.append(time.perf_counter())
            page_checks = PageChecks(browser, WorkCache(folder / "other", capture.store), thorough=True)
            for page in pages:
                for seen in page_checks.compared(
                    capture, _with_a_comment(capture, weighed), page, list(DEVICES.values())
                ):
                    if seen.differences or seen.cannot:
                        print(f"{name}: {seen.cannot or seen.differences[0].text}", file=sys.stderr)
            times.append(time.perf_counter())
            found = surveyed(capture, SurveyInputs(weighed), "steady", Progress())
            times.append(time.perf_counter())
            look_ahead(Session.of(browser, capture, Progress()), weighed)
            times.append(time.perf_counter())
            first = carry_out(Session.of(browser, capture, Progress()), found.plan, weighed)
            times.append(time.perf_counter())
            largest = max(first.plan.changes, key=lambda change: first.account.saved_by(change.id).bytes)
            plan = first.plan.changed(lambda c: replace(c, on=False) if c.id == largest.id else c)
            carry_out(Session.of(browser, capture, Progress()), plan, weighed, order=Order(first.outcomes))
            times.append(time.perf_counter())
    for pair in first.pairs:
        if not pair.passed:
            print(f"{name} {pair.device}: {pair.cannot or pair.differences[0].text}", file=sys.stderr)
    aside = [id for id, o in first.outcomes.by_change.items() if o.standing is Standing.SET_ASIDE or o.parts]
    print(f"{name}: set aside {aside}", file=sys.stderr)
    weighing, equal, survey, ahead, steady, back = (b - a for a, b in itertools.pairwise(times))
    steps = {"equal": equal, "survey": survey, "ahead": ahead, "steady": steady, "back": back}
    return {"weighing": weighing} | {step: seconds / weighing for step, seconds in steps.items()}


def told(name: str, found: dict[str, float]) -> str:
    """A line for people."""
    return (
        f"{name}: check of two equal copies {found['equal']:.2f}, survey {found['survey']:.2f}, looks ahead "
        f"{found['ahead']:.2f}, "
        f"steady to handed over {found['steady']:.2f}, one change back {found['back']:.2f} times the "
        f"{found['weighing']:.0f} s of weighing"
    )


def measure() -> tuple[str, str, bool]:
    """The demo."""
    found = ratios("demo")
    wanted = {"equal": EQUAL, "survey": SURVEY, "steady": STEADY, "back": BACK}
    return (
        told("demo", found),
        f"at most {EQUAL}, {SURVEY:.0f}, {STEADY} and {BACK}",
        all(found[step] <= most for step, most in wanted.items()),
    )


if __name__ == "__main__":
    for site in sys.argv[1:] or ["demo", *PACKAGES]:
        print(told(site, ratios(site)), flush=True)
