"""Which rules match which elements, held against reading all computed styles: whatever the full reading finds, the
rules find.

All planted faults and harmless changes of all sites, on a phone; python -m bench.style_proof [PART OF A NAME]
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

from bench.planted import FAULTS, Bench
from bench.planted.harmless import HARMLESS
from unladen.capture import BodyStore, Capture, read_folder
from unladen.check.compare import compare
from unladen.check.page_checks import PageChecks
from unladen.check.probes.rules import focus_of
from unladen.check.snapshot import Snapshot, SnapshotTaker
from unladen.weigh.records.conditions import DEVICES
from unladen.weigh.visits.weighing import browser_for
from unladen.work_cache import WorkCache

PHONE = DEVICES["phone"]


def run(part: str = "") -> tuple[int, int, int, float, float]:
    """Changes tried, those that the full reading finds, those that the rules miss, and the seconds of either
    reading.
    """
    tried = found = missed = 0
    spent = {"rules": 0.0, "styles": 0.0}
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "empty").mkdir()
        (folder / "empty" / "index.html").write_text("<p>nothing")
        store = BodyStore(folder / "bodies")
        with browser_for(read_folder(folder / "empty", store)) as browser:
            bench = Bench(folder, PageChecks(browser, WorkCache(folder / "memo", store)))
            checker = SnapshotTaker(browser)

            def read(capture: Capture, url: str, probe: str) -> Snapshot:
                begin = time.perf_counter()
                (snapshot,) = checker.look_all(capture, [(url, PHONE)], only=[probe])
                spent[probe] += time.perf_counter() - begin
                return snapshot

            first: dict[str, dict[str, Snapshot]] = {}
            for change in [c for c in [*FAULTS, *HARMLESS] if part in f"{c.kind} {c.name} {c.site}"]:
                url = bench.found[change.site].page(change.page).url
                before = first.setdefault(
                    f"{change.site} {url}", {p: read(bench.found[change.site], url, p) for p in spent}
                )
                changed = bench.capture(change.edit(bench.files[change.site]))
                after = {probe: read(changed, url, probe) for probe in spent}
                tried += 1
                if not after["rules"].alive or "rules" not in after["rules"].observations:
                    continue
                full = compare(before["styles"], before["styles"], after["styles"], ["styles"])
                focus = focus_of(before["rules"].observations["rules"], after["rules"].observations["rules"])
                places = {place for difference in full for place in difference.places}
                within = {p for p in places for q in (focus.places if focus else ()) if p == q or p.startswith(q)}
                found += bool(full)
                if places - within:
                    missed += 1
                    print(f"MISSED {change.site} {change.name}: {full[0].text} {sorted(places - within)[:3]}")
    return tried, found, missed, spent["rules"], spent["styles"]


def measure() -> tuple[str, str, bool]:
    """All of them."""
    tried, found, missed, rules, styles = run()
    told = (
        f"{tried} changes, {found} with other styles, {missed} missed; rules {rules / styles:.2f} of the full reading"
    )
    return told, "none missed", not missed


if __name__ == "__main__":
    print(run(*sys.argv[1:2]))
