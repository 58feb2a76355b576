"""From what is stored to what the API says."""

from __future__ import annotations

from typing import Any

from server.api.schemas import (
    Bench,
    ChangeOut,
    EmbedOut,
    ExcessOut,
    JobOut,
    NoticeOut,
    PairOut,
    Picture,
    ResultOut,
    RuleOut,
    SiteOut,
    Spot,
    WeighInOut,
)
from server.previews.labels import preview_address
from server.sites import storage
from server.sites.models import Job, Site, StoredWeighIn
from unladen.plan import PICTURES, Plan, pictures_for
from unladen.weigh.records.conditions import device_named


def _latest_job(site: Site) -> JobOut | None:
    """The job that runs, or the last one if it did not end well; one that is done has nothing to say."""
    latest = next(iter(site.jobs.all()), None)
    if latest is None or latest.state in (Job.State.DONE, Job.State.CANCELLED):
        return None
    return JobOut.from_orm(latest)


def weigh_in(row: StoredWeighIn, held: set[str]) -> WeighInOut:
    """A weigh-in as published, with its key."""
    return WeighInOut(id=row.pk, held=str(row.pk) in held, **row.summary["weigh_in"])


def _weights(found: Site) -> tuple[int | None, int | None]:
    """Bytes of all weigh-ins of the baseline, and of those of the result."""

    def weight(document: dict[str, Any] | None) -> int | None:
        if not document:
            return None
        rows = found.weigh_ins.filter(pk__in=document["weigh_ins"]).values_list(
            "summary__weigh_in__transferred", flat=True
        )
        return sum(rows)

    return weight(found.baseline), weight(found.result)


def current(found: Site, side: str) -> list[StoredWeighIn]:
    """For every page and conditions the weigh-in that is shown: the one held, else a pinned one, else the latest."""
    held = held_keys(found)
    rows: dict[tuple[str, str], StoredWeighIn] = {}
    for row in found.weigh_ins.filter(side=side).defer("record"):
        known = rows.get((row.page, row.conditions))
        if known is None or _rank(row, held) >= _rank(known, held):
            rows[(row.page, row.conditions)] = row
    order = (found.baseline or {}).get("weigh_ins", [])
    pages = {str(row.pk): i for i, row in enumerate(rows.values())}
    return sorted(
        rows.values(), key=lambda r: order.index(str(r.pk)) if str(r.pk) in order else len(order) + pages[str(r.pk)]
    )


def _rank(row: StoredWeighIn, held: set[str]) -> tuple[bool, bool]:
    return str(row.pk) in held, row.pinned


def held_keys(found: Site) -> set[str]:
    """The weigh-ins that the baseline or the result stands on."""
    return {key for document in (found.baseline, found.result) if document for key in document["weigh_ins"]}


def site(found: Site) -> SiteOut:
    """A row of the list."""
    before, after = _weights(found)
    return SiteOut(
        id=found.pk,
        name=found.name,
        created=found.created,
        files=len(found.index["exchanges"]),
        pages=len(storage.capture_of(found).pages()),
        before=before,
        after=after,
        job=_latest_job(found),
    )


def bench(found: Site) -> Bench:
    """The bench of a site."""
    rows = current(found, StoredWeighIn.Side.FOUND)
    held = held_keys(found)
    baseline = found.baseline or {"excess": [], "notices": [], "taken": None, "left_out": 0}
    plan = found.plan or {"effort": "steady", "changes": [], "keep": {"files": []}}
    notices = baseline["notices"] or [{"name": name, "reason": reason} for name, reason in found.index["notices"]]
    return Bench(
        id=found.pk,
        name=found.name,
        created=found.created,
        files=len(found.index["exchanges"]),
        notices=[NoticeOut(**notice) for notice in notices],
        pages=list(dict.fromkeys(row.page for row in rows if str(row.pk) in held)),
        pages_left_out=baseline.get("left_out", 0),
        taken=baseline["taken"],
        effort=plan["effort"],
        allowance=found.allowance,
        weigh_ins=[weigh_in(row, held) for row in rows],
        pictures=[_picture(row) for row in rows if row.summary["weigh_in"]["visit"] == "first"],
        excess=[ExcessOut(**excess) for excess in baseline["excess"]],
        changes=_changes(plan, found.result),
        keep_files=plan["keep"]["files"],
        rules=[RuleOut(**rule) for rule in found.rules],
        walked=found.walks.count(),
        plan_differs=_differs(plan, found.result),
        result=_result(found),
        job=_latest_job(found),
        preview_found=preview_address(found, "found"),
        preview_now=preview_address(found, "now") if found.result else "",
    )


def _changes(plan: dict[str, Any], result: dict[str, Any] | None) -> list[ChangeOut]:
    saved = {line["id"]: line["saved"] for line in result["ledger"]["changes"]} if result else {}
    return [ChangeOut(**change, saved=saved.get(change["id"]), embed=_embed(change)) for change in plan["changes"]]


def _embed(change: dict[str, Any]) -> EmbedOut | None:
    if change["remedy"] not in ("embed", "hold"):
        return None
    params = change["params"]
    params = params | {"way": params.get("wait", "act")} if change["remedy"] == "hold" else params
    texts = {name: str(params.get(name, "")) for name in ("kind", "way", "title", "start")}
    sorts = [sort for sort in PICTURES if pictures_for(params, sort)]
    below = int(params.get("below") or 0)
    return EmbedOut(**texts, below=below, picture=str(params.get("picture", "seen")), pictures=sorts)


def _differs(plan: dict[str, Any], result: dict[str, Any] | None) -> bool:
    """Whether the plan as it stands is another than the one carried out."""
    if not plan["changes"]:
        return bool(result and result.get("plan"))
    counting = [change.as_json() for change in Plan.from_json(plan).counting()]
    return counting != (result.get("plan", []) if result else [])


def _result(found: Site) -> ResultOut | None:
    result = found.result
    if not result:
        return None
    ledger = result["ledger"]
    return ResultOut(
        effort=ledger["effort"],
        weigh_ins=[weigh_in(row, set(result["weigh_ins"])) for row in _now(found)],
        lines=ledger["lines"],
        unexplained=ledger["unexplained"],
        checks=ledger["checks"],
        pairs=[PairOut(**pair) for pair in result["pairs"]],
        evidence=[PairOut(**pair) for pair in result["evidence"]],
        notices=ledger["notices"],
        archive_bytes=result["archive_bytes"],
        changed_bytes=result.get("changed_bytes", 0),
        changed=result.get("changed", []),
        remedies=ledger.get("remedies", {}),
        taken=result["taken"],
    )


def _now(found: Site) -> list[StoredWeighIn]:
    """Weigh-ins of the latest result only: what an earlier plan weighed is history."""
    rows = found.weigh_ins.in_bulk(found.result["weigh_ins"])
    since = min((row.taken for row in rows.values()), default=None)
    return [row for row in current(found, StoredWeighIn.Side.NOW) if since and row.taken >= since]


def _picture(row: StoredWeighIn) -> Picture:
    return Picture(
        page=row.page,
        device=row.device,
        name=row.summary["picture"],
        width=device_named(row.device).width,
        height=row.summary["height"],
        spots=[Spot(**spot) for spot in row.summary["spots"]],
    )


def picture_names(found: Site) -> set[str]:
    """The names of all pictures that may be asked for."""
    names = set(found.weigh_ins.values_list("summary__picture", flat=True))
    if found.result:
        pairs = [*found.result["pairs"], *found.result["evidence"]]
        names |= {pair[side] for pair in pairs for side in ("before", "after")}
    return names - {""}
