"""What three runs on phone and desktop cost over one bare load of the same page, which weighs 2 MB."""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path

from bench.weigh_in import bare_load
from tests.sites import page, photo
from unladen.capture import BodyStore, read_folder
from unladen.progress import Progress
from unladen.weigh.records.conditions import DEVICES, USUAL_DEVICES, Conditions
from unladen.weigh.session import Session
from unladen.weigh.visits.weighing import browser_for, weigh_pages

LIMIT, ROUNDS = 6, 5


def measure() -> tuple[str, str, bool]:
    """The median bare load against six runs, the start of the second browser included."""
    with tempfile.TemporaryDirectory() as folder:
        source = Path(folder) / "site"
        source.mkdir()
        pictures = {f"{n}.jpg": photo(1000, 700, n) for n in range(7)}
        images = "".join(f"<img src={name} width=500 height=350>" for name in pictures)
        for name, body in {"index.html": page(images + "<p>text " * 400), **pictures}.items():
            (source / name).write_bytes(body)
        capture = read_folder(source, BodyStore(Path(folder) / "bodies"))
        conditions = [Conditions(DEVICES[name], runs=3) for name in USUAL_DEVICES]
        with browser_for(capture) as browser:
            url = capture.page("/index.html").url
            browser.run(bare_load(browser, url))
            bare, full = [], []
            for _ in range(ROUNDS):
                begin = time.perf_counter()
                browser.run(bare_load(browser, url))
                bare.append(time.perf_counter() - begin)
                begin = time.perf_counter()
                found = weigh_pages(
                    Session.of(browser, capture, Progress()), [capture.page("/index.html")], conditions
                )
                full.append(time.perf_counter() - begin)
    ratio = statistics.median(full) / statistics.median(bare)
    weight = found[0].visit.transferred / 1e6
    return f"{ratio:.2f} times a bare load of a page of {weight:.1f} MB", f"under {LIMIT}", ratio < LIMIT
