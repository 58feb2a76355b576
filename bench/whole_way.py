"""The demo's steady effort from weighed to checked, and one change taken back, in times of weighing all pages three times."""

from __future__ import annotations

import itertools
import tempfile
import time
from dataclasses import replace
from pathlib import Path

from bench.sites import demo_site
from unladen.lighten import Order, carry_out, surveyed
from unladen.progress import Progress
from unladen.survey import SurveyInputs
from unladen.weigh.records.conditions import DEVICES, USUAL_DEVICES, Conditions
from unladen.weigh.visits.weighing import browser_for, weigh_pages

WHOLE, BACK = 2.0, 0.17  # the latter are 10 s where three weighings take 60


def measure() -> tuple[str, str, bool]:
    """Three runs of all pages on phone and desktop; then survey, build, check and weighing; then the same without a change."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        capture = demo_site(folder)
        conditions = [Conditions(DEVICES[name], runs=3) for name in USUAL_DEVICES]
        times = [time.perf_counter()]
        with browser_for(capture) as browser:
            weighed = weigh_pages(browser, capture, capture.pages(), conditions, Progress(), layouts=True)
            times.append(time.perf_counter())
            found = surveyed(capture, SurveyInputs(weighed), "steady", Progress())
            times.append(time.perf_counter())
            first = carry_out(browser, capture, found.plan, weighed, Progress())
            times.append(time.perf_counter())
            largest = max(first.plan.changes, key=lambda change: first.account.saved_by(change.id).bytes)
            plan = first.plan.changed(lambda c: replace(c, on=False) if c.id == largest.id else c)
            carry_out(browser, capture, plan, weighed, Progress(), order=Order(first.outcomes))
            times.append(time.perf_counter())
    weighing, survey, whole, back = (b - a for a, b in itertools.pairwise(times))
    figures = (
        f"{(survey + whole) / weighing:.2f} (survey {survey / weighing:.2f}), one change back {back / weighing:.2f}"
    )
    told = f"{figures} times the {weighing:.0f} s of weighing three times"
    return told, f"{WHOLE:.0f} and {BACK}", survey + whole <= WHOLE * weighing and back <= BACK * weighing
