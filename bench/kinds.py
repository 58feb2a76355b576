"""A site of 500 pages of ten kinds: some of each kind weighed beside all of them, and changes for all."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

SHARE = 0.2  # of the time that weighing all takes
_KINDS, _PAGES, _MOST = 10, 500, 12


def make_site(folder: Path, pages: int) -> None:
    """A site of so many pages, of ten kinds, each page with a picture of its own."""
    from tests.sites import page, photo

    pictures = [photo(640, 420, seed) for seed in range(25)]
    (folder / "theme.css").write_text(
        "body{margin:0;font:16px sans-serif}img{width:100%;height:auto}" + ".x{top:0}" * 200
    )
    (folder / "img").mkdir()
    for kind in range(_KINDS):
        (folder / f"k{kind}").mkdir()
        (folder / f"k{kind}.js").write_text(f"document.documentElement.dataset.kind = '{kind}'")
        for number in range(pages * kind // _KINDS, pages * (kind + 1) // _KINDS):
            name = f"{kind}-{number}"
            # Every page has a picture of its own: the same photograph at another quality is another file.
            body = pictures[(kind * 7 + number) % len(pictures)] + name.encode()
            (folder / "img" / f"{name}.jpg").write_bytes(body)
            blocks = "".join(f"<section class=s{kind}-{n}><p>Words of {name}</section>" for n in range(kind + 3))
            html = page(
                f"<article class=kind{kind}><h1>{name}</h1><img src=/img/{name}.jpg alt=x>{blocks}</article>",
                "<meta name=viewport content='width=device-width'><link rel=stylesheet href=/theme.css><script "
                f"src=/k{kind}.js></script>",
            )
            (folder / f"k{kind}" / f"{number}.html").write_bytes(html)


def measure() -> tuple[str, str, bool]:
    """Seconds of each way in one run, and what it takes to find changes for all."""
    from unladen.capture import BodyStore, read_folder
    from unladen.lighten import surveyed
    from unladen.markup.page_groups import standing_for_all
    from unladen.progress import Progress
    from unladen.survey import SurveyInputs
    from unladen.weigh.records.conditions import DEVICES, Conditions
    from unladen.weigh.session import Session
    from unladen.weigh.visits.weighing import browser_for, weigh_pages

    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "site"
        folder.mkdir()
        make_site(folder, _PAGES)
        capture = read_folder(folder, BodyStore(Path(name) / "bodies"))
        conditions = [Conditions(DEVICES["phone"], runs=1)]
        begin = time.perf_counter()
        chosen, kin = standing_for_all(capture, _MOST)
        told = time.perf_counter() - begin
        with browser_for(capture) as browser:
            weigh_pages(
                Session.of(browser, capture, Progress()), chosen[:1], conditions
            )  # both ways begin with a browser that is there
            begin = time.perf_counter()
            some = weigh_pages(Session.of(browser, capture, Progress()), chosen, conditions, layouts=True)
            few = told + time.perf_counter() - begin
            begin = time.perf_counter()
            weigh_pages(Session.of(browser, capture, Progress()), capture.pages(), conditions, layouts=True)
            every = time.perf_counter() - begin
        begin = time.perf_counter()
        found = surveyed(capture, SurveyInputs(some, kin=kin), "gentle", Progress())
        seconds = time.perf_counter() - begin
        pages = {page for change in found.plan.changes for page in change.pages}
    return (
        f"{_PAGES} pages: {len(chosen)} of all kinds {few:.1f} s (of it {told:.1f} to tell kinds), all {every:.1f} s, "
        f"{few / every:.3f}; {len(found.plan.changes)} changes over {len(pages)} pages found in {seconds:.1f} s",
        f"under {SHARE:.2f}",
        few < SHARE * every,
    )
