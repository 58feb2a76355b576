"""Twenty users who look and edit, first alone, then beside a bulk job of another one."""

from __future__ import annotations

import random
import statistics
import tempfile
import threading
import time
from pathlib import Path

from bench.served import Caller, served
from tests.sites import page, photo, zip_of

USERS, ALONE, BESIDE = 20, 20.0, 120.0  # s
LIMIT = 300.0  # ms of the 95th percentile beside the job
PICTURES = 400


def measure() -> tuple[str, str, bool]:
    """The 95th percentile of all answers, alone and beside; errors."""
    names = [f"user{n}" for n in range(USERS)]
    with tempfile.TemporaryDirectory() as folder, served([*names, "bulk"], workers=2, MULE_RUNS="1") as (address, _):
        small = zip_of(_site(3), Path(folder) / "small.zip")
        callers = [Caller(address, name) for name in names]
        sites = [caller.upload(small)["id"] for caller in callers]
        for caller, site in zip(callers, sites, strict=True):
            while caller.ask("GET", f"/api/sites/{site}/plan") is None:
                time.sleep(0.5)
        alone, none = _round(callers, sites, ALONE)
        large = zip_of(_site(PICTURES), Path(folder) / "large.zip")
        bulk = Caller(address, "bulk")
        job = bulk.upload(large)["id"]
        beside, errors = _round(callers, sites, BESIDE)
        still = bulk.ask("GET", f"/api/sites/{job}/job")
    first, second = (statistics.quantiles(times, n=20)[-1] for times in (alone, beside))
    told = (
        f"95 % within {second:.0f} ms of {len(beside):,} answers beside {'a' if still else 'an ended'} job, "
        f"{second / first:.1f} times the {first:.0f} ms alone; {len(errors) + len(none)} errors"
    )
    return told, f"{LIMIT:.0f} ms, no errors", second <= LIMIT and not errors and not none


def _site(pictures: int) -> dict[str, bytes]:
    images = {f"{n}.jpg": photo(900, 600, n, grain=4) for n in range(pictures)}
    shown = "".join(f"<img src={name} width=300 height=200>" for name in images)
    return {"index.html": page(shown)} | images


def _round(callers: list[Caller], sites: list[str], seconds: float) -> tuple[list[float], list[str]]:
    times: list[float] = []
    errors: list[str] = []
    end = time.monotonic() + seconds

    def use(number: int, caller: Caller, site: str) -> None:
        dice = random.Random(number)
        while time.monotonic() < end:
            for ask in (_look, _edit):
                begin = time.perf_counter()
                try:
                    count = ask(caller, site)
                    times.extend([1000 * (time.perf_counter() - begin) / count] * count)
                except (RuntimeError, OSError) as error:
                    errors.append(str(error))
                time.sleep(dice.uniform(0.4, 1.6))  # people read

    threads = [
        threading.Thread(target=use, args=(n, *pair)) for n, pair in enumerate(zip(callers, sites, strict=True))
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    for error in errors[:3]:
        print(f"  {error}", flush=True)
    return times, errors


def _look(caller: Caller, site: str) -> int:
    paths = ("/api/sites", f"/api/sites/{site}", f"/api/sites/{site}/plan", f"/api/sites/{site}/weigh-ins")
    for path in paths:
        caller.ask("GET", path)
    return len(paths)


def _edit(caller: Caller, site: str) -> int:
    plan = caller.ask("GET", f"/api/sites/{site}/plan")
    change = plan["changes"][0]
    switch = {"do": "switch", "ids": [change["id"]], "on": not change["on"]}
    caller.ask("POST", f"/api/sites/{site}/plan/commands", {"version": plan["version"], "commands": [switch]})
    return 2
