"""What a check costs, in loads of the same page: at rest, with its walk, and again after one change was switched."""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from bench.weigh_in import bare_load
from tests.sites import page, photo
from unladen.capture import BodyStore, Capture, read_folder
from unladen.check.page_checks import PageChecks
from unladen.check.snapshot import SnapshotTaker
from unladen.weigh.records.conditions import DEVICES
from unladen.weigh.visits.weighing import browser_for
from unladen.work_cache import WorkCache

ROUNDS = 3
DEVICE = DEVICES["desktop"]
CONTROLS = 30
QUICK, WALK, SECOND = 3.0, 15.0, 2.0


def site(folder: Path, word: str = "") -> Capture:
    """Two pages with so many controls of different sorts and a few pictures; `word` stands on the first."""
    controls = "".join(
        f'<div class=c{n}><button class=b{n} onclick="this.nextElementSibling.hidden ^= 1">Part {n}</button>'
        f"<p hidden>Text {n}</p></div>"
        for n in range(CONTROLS)
    )
    images = "".join(f"<img src=p{n}.jpg width=300 height=200>" for n in range(4))
    style = "<style>button:hover{color:red}</style>"
    source = Path(tempfile.mkdtemp(dir=folder))
    for name, extra in (("index.html", word), ("other.html", "")):
        (source / name).write_bytes(page(f"<h1>Bench</h1>{extra}{images}{controls}", style))
    for n in range(4):
        (source / f"p{n}.jpg").write_bytes(photo(600, 400, n))
    return read_folder(source, BodyStore(folder / "bodies"))


def _median(act: Callable[[], object], rounds: int = ROUNDS) -> float:
    taken = []
    for _ in range(rounds):
        begin = time.perf_counter()
        act()
        taken.append(time.perf_counter() - begin)
    return statistics.median(taken)


def measure() -> tuple[str, str, bool]:
    """Medians over bare loads of the same page in the same browser.

    The second check is one at rest of two pages, after something on one of them was switched.
    """
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        found = site(folder)
        spot = [(found.page("/index.html").url, DEVICE)]
        with browser_for(found) as browser:
            checker = SnapshotTaker(browser)
            browser.run(bare_load(browser, spot[0][0]))
            load = _median(lambda: browser.run(bare_load(browser, spot[0][0])))
            quick = _median(lambda: checker.look_all(found, spot, quick=True))
            walk = _median(lambda: checker.look_all(found, spot))
            page_checks = PageChecks(browser, WorkCache(folder / "memo", found.store), quick=True)

            def check(lighter: Capture) -> None:
                for each in found.pages():
                    page_checks.compared(found, lighter, each, [DEVICE])

            check(found)
            switched = iter([site(folder, word) for word in ("<!-- 1 -->", "<!-- 2 -->", "<!-- 3 -->")])
            second = _median(lambda: check(next(switched)))
    figures = {"quick": (quick / load, QUICK), "walk": (walk / load, WALK), "second": (second / load, SECOND)}
    told = ", ".join(f"{name} {ratio:.1f}" for name, (ratio, _) in figures.items())
    wanted = ", ".join(f"{name} at most {most:.0f}" for name, (_, most) in figures.items())
    return f"{told} times a load of {load:.2f} s", wanted, all(ratio <= most for ratio, most in figures.values())
