"""From what is stored to what the API says."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from datetime import datetime
from typing import Any
from uuid import UUID

from django.conf import settings
from django.db.models import F, Func, IntegerField, Value

from server.api.reading import Role
from server.api.schemas.common import JobOut, NoticeOut
from server.api.schemas.plans import OutcomeOut, PairOut, ReplacementOut, RunOut, RunRow, VersionOut
from server.api.schemas.sites import SiteDetail, SiteOut
from server.api.schemas.weighing import Picture, ShownOut, WeighInOut, WeighInsOut
from server.previews.labels import preview_address
from server.sites import plans, runs, storage
from server.sites.models import Job, Run, Site, StoredWeighIn
from unladen.check import ChangeResults, PageCheck
from unladen.ledger import Estimate, read_ledger
from unladen.plan import KeepList, Tolerance
from unladen.remedies import remedies
from unladen.remedies.embeds.delay_scripts import DelayParams
from unladen.remedies.embeds.stills import PICTURES, EmbedParams, Shown
from unladen.weigh.records.conditions import device_named
from unladen.weigh.records.current import Kept, current
from unladen.weigh.records.kinds import KINDS


def latest_job(site: Site) -> JobOut | None:
    """The job that runs, or the last one if it did not end well or was stopped with something proven."""
    latest = next(iter(site.jobs.all()), None)
    if latest is None or latest.state == Job.State.DONE:
        return None
    if latest.state == Job.State.CANCELLED and (latest.aside or not latest.proofs):
        return None
    return JobOut.from_orm(latest)


def weigh_in(row: StoredWeighIn, held: set[str]) -> WeighInOut:
    """A weigh-in as published, with its key."""
    return WeighInOut(id=row.pk, held=str(row.pk) in held, **row.summary["weigh_in"])


def _moment(text: str | None) -> datetime | None:
    """From an ISO time."""
    return datetime.fromisoformat(text) if text else None


def _files(found: Site) -> int:
    """How many there are, counted by the database: the whole list may be long."""
    length = Func(F("index"), Value("$.exchanges"), function="JSON_ARRAY_LENGTH", output_field=IntegerField())
    return Site.objects.values_list(length, flat=True).get(pk=found.pk)


def _pages(found: Site) -> int:
    """How many there are: those weighed and those left out, or all that a site has that was not weighed yet."""
    if not found.baseline:
        return len(storage.capture_of(found).pages())
    weighed = found.weigh_ins.filter(pk__in=found.baseline.weigh_ins).order_by().values("page").distinct()
    return weighed.count() + found.baseline.left_out


def _kinds(found: Site, keys: list[str]) -> tuple[dict[str, int], list[int]]:
    """Bytes by kind over weigh-ins, and those of each; only these figures are read of what is stored."""
    sums = dict.fromkeys(KINDS, 0)
    each = []
    rows = found.weigh_ins.filter(pk__in=keys).order_by()
    for kinds, whole in rows.values_list("summary__weigh_in__kinds", "summary__weigh_in__transferred"):
        each.append(whole)
        for kind, row in kinds.items():
            sums[kind] = sums.get(kind, 0) + row["transferred"]
    return {kind: size for kind, size in sums.items() if size}, each


def kept(row: StoredWeighIn, held: set[str]) -> Kept:
    """A weigh-in as far as it matters to which of them counts."""
    return Kept(str(row.pk), row.page, row.conditions, row.pinned, str(row.pk) in held)


def site(found: Site, role: Role) -> SiteOut:
    """A row of the list."""
    kinds_before, before = _kinds(found, found.baseline.weigh_ins) if found.baseline else ({}, [])
    kinds_after, after = _kinds(found, found.run.weighed.after) if found.run else ({}, [])
    return SiteOut(
        id=found.pk,
        name=found.name,
        created=found.created,
        files=_files(found),
        pages=_pages(found),
        before=sum(before) if found.baseline else None,
        after=sum(after) if found.run else None,
        kinds_before=kinds_before,
        kinds_after=kinds_after,
        allowance=found.allowance,
        over=sum(size > found.allowance for size in (after or before)),
        grown=max((row["after"] - row["before"] for row in found.watched.grown), default=0),
        grown_by=list(dict.fromkeys(by["name"] for row in found.watched.grown for by in row["by"][:1]))[:3],
        looked=found.run.made if found.run else _moment(found.known.taken),
        tags=found.tags,
        owner=found.owner.get_username(),
        role=role,
        shared=len(found.shares.all()),
        archived=found.archived,
        job=latest_job(found),
    )


def detail(found: Site, role: Role, viewer: str) -> SiteDetail:
    """The site itself."""
    baseline = found.known
    rows = found.weigh_ins.filter(pk__in=baseline.weigh_ins) if found.baseline else found.weigh_ins
    pages = dict(rows.values_list("pk", "page"))
    # Before the first weigh-in there is only what reading the site left out.
    notices = baseline.notices
    if not notices and not found.baseline:
        notices = [{"name": name, "reason": reason} for name, reason in found.index["notices"]]
    return SiteDetail(
        id=found.pk,
        name=found.name,
        created=found.created,
        files=_files(found),
        # While it is weighed for the first time, those that have been.
        pages=list(dict.fromkeys([pages[UUID(key)] for key in baseline.weigh_ins] or pages.values())),
        pages_left_out=baseline.left_out,
        chosen=baseline.chosen,
        most=settings.PAGES_AT_ONCE if baseline.most is None else baseline.most,
        alike=dict(Counter(baseline.kin.values())),
        taken=_moment(baseline.taken),
        allowance=found.allowance,
        notices=[NoticeOut(**notice) for notice in notices],
        rules=found.rules,
        walked=found.walks.count(),
        owner=found.owner.get_username(),
        role=role,
        preview_found=preview_address(found, "found", viewer=viewer),
        preview_now=preview_address(found, "now", viewer=viewer) if found.run_id else "",
    )


def findings(found: Site) -> dict[str, Any]:
    """What could go, as `Findings`: in plain values, as the core wrote it."""
    return {"excess": found.known.excess, "surveyed": found.known.surveyed}


def weigh_ins(found: Site) -> WeighInsOut:
    """The weigh-ins that count."""
    held = runs.held_keys(found)
    order = found.known.weigh_ins
    rows = _current(found, StoredWeighIn.Side.FOUND, set(order), order)
    return WeighInsOut(
        found=[weigh_in(row, set(order)) for row in rows],
        now=_now(found, found.run) if found.run else [],
        pictures=[_picture(row) for row in rows if row.summary["weigh_in"]["visit"] == "first" and held],
    )


def _current(found: Site, side: str, held: set[str], order: list[str], since: Any = None) -> list[StoredWeighIn]:
    rows = found.weigh_ins.filter(side=side).defer("record")
    rows = rows.filter(taken__gte=since) if since else rows
    by_key = {str(row.pk): row for row in rows}
    return [by_key[key] for key in current([kept(row, held) for row in by_key.values()], order)]


def _now(found: Site, run: Run) -> list[WeighInOut]:
    """Weigh-ins of the run that is shown: what another one weighed is history."""
    after = set(run.weighed.after)
    own = found.weigh_ins.in_bulk(run.weighed.after)
    since = min((row.taken for row in own.values()), default=None)
    later = found.runs.filter(made__gt=run.made).values_list("weighed", flat=True)
    others = {key for weighed in later for key in weighed.after}
    rows = _current(found, StoredWeighIn.Side.NOW, after, [], since) if since else []
    return [weigh_in(row, after) for row in rows if str(row.pk) not in others]


def _picture(row: StoredWeighIn) -> Picture:
    return Picture(
        page=row.page,
        device=row.device,
        name=row.summary["picture"],
        width=device_named(row.device).width,
        height=row.summary["height"],
        shown=[ShownOut(**place) for place in row.summary["shown"]],
    )


def plan(found: Site) -> dict[str, Any]:
    """The plan as it stands, as a `PlanOut`: plain values, since there may be thousands of changes."""
    changes = plans.document_of(plans.head_of(found))["changes"]
    return _head(found) | {"changes": _changes(changes)}


def plan_after(found: Site, before: dict[str, Any]) -> dict[str, Any]:
    """The plan as it stands after an edit of what this document holds, as a `PlanEdited`."""
    changes = plans.document_of(plans.head_of(found))["changes"]
    known = {change["id"]: change for change in before["changes"]}
    order = [change["id"] for change in changes]
    # An edit leaves most changes the very same objects, which is quicker to see than that they are equal.
    new = [c for c in changes if (old := known.get(c["id"])) is not c and old != c]
    return _head(found) | {
        "changes": _changes(new),
        "order": None if order == list(known) else order,
    }


def _head(found: Site) -> dict[str, Any]:
    head = plans.head_of(found)
    document = plans.document_of(head)
    undo, redo = plans.steps(found)
    return {
        "version": str(head.pk),
        "name": head.name,
        "effort": document["effort"],
        "keep": _keep(KeepList.from_json(document["keep"]), found.known.excess),
        "tolerance": Tolerance.from_json(document.get("tolerance", {})).as_json(),
        "differs": runs.differs(head, found.run),
        "estimate": _estimate(runs.estimate_of(found, document)),
        "undo": undo and str(undo),
        "redo": redo and str(redo),
    }


def _keep(keep: KeepList, excess: Iterable[dict[str, Any]]) -> dict[str, Any]:
    costs = keep.costs(excess) if keep.files or keep.hosts else {}
    return keep.as_json() | {
        "costs": [{"kind": kind, "pattern": pattern, "bytes": size} for (kind, pattern), size in costs.items()]
    }


def _estimate(found: Estimate) -> dict[str, Any]:
    return {
        "before": found.before.as_json(),
        "after": found.after.as_json(),
        "sure": found.sure,
        "remedies": [
            {"remedy": name, "sure": sure, **saved.as_json()} for name, (saved, sure) in found.remedies.items()
        ],
    }


def _changes(changes: Iterable[dict[str, Any]]) -> list[dict[str, Any]]:
    embeds = {remedy.name: remedy.params for remedy in remedies() if issubclass(remedy.params, Shown)}
    settings = {remedy.name: [s.name for s in remedy.settings if not s.listed] for remedy in remedies()}
    return [
        {
            "id": change["id"],
            "remedy": change["remedy"],
            "targets": change["targets"],
            "pages": change["pages"],
            "on": change["on"],
            "insist": change["insist"],
            "chosen": change["chosen"],
            "settings": {n: v for n in settings[change["remedy"]] if (v := change["params"].get(n)) is not None},
            "embed": _embed(params.from_json(change["params"])) if (params := embeds.get(change["remedy"])) else None,
        }
        for change in changes
    ]


def _embed(params: Shown) -> dict[str, Any]:
    shown = params if isinstance(params, EmbedParams) else EmbedParams()
    return {
        "kind": params.kind,
        "way": params.wait if isinstance(params, DelayParams) else getattr(params, "way", "leave"),
        "title": params.title,
        "start": shown.start,
        "picture": params.picture,
        "pictures": [sort for sort in PICTURES if params.pictures_of(sort)],
        "below": shown.below,
    }


def versions(found: Site) -> list[VersionOut]:
    """All versions of the plan, the latest first."""
    carried_out = runs.version_ids(found)
    return [
        VersionOut(
            id=row.pk,
            parent=row.parent_id,
            name=row.name,
            made=row.made,
            on=row.wanted,
            head=row.pk == found.head_id,
            run=row.pk in carried_out,
        )
        for row in found.versions.order_by("-made", "-id").defer("document")
    ]


def run(row: Run) -> RunOut:
    """A run with its proof."""
    ledger = read_ledger(row.ledger)
    lines = {line["id"]: line for line in ledger["changes"]}
    nothing = {"bytes": 0, "requests": 0}

    def outcome(entry: dict[str, Any]) -> OutcomeOut:
        line = lines.get(entry["change"], {"remedy": None, "targets": [], "saved": nothing})
        fields = {name: line[name] for name in ("remedy", "targets", "saved")}
        own = {name: entry[name] for name in ("change", "standing", "reason", "pair", "parts", "open")}
        # Nobody looks closer once the user has stopped it.
        own["open"] &= row.open
        return OutcomeOut(**own, **fields)

    return RunOut(
        id=row.pk,
        version=row.version_id,
        # Through the core, since earlier runs knew less of a difference.
        outcomes=[outcome(entry) for entry in ChangeResults.from_json(row.evidence.outcomes).as_json()],
        pairs=[PairOut(**PageCheck.from_json(pair).as_json()) for pair in row.evidence.pairs],
        changed=[ReplacementOut(**entry) for entry in row.evidence.changed],
        archive_bytes=row.archive.bytes,
        changed_bytes=row.archive.changed_bytes,
        made=row.made,
        journeys=ledger.get("journeys", []),
        **{name: ledger[name] for name in ("effort", "lines", "unexplained", "checks", "notices", "remedies")},
    )


def run_rows(found: Site) -> list[RunRow]:
    """The history of runs, the latest first."""
    rows = []
    for row in found.runs.select_related("version").defer("index", "evidence", "version__document"):
        ledger = read_ledger(row.ledger)
        sums = {
            f"{what}{side}": sum(weighed[key] for weighed in ledger[side.strip("_")])
            for what, key in (("", "transferred"), ("requests", "requests"))
            for side in ("_before", "_after")
        }
        rows.append(
            RunRow(
                id=row.pk,
                version=row.version_id,
                name=row.version.name,
                made=row.made,
                before=sums["_before"],
                after=sums["_after"],
                requests_before=sums["requests_before"],
                requests_after=sums["requests_after"],
                changes=sum(line["saved"] != {"bytes": 0, "requests": 0} for line in ledger["changes"]),
                set_aside=ledger["checks"]["set_aside"],
                shown=row.pk == found.run_id,
                outdated=row.state == Run.State.OUTDATED,
            )
        )
    return rows
