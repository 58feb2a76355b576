"""Runs of a site: what a carried out plan brought, kept with its proof."""

from __future__ import annotations

import shutil
from collections import Counter
from collections.abc import Sequence
from dataclasses import asdict
from functools import lru_cache
from pathlib import Path
from typing import Any
from uuid import UUID

from server.sites import storage
from server.sites.documents import Archive, Evidence, Weighed
from server.sites.models import PlanVersion, Run, Site
from server.sites.plans import plan_of
from unladen.atomic_files import written_whole
from unladen.capture import Capture, write_zip
from unladen.check import ChangeResults
from unladen.ledger import (
    Estimate,
    Replacement,
    Saving,
    Worth,
    estimate,
    read_ledger,
    replacements,
    replacements_csv,
    worth,
)
from unladen.ledger.by_hand import HandStep, hand_steps
from unladen.ledger.differences import site_diff, way_back
from unladen.lighten import Lightened
from unladen.remedies.delivery.lifetimes import seconds_in
from unladen.remedies.delivery.rules import rules_beside

MOST_ARCHIVES = 3  # those of earlier runs are written anew when somebody wants them
NAMES = ("lighter", "changed")
_WAYS = ("patch", "originals")


def new_run(site: Site, found: Lightened, capture: Capture, before: Sequence[str], after: Sequence[str]) -> Run:
    """The row of a run, not saved yet and without its version; its archives are written."""
    run = Run(
        site=site,
        ledger=found.ledger(),
        evidence=Evidence(
            [pair.as_json() for pair in found.pairs],
            found.outcomes.as_json(),
            [asdict(row) for row in replacements(capture, found.capture)],
            seconds_in(found.outcomes.applied_to(found.plan).counting()),
        ),
        index=found.capture.to_index(),
        open=bool(found.outcomes.open),
        weighed=Weighed(list(before), list(after)),
    )
    run.archive = Archive(f"runs/{run.pk}")
    whole, changed = (archive_of(run, name, capture) for name in NAMES)
    run.archive.bytes, run.archive.changed_bytes = whole.stat().st_size, changed.stat().st_size
    return run


def capture_of(run: Run) -> Capture:
    """The site as a run made it."""
    return Capture.from_index(run.index, storage.store(run.site_id))


def outcomes_of(run: Run | None) -> ChangeResults:
    """What a run found of each change."""
    return ChangeResults.from_json(run.evidence.outcomes) if run else ChangeResults()


def ledger_of(run: Run) -> dict[str, Any]:
    """Its ledger, of the latest version."""
    return read_ledger(run.ledger)


def archive_of(run: Run, name: str, found: Capture | None = None) -> Path:
    """One of a run's archives, written if it is not there; `found` is the site as found, if it is at hand."""
    path = storage.folder(run.site_id) / run.archive.folder / f"{name}.zip"
    if path.exists():
        return path
    lighter = capture_of(run)
    if name in _WAYS:
        return _written_way(path, name, storage.capture_of(run.site), lighter)
    with written_whole(path) as part:
        if name == "lighter":
            write_zip(lighter, part)
        else:
            changed = [Replacement(**row) for row in run.evidence.changed]
            beside = {
                "what-to-replace.csv": replacements_csv(changed),
                **rules_beside(lighter, run.evidence.lifetime),
            }
            write_zip(lighter, part, only={row.url for row in changed}, beside=beside)
    return path


def _written_way(path: Path, name: str, found: Capture, lighter: Capture) -> Path:
    """The run as a diff with what goes beside it, or the originals of all that it replaced."""
    with written_whole(path) as part:
        if name == "patch":
            diff, new = site_diff(found, lighter)
            write_zip(lighter, part, only={file.url for file in new}, beside={"changes.diff": diff})
        else:
            originals, extra = way_back(found, lighter)
            listing = "".join(f"{name}\n" for name in extra)
            write_zip(found, part, only={file.url for file in originals}, beside={"files-that-can-go.txt": listing})
    return path


