"""Lists of 2,000 pages and 10,000 changes beside ten times fewer: script until a list is drawn."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

from playwright.sync_api import sync_playwright

from bench.screens import script_of, signed_in
from tests.serving import serving
from unladen.weigh.chromium.browser import find_chromium

ROOT = Path(__file__).resolve().parent.parent
FEW, TIMES = (200, 1000), 10  # pages, changes
AS_FAST = 1.5  # times, since a few ms either way are chance
LISTS = {
    "Pages": ("weigh?part=requests", "Pages", ".weigh-ins tbody tr"),
    "What could go": ("sort?part=use", "Findings", ".excess"),
}


def fill(pages: int, changes: int) -> None:
    """Run in a process of its own: a site of so many weighed pages, with so much that could go."""
    import django

    django.setup()
    from django.contrib.auth.models import User

    from server.sites import plans, storage
    from server.sites.documents import Baseline
    from server.sites.models import Site, StoredWeighIn
    from unladen.capture import read_folder
    from unladen.plan import Plan
    from unladen.remedies import Change, Params
    from unladen.survey.findings import Finding, PlaceFacts
    from unladen.weigh.records.conditions import DEVICES, Conditions
    from unladen.weigh.records.model import PageFacts, Request, Timings, Visit, WeighIn

    user, _ = User.objects.get_or_create(username="bench")
    user.set_password("bench")
    user.save()
    site = Site(owner=user, name=f"Of {changes}", index={})
    with tempfile.TemporaryDirectory() as folder:
        (Path(folder) / "index.html").write_bytes(b"<p>x")
        capture = read_folder(Path(folder), storage.store(site.pk))
    timings = Timings(200, 400, 300, 2600)
    rows = []
    for n in range(pages):
        visit = Visit(
            [Request(f"{capture.base_url}p{n}.html", "documents", 200, 5000, 9000, ended=50)], timings=timings
        )
        weigh_in = WeighIn(
            f"/p{n}.html", Conditions(DEVICES["phone"]), visit, PageFacts(), [timings], "Chromium 1", ""
        )
        rows.append(storage.row_of(site, "found", weigh_in, capture.base_url))
    excess, wanted = [], []
    for n in range(changes):
        path, page = f"/images/{n}.jpg", f"/p{n % pages}.html"
        change = Change(f"exact:{path}", "exact", (path,), (page,), Params())
        wanted.append(change)
        excess.append(
            Finding(
                change.id,
                "heavy",
                "images",
                f"{n}.jpg weighs too much",
                "It was tried out.",
                (page,),
                90_000 - n,
                99_000,
                0,
                True,
                PlaceFacts(),
                (change,),
            ).as_json()
        )
    site.index = capture.to_index()
    moment = "2026-01-01T00:00:00Z"
    site.baseline = Baseline([str(row.pk) for row in rows], excess, taken=moment, surveyed=moment)
    site.save()
    StoredWeighIn.objects.bulk_create(rows)
    plans.begin(site, Plan("steady", tuple(wanted)))
    print(site.pk)


def measure() -> tuple[str, str, bool]:
    """Both lists in the real front end, against the real server."""
    found: dict[str, list[float]] = {name: [] for name in LISTS}
    with tempfile.TemporaryDirectory() as folder:
        environment = os.environ | {
            "MULE_DATA": folder, "DJANGO_SETTINGS_MODULE": "server.settings", "PYTHONPATH": str(ROOT)
        }  # fmt: skip
        common: dict[str, Any] = {"cwd": ROOT, "env": environment}
        subprocess.run(
            [sys.executable, "manage.py", "migrate", "--no-input"], check=True, capture_output=True, **common
        )
        keys = []
        for times in (1, TIMES):
            code = f"from bench.long_lists import fill; fill({FEW[0] * times}, {FEW[1] * times})"
            done = subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True, **common)
            keys.append(done.stdout.strip())
        with serving(ROOT, environment) as address, sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=find_chromium(), chromium_sandbox=os.geteuid() != 0)
            page = signed_in(browser, address, f"Of {FEW[1]}")
            for key in keys:
                for name, (path, part, what) in LISTS.items():
                    found[name].append(script_of(page, f"{address}/sites/{key}/{path}", part, what, 100))
            browser.close()
    told = ", ".join(f"{name} {few:.0f} and {many:.0f} ms" for name, (few, many) in found.items())
    return (
        f"{told} of script for {FEW[0] * TIMES:,} pages and {FEW[1] * TIMES:,} changes beside a tenth of them",
        f"{AS_FAST} times at most",
        all(many <= AS_FAST * few for few, many in found.values()),
    )
