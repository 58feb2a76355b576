"""Faults planted in pages, and harmless changes: what the check finds, whom it blames, and what it flags for
nothing.
"""

from __future__ import annotations

import argparse
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from bench.planted import boats
from bench.planted.faults import FAULTS as USUAL
from bench.planted.faults import MEETING, Files, Planted
from bench.planted.harmless import HARMLESS
from bench.planted.pages import SITES
from unladen.capture import BodyStore, Capture, Exchange, read_folder
from unladen.check.blame import Culprit, blame
from unladen.check.evidence import pointed_at
from unladen.check.page_checks import PageChecks
from unladen.check.pairs import Difference
from unladen.plan import Unit
from unladen.remedies import Journal
from unladen.weigh.records.conditions import Device, device_named
from unladen.weigh.visits.weighing import browser_for
from unladen.work_cache import WorkCache

FAULTS = [*USUAL, *boats.FAULTS]


class Bench:
    """Sites with one thing changed, compared with what they were."""

    def __init__(self, folder: Path, page_checks: PageChecks, sites: Sequence[str] = tuple(SITES)) -> None:
        self.folder = folder
        self.store = page_checks.work_cache.store
        self.page_checks = page_checks
        self.files: dict[str, Files] = {}
        self.found: dict[str, Capture] = {}
        for name in sites:
            self.files[name] = SITES[name]()
            self.found[name] = self.capture(self.files[name])

    def capture(self, files: Files) -> Capture:
        """A capture of these files."""
        source = Path(tempfile.mkdtemp(dir=self.folder))
        for name, body in files.items():
            (source / name).parent.mkdir(parents=True, exist_ok=True)
            (source / name).write_bytes(body)
        return read_folder(source, self.store)

    def differences(self, planted: Planted, device: Device) -> Sequence[Difference]:
        """What the check says of one change."""
        changed = self.capture(planted.edit(self.files[planted.site]))
        page = self.found[planted.site].page(planted.page)
        return self.page_checks.compared(self.found[planted.site], changed, page, [device])[0].differences

    def together(self, one: Planted, other: Planted, device: Device, crowd: Sequence[Planted]) -> str:
        """What is wrong about two changes that only break something together; "" if all is as it should be."""
        for each in (one, other):
            if found := self.differences(each, device):
                return f"{each.name} alone: {found[0].text}"
        both = replace(one, edit=lambda files: other.edit(one.edit(files)))
        if not self.differences(both, device):
            return "not found"
        guilty, _ = self.guilty([*crowd, one, other], one, device)
        names = {one.name, other.name}
        if len(guilty) != 1 or {guilty[0].unit.change, *(u.change for u in guilty[0].together)} != names:
            return f"blamed {[(g.unit.change, [u.change for u in g.together]) for g in guilty]}"
        return ""

    def culprit(self, planted: Planted, device: Device, crowd: Sequence[Planted]) -> tuple[list[str], int]:
        """Who is blamed for a fault among harmless changes of the same page, and how many looks that took."""
        guilty, asked = self.guilty([*crowd, planted], planted, device)
        return [guilt.unit.change for guilt in guilty], asked

    def guilty(self, some: Sequence[Planted], planted: Planted, device: Device) -> tuple[Sequence[Culprit], int]:
        """Who of some changes is blamed for what differs with all of them, and the looks that took."""
        everyone = {Unit(entry.name, f"/{entry.file}"): entry for entry in some}
        found = self.found[planted.site]
        page: Exchange = found.page(planted.page)

        def ask(units: Sequence[Unit]) -> Sequence[Difference]:
            files = self.files[planted.site]
            for unit, entry in everyone.items():
                if unit in units:
                    files = entry.edit(files)
            return self.page_checks.compared(found, self.capture(files), page, [device], known)[0].differences

        files = self.files[planted.site]
        for entry in everyone.values():
            files = entry.edit(files)
        seen = self.page_checks.compared(found, self.capture(files), page, [device])[0]
        if not seen.differences:
            return [], 0
        known = self.page_checks.narrowed(found, self.capture(files), page, device, seen.differences)
        pointed = pointed_at(
            list(everyone), seen.differences, found, planted.page, Journal(), seen.before, seen.after
        )
        told = blame(pointed, seen.differences, ask)
        return told.guilty, told.asked