@lru_cache(maxsize=8)
def _hand_steps(run: UUID) -> list[HandStep]:
    row = Run.objects.select_related("site").get(pk=run)
    excess = row.site.known.excess
    return hand_steps(storage.capture_of(row.site), capture_of(row), read_ledger(row.ledger), excess)


def hand_steps_of(run: Run) -> list[HandStep]:
    """What to put in by hand; a run never changes, so the same are at hand the next time."""
    return _hand_steps(run.pk)


def tidy(site: Site) -> None:
    """Let the archives of earlier runs go; what is in them can be written anew."""
    for key in site.runs.values_list("pk", flat=True)[MOST_ARCHIVES:]:
        if key != site.run_id:
            shutil.rmtree(storage.folder(site.pk) / f"runs/{key}", ignore_errors=True)


def standing_for(site: Site, version: PlanVersion) -> Run | None:
    """A run of the site as it is now, under its baseline, of a plan that asks for the same."""
    plan = plan_of(version)
    keys = site.known.weigh_ins
    rows = site.runs.filter(state=Run.State.DONE).select_related("version")
    for run in rows.defer("ledger", "evidence", "index", "version__document"):
        same = run.version_id == version.pk or plan.asks_the_same_as(plan_of(run.version))
        if run.weighed.before == keys and same:
            return run
    return None


def differs(version: PlanVersion, run: Run | None) -> bool:
    """Whether carrying a plan out would come to something else than the run that is shown."""
    if run is None:
        return version.wanted > 0
    return run.version_id != version.pk and not plan_of(version).asks_the_same_as(plan_of(run.version))


@lru_cache(maxsize=32)
def _measured(run: UUID) -> dict[str, Saving]:
    """What a run, which never changes, measured of each change that it carried out or found nothing in."""
    ledger = read_ledger(Run.objects.values_list("ledger", flat=True).get(pk=run))
    return {line["id"]: Saving(**line["saved"]) for line in ledger["changes"] if line["standing"]}


def estimate_of(site: Site, document: dict[str, Any]) -> Estimate:
    """What a plan's document would bring: by the run that is shown where that measured it, else by the excess."""
    visits, known, before = _known_of(site)
    return estimate(document["changes"], site.known.excess, visits, known, before)


def worth_of(site: Site) -> dict[str, Worth]:
    """What each change brings, by id."""
    visits, known, _ = _known_of(site)
    return worth(site.known.excess, visits, known)


def _known_of(site: Site) -> tuple[Counter[str], dict[str, Saving], Saving]:
    """How often each page was weighed, what the run that is shown measured, and the sum of all as found."""
    rows = site.weigh_ins.filter(pk__in=site.known.weigh_ins).order_by()
    weighed = rows.values_list("page", "summary__weigh_in__transferred", "summary__weigh_in__requests")
    visits, before = Counter[str](), Saving()
    for page, transferred, requests in weighed:
        visits[page] += 1
        before.add(transferred, requests)
    return visits, _measured(site.run_id) if site.run_id else {}, before


def held_keys(site: Site) -> set[str]:
    """The weigh-ins that the baseline or a run stands on."""
    keys = set(site.known.weigh_ins)
    for weighed in site.runs.values_list("weighed", flat=True):
        keys.update(weighed.before, weighed.after)
    return keys


def shows(site: Site, picture: str) -> bool:
    """Whether a run has a picture of this name as evidence. Evidence may be long: only runs that name the picture are
    read.
    """
    for evidence in site.runs.filter(evidence__icontains=picture).values_list("evidence", flat=True):
        parts = (part for entry in evidence.outcomes for part in [entry, *entry.get("parts", ())])
        pairs = [*evidence.pairs, *(part["pair"] for part in parts if part["pair"])]
        shots = (shot for pair in pairs for d in pair["differences"] for shot in d.get("shots") or ())
        if any(picture in (pair["before"], pair["after"]) for pair in pairs) or picture in shots:
            return True
    return False


def version_ids(site: Site) -> set[UUID]:
    """The versions that were carried out."""
    return set(site.runs.values_list("version_id", flat=True))
