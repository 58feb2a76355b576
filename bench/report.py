"""The report of 20 pages as PDF in seconds, and the memory of one with 64,000 changes, which would fill 2,000 pages."""

from __future__ import annotations

import resource
import subprocess
import sys
import time
from typing import Any

TIME, MEMORY = 15.0, 500_000_000  # s, bytes of this program and of the largest process of the browser
_PAGES, _CHANGES = 20, 64_000


def _ledger(pages: int, changes: int) -> dict[str, Any]:
    from unladen.weigh.records.kinds import KINDS

    sums = {"requests": 40, "transferred": 2_000_000, "decoded": 3_000_000}
    weigh_ins = [
        {
            "page": f"/page{number}.html", "device": device, "window": {"width": 390, "height": 844, "density": 2},
            "visit": "first", "link": "unlimited", "runs": 3, **sums, "load_ms": 900.0, "load_ms_runs": [800.0, 900.0],
            "kinds": {kind: {"transferred": 250_000} for kind in KINDS}, "browser": "140", "taken": "2026-11-20T10:00",
            "modelled_load_ms": {"1.6 Mbit/s, 150 ms": 9000.0, "0.4 Mbit/s, 400 ms": 40_000.0},
        }
        for number in range(pages) for device in ("phone", "desktop")
    ]  # fmt: skip
    saved = {"bytes": 10_000, "requests": 0}
    rows = [
        {
            "id": f"webp:/{number}.jpg", "remedy": "webp", "targets": [f"/images/{number}.jpg"], "on": True,
            "standing": "passed", "reason": "", "aside": [], "saved": saved,
        }
        for number in range(changes)
    ]  # fmt: skip
    return {
        "before": weigh_ins, "after": weigh_ins, "changes": rows, "lines": [], "notices": [], "unexplained": saved,
        "remedies": {"webp": saved}, "checks": {"pairs": 40, "passed": 40, "set_aside": 0},
    }  # fmt: skip


def _seconds() -> float:
    from tests.sites import photo
    from unladen.ledger.report import Report, Shot, report_html, report_pdf

    picture = photo(1280, 3000, grain=3)
    shots = [Shot(f"/page{n}.html", d, picture, picture) for n in range(_PAGES) for d in ("phone", "desktop")]
    begin = time.perf_counter()
    report_pdf(report_html(Report("The mill", _ledger(_PAGES, 400), shots=shots)))
    return time.perf_counter() - begin


def child() -> None:
    """A long report in a process of its own; prints its pages and the peak of memory in bytes."""
    from unladen.ledger.report import Report, report_html, report_pdf

    body = report_pdf(report_html(Report("The mill", _ledger(_PAGES, _CHANGES))))
    own, others = (resource.getrusage(who).ru_maxrss for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN))
    print(body.count(b"/Type /Page\n"), (own + others) * 1024)


def measure() -> tuple[str, str, bool]:
    """Seconds for 20 pages with 40 pairs of pictures; memory for 64,000 changes."""
    code = "from bench.report import child\nif __name__ == '__main__': child()"
    told = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout.split()
    seconds, memory = _seconds(), int(told[1])
    return (
        f"{seconds:.1f} s; {told[0]} pages of changes with {memory / 1e6:.0f} MB",
        f"under {TIME:.0f} s and {MEMORY / 1e6:.0f} MB",
        seconds < TIME and memory < MEMORY,
    )
