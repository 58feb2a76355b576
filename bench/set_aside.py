"""What the steady effort sets aside on pages from the registry, each with its evidence: python -m bench.set_aside
[NAME ...]

Prints a line for each page, and below it one for each change, target or piece that the check did not let through. With
`--pictures FOLDER` the pages as found and as they would be are written there, for people to judge.
"""

from __future__ import annotations

import argparse
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from tests.sites import registry_package
from unladen.capture import BodyStore, read_site
from unladen.check import Standing
from unladen.check.outcomes import ChangeResult
from unladen.check.pairs import PageCheck
from unladen.lighten import Lightened, carry_out, weigh_and_survey
from unladen.progress import Progress
from unladen.weigh.records.conditions import USUAL_DEVICES, Conditions, device_named
from unladen.weigh.session import Session
from unladen.weigh.visits.weighing import browser_for

# Package, version, folder within, pages.
SITES = (
    ("startbootstrap-new-age", "6.0.7", "dist", ("/index.html",)),
    ("startbootstrap-creative", "7.0.7", "dist", ("/index.html",)),
    ("startbootstrap-resume", "7.0.6", "dist", ("/index.html",)),
    ("startbootstrap-agency", "7.0.12", "dist", ("/index.html",)),
    ("startbootstrap-freelancer", "7.0.7", "dist", ("/index.html",)),
    ("startbootstrap-grayscale", "7.0.6", "dist", ("/index.html",)),
    ("startbootstrap-clean-blog", "6.0.9", "dist", ("/index.html", "/about.html", "/post.html")),
    ("startbootstrap-sb-admin-2", "4.1.4", "", ("/index.html", "/charts.html", "/tables.html", "/buttons.html")),
    ("bulma-start", "0.0.5", "", ("/index.html",)),
    ("lightslider", "1.1.6", "demo", ("/index.html",)),
    ("jquery-focuspoint", "1.1.3", "demos", ("/full-screen/index.html",)),
    ("flexslider", "2.7.2", "demo", ("/index.html",)),
    ("owl.carousel", "2.3.4", "docs", ("/index.html",)),
    ("gentelella-rtl", "1.4.0", "public", ("/index.html",)),
    ("html5-boilerplate", "9.0.1", "dist", ("/index.html",)),
)


def lightened(name: str, version: str, part: str, paths: tuple[str, ...], folder: Path) -> Lightened:
    """The steady effort carried out on pages of a package; raises `BadInput` for a page that the package has not."""
    capture = read_site(registry_package(name, version) / part, BodyStore(folder / "site" / "bodies"))
    pages = [capture.page(path) for path in paths]
    conditions = [Conditions(device_named(device)) for device in USUAL_DEVICES]
    with browser_for(capture) as browser:
        baseline = weigh_and_survey(Session.of(browser, capture, Progress()), pages, conditions, "steady")
        return carry_out(
            Session.of(browser, capture, Progress()), baseline.plan, baseline.weigh_ins, baseline.notices
        )


def evidence(outcome: ChangeResult) -> Iterator[tuple[str, str, PageCheck | None]]:
    """What of a change was set aside, why, and the pair of looks that shows it."""
    if outcome.standing is Standing.SET_ASIDE:
        yield outcome.change, outcome.reason, outcome.pair
    for part in outcome.parts:
        what = f"{len(part.pieces)} pieces of " if part.pieces else ""
        yield f"{outcome.change}: {what}{part.target}", part.reason, part.pair


def _tell(result: Lightened, store: BodyStore, pictures: Path | None) -> None:
    rows = [row for outcome in result.outcomes.by_change.values() for row in evidence(outcome)]
    for count, (what, reason, pair) in enumerate(rows, 1):
        where = f"{pair.page} {pair.device}" if pair else ""
        print(f"  {what}\n    {where} {reason}", flush=True)
        for difference in (pair.differences if pair else ())[:3]:
            print(f"      {difference.what}: {difference.text} | {difference.detail[:160]}", flush=True)
        if pictures and pair:
            pictures.mkdir(parents=True, exist_ok=True)
            for side, digest in (("found", pair.before), ("now", pair.after)):
                if digest:
                    (pictures / f"{count:02}-{pair.device}-{side}.png").write_bytes(store.get(digest))


def main(arguments: list[str]) -> int:
    """Print what is set aside; 1 where a page is handed over that differs or does not add up."""
    parser = argparse.ArgumentParser(prog="python -m bench.set_aside")
    parser.add_argument("names", nargs="*")
    parser.add_argument("--pictures", type=Path)
    options = parser.parse_args(arguments)
    bad = 0
    for name, version, part, paths in SITES:
        if options.names and name not in options.names:
            continue
        begin = time.perf_counter()
        with tempfile.TemporaryDirectory(prefix="mule-aside-") as folder:
            result = lightened(name, version, part, paths, Path(folder))
            wrong = [pair for pair in result.pairs if not pair.passed]
            on = sum(change.on for change in result.plan.changes)
            seconds = time.perf_counter() - begin
            print(
                f"{name} {' '.join(paths)}: {len(result.pairs)} page checks, "
                f"{len(wrong)} differ, {on} changes, {seconds:.0f} s"
                f"{'' if result.account.adds_up() else ', DOES NOT ADD UP'}"
            )
            bad += bool(wrong) or not result.account.adds_up()
            store = BodyStore(Path(folder) / "site" / "bodies")
            _tell(result, store, options.pictures / name if options.pictures else None)
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
