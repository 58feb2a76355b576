"""What trimming brings on real pages from the registry: python -m bench.packages [NAME ...]

Each package is lightened twice with the steady effort, without and with the remedies for styles, scripts, fonts,
markup and delivery, from the same weigh-ins. Every page on every device must look as before.
"""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Iterable
from pathlib import Path

from tests.sites import registry_package
from unladen.capture import BodyStore, read_site
from unladen.lighten import Lightened, carry_out, weigh_and_survey
from unladen.progress import Progress
from unladen.remedies import remedy_named
from unladen.weigh.records.conditions import DEVICES, USUAL_DEVICES, Conditions, device_named
from unladen.weigh.records.model import WeighIn
from unladen.weigh.session import Session
from unladen.weigh.visits.weighing import browser_for

PACKAGES = (
    ("startbootstrap-creative", "7.0.7", "dist", ""),
    ("startbootstrap-resume", "7.0.6", "dist", ""),
    ("startbootstrap-agency", "7.0.12", "dist", ""),
    ("startbootstrap-freelancer", "7.0.7", "dist", ""),
    ("startbootstrap-grayscale", "7.0.6", "dist", ""),
    ("startbootstrap-new-age", "6.0.7", "dist", ""),
    ("startbootstrap-clean-blog", "6.0.9", "dist", ""),
    ("startbootstrap-sb-admin-2", "4.1.4", "", "/index.html"),
    ("bulma-start", "0.0.5", "", ""),
    ("owl.carousel", "2.3.4", "docs", "/index.html"),
    ("flexslider", "2.7.2", "demo", "/index.html"),
    ("lightslider", "1.1.6", "demo", ""),
)
KINDS = ("documents", "styles", "scripts", "fonts", "images")
_TRIMMING = ("styles", "scripts", "fonts", "markup", "delivery")


def _by_kind(weigh_ins: Iterable[WeighIn]) -> dict[str, int]:
    weighed = list(weigh_ins)
    return {kind: sum(weigh_in.kinds()[kind]["transferred"] for weigh_in in weighed) for kind in KINDS}


def _measure(name: str, version: str, part: str, pages: str) -> bool:
    with tempfile.TemporaryDirectory() as folder:
        source = registry_package(name, version) / part
        capture = read_site(source, BodyStore(Path(folder) / "site" / "bodies"))
        chosen = [capture.page(path) for path in pages.split(",") if path] or capture.pages()
        conditions = [Conditions(device_named(device)) for device in USUAL_DEVICES]
        with browser_for(capture) as browser:
            baseline = weigh_and_survey(Session.of(browser, capture, Progress()), chosen, conditions, "steady")
            trims = [c.id for c in baseline.plan.changes if remedy_named(c.remedy).phase in _TRIMMING]
            others = tuple(device for device in DEVICES.values())
            results: list[Lightened] = []
            for plan in (baseline.plan.without(trims), baseline.plan):
                results.append(
                    carry_out(
                        Session.of(browser, capture, Progress()),
                        plan,
                        baseline.weigh_ins,
                        baseline.notices,
                        glances=others,
                    )
                )
    found = _by_kind(baseline.weigh_ins)
    without, now = (_by_kind(result.after) for result in results)
    differing = [pair for result in results for pair in result.pairs if not pair.passed]
    adds_up = all(result.account.adds_up() for result in results)
    print(
        f"{name} {version}: {len(chosen)} pages, {'adds up' if adds_up else 'DOES NOT ADD UP'}, {len(differing)} differ"
    )
    for kind in KINDS:
        if found[kind]:
            print(f"  {kind:<10} {found[kind]:>12,} {without[kind]:>12,} {now[kind]:>12,}")
    whole = [sum(row.values()) for row in (found, without, now)]
    print(
        f"  {'all':<10} {whole[0]:>12,} {whole[1]:>12,} {whole[2]:>12,}   {whole[2] / max(1, whole[1]):.2f}",
        flush=True,
    )
    return adds_up and not differing


if __name__ == "__main__":
    wanted = sys.argv[1:]
    holds = [_measure(*row) for row in PACKAGES if not wanted or row[0] in wanted]
    sys.exit(not all(holds))