def crowd_for(planted: Planted, most: int = 7) -> list[Planted]:
    """Harmless changes of the same page that do not stand in the way of it, nor of each other."""
    found: list[Planted] = []
    for entry in HARMLESS:
        same_page = (entry.site, entry.page) == (planted.site, planted.page)
        taken = {planted.file, *(other.file for other in found)}
        if same_page and entry.file not in taken and not entry.name.startswith("inlined"):
            found.append(entry)
    return found[:most]


def main(arguments: Sequence[str]) -> int:
    """Run it and print the figures; 1 when something was not as wanted."""
    parser = argparse.ArgumentParser(prog="python -m bench.planted")
    parser.add_argument("--only", default="", help="names or kinds that contain this")
    parser.add_argument("--no-culprit", action="store_true")
    parser.add_argument("--verbose", action="store_true")
    parser.add_argument("--busy", type=int, default=0, metavar="N", help="so many busy processes beside it")
    options = parser.parse_args(arguments)
    begin = time.perf_counter()
    busy = [subprocess.Popen([sys.executable, "-c", "while True: pass"]) for _ in range(options.busy)]
    try:
        return _run(options, begin)
    finally:
        for process in busy:
            process.kill()


def _run(options: argparse.Namespace, begin: float) -> int:
    missed: list[str] = []
    wrong: list[str] = []
    alarms: list[str] = []
    trials: Counter[int] = Counter()
    with tempfile.TemporaryDirectory(prefix="mule-planted-") as name:
        folder = Path(name)
        store = BodyStore(folder / "bodies")
        with browser_for(read_folder(_empty(folder), store)) as browser:
            bench = Bench(folder, PageChecks(browser, WorkCache(folder / "memo", store)))
            faults = [f for f in FAULTS if options.only in f"{f.kind} {f.name} {f.site}"]
            for fault in faults:
                for device in map(device_named, fault.devices):
                    found = bench.differences(fault, device)
                    if options.verbose or not found:
                        print(
                            f"{'found ' if found else 'MISSED'} {fault.kind}: {fault.name} ({device.name})",
                            flush=True,
                        )
                        for difference in found[:3]:
                            print(f"         {difference.what}: {difference.text}", flush=True)
                    if not found:
                        missed.append(fault.name)
                    elif not options.no_culprit:
                        blamed, asked = bench.culprit(fault, device, crowd_for(fault))
                        trials[asked] += 1
                        if blamed != [fault.name]:
                            wrong.append(fault.name)
                            print(f"WRONG  {fault.name}: blamed {blamed}", flush=True)
            meeting = [pair for pair in MEETING if options.only in f"{pair[0].kind} {pair[0].name} {pair[0].site}"]
            for one, other in meeting:
                crowd = [entry for entry in crowd_for(one) if entry.file != other.file]
                if trouble := bench.together(one, other, device_named("phone"), crowd):
                    wrong.append(one.name)
                    print(f"WRONG  {one.name} with {other.name}: {trouble}", flush=True)
            harmless = [h for h in HARMLESS if options.only in f"{h.kind} {h.name} {h.site}"]
            for entry in harmless:
                for device in map(device_named, entry.devices):
                    found = bench.differences(entry, device)
                    if found:
                        alarms.append(entry.name)
                        print(f"ALARM  {entry.site} {entry.page} {entry.name} ({device.name})", flush=True)
                        for difference in found[:3]:
                            print(
                                f"         {difference.what}: {difference.text} | {difference.detail[:200]}",
                                flush=True,
                            )
            snapshots = bench.page_checks.taken
    print(
        f"meeting pairs {len(meeting)}; faults {len(faults)}, found {len(faults) - len(missed)}, culprit wrong "
        f"{len(wrong)}, looks per search {dict(sorted(trials.items()))}"
    )
    print(
        f"harmless {len(harmless)}, false alarms {len(alarms)}; {snapshots} snapshots "
        f"in {time.perf_counter() - begin:.0f} s"
    )
    return 1 if missed or wrong or alarms else 0


def _empty(folder: Path) -> Path:
    source = folder / "empty"
    source.mkdir()
    (source / "index.html").write_text("<p>nothing")
    return source


__all__ = ["main"]
