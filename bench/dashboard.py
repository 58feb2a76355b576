"""A dashboard with avatars of 400 px in boxes of 20 to 48: all that steady proposes for them stays on.

An index of startbootstrap-sb-admin-2 with a table of people; python -m bench.dashboard prints what was set aside, and
why.
"""

from __future__ import annotations

import io
import shutil
import sys
import tempfile
import time
from pathlib import Path

from PIL import Image, ImageOps

from bench.pictures import photographs
from tests.sites import registry_package
from unladen.capture import BodyStore, Capture, read_folder
from unladen.check import Standing
from unladen.lighten import carry_out, weigh_and_survey
from unladen.progress import Progress
from unladen.weigh.records.conditions import DEVICES, USUAL_DEVICES, Conditions
from unladen.weigh.session import Session
from unladen.weigh.visits.weighing import browser_for

BOXES = (20, 24, 28, 32, 36, 40, 44, 48)
PEOPLE = 15
_ROOT = ("startbootstrap-sb-admin-2", "4.1.4")


def site(folder: Path) -> Capture:
    """The package's index alone, with its own styles and scripts, and the people in its midst."""
    source = folder / "dashboard"
    root = registry_package(*_ROOT)
    for part in ("css", "js", "vendor", "img"):
        shutil.copytree(root / part, source / part)
    rows = []
    for number, photo in enumerate(photographs(900)[:PEOPLE]):
        out = io.BytesIO()
        ImageOps.fit(photo, (400, 400), Image.Resampling.LANCZOS).save(out, "JPEG", quality=90)
        (source / "img" / f"person-{number}.jpg").write_bytes(out.getvalue())
        box = BOXES[number % len(BOXES)]
        rows.append(
            f'<tr><td><img class="rounded-circle" src="img/person-{number}.jpg" width="{box}" height="{box}" alt="">'
            f"<td>Person {number}<td>Mill {number}"
        )
    page = (root / "index.html").read_text()
    mark = "<!-- Content Row -->"
    assert mark in page
    people = f'<table class="table">{"".join(rows)}</table>'
    (source / "index.html").write_text(page.replace(mark, people + mark, 1))
    return read_folder(source, BodyStore(folder / "bodies"))


def measure() -> tuple[str, str, bool]:
    """Image bytes before and after on the desktop, and how many of the changes of avatars were set aside."""
    with tempfile.TemporaryDirectory() as name:
        capture = site(Path(name))
        conditions = [Conditions(DEVICES[device], runs=3) for device in USUAL_DEVICES]
        pages = [capture.page("/index.html")]
        with browser_for(capture) as browser:
            begin = time.perf_counter()
            found = weigh_and_survey(Session.of(browser, capture, Progress()), pages, conditions, "steady")
            surveyed = time.perf_counter()
            done = carry_out(Session.of(browser, capture, Progress()), found.plan, found.weigh_ins)
            checked = time.perf_counter()
    aside = [o for o in done.outcomes.by_change.values() if o.standing is Standing.SET_ASIDE or o.parts]
    for outcome in aside:
        reason = outcome.reason or outcome.parts[0].reason
        print(
            f"  set aside: {outcome.change} {[part.pieces for part in outcome.parts][:3]}: {reason}", file=sys.stderr
        )
    for pair in done.pairs:
        print(
            f"  {pair.device}: {pair.steps} steps, {pair.cannot or 'same' if pair.passed else pair.differences}",
            file=sys.stderr,
        )
    bytes_ = [
        sum(w.kinds()["images"]["transferred"] for w in some if w.conditions.device.name == "desktop")
        for some in (found.weigh_ins, done.after)
    ]
    told = (
        f"images {bytes_[0]:,} to {bytes_[1]:,} bytes, {len(aside)} of {len(done.plan.counting())} changes set aside; "
        f"survey {surveyed - begin:.0f} s, from there {checked - surveyed:.0f} s"
    )
    return told, "none set aside", not aside


if __name__ == "__main__":
    print(measure())
