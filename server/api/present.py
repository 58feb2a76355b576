"""From what is stored to what the API says."""

from __future__ import annotations

from typing import Any

from server.api.schemas import (
    Bench,
    ChangeOut,
    ExcessOut,
    JobOut,
    NoticeOut,
    PairOut,
    Picture,
    RequestOut,
    Requests,
    ResultOut,
    SiteOut,
    Spot,
    WeighInOut,
)
from server.previews.labels import preview_address
from server.sites import storage
from server.sites.models import Job, Site
from unladen.capture.addresses import site_path
from unladen.weigh.model import WeighIn


def _latest_job(site: Site) -> JobOut | None:
    """The job that runs, or the last one if it did not end well; one that is done has nothing to say."""
    latest = next(iter(site.jobs.all()), None)
    if latest is None or latest.state in (Job.State.DONE, Job.State.CANCELLED):
        return None
    return JobOut.from_orm(latest)


def _weigh_ins(document: dict[str, Any] | None) -> list[WeighIn]:
    return [WeighIn.from_record(record) for record in document["weigh_ins"]] if document else []


def _weight(document: dict[str, Any] | None) -> int | None:
    return sum(weigh_in.visit.transferred for weigh_in in _weigh_ins(document)) if document else None


def site(found: Site) -> SiteOut:
    """A row of the list."""
    return SiteOut(
        id=found.pk,
        name=found.name,
        created=found.created,
        files=len(found.index["exchanges"]),
        pages=len(storage.capture_of(found).pages()),
        before=_weight(found.baseline),
        after=_weight(found.result),
        job=_latest_job(found),
    )


def bench(found: Site) -> Bench:
    """The bench of a site."""
    before = _weigh_ins(found.baseline)
    baseline = found.baseline or {"excess": [], "notices": [], "pictures": {}, "taken": None, "left_out": 0}
    plan = found.plan or {"effort": "steady", "changes": [], "keep": {"files": []}}
    notices = baseline["notices"] or [{"name": name, "reason": reason} for name, reason in found.index["notices"]]
    return Bench(
        id=found.pk,
        name=found.name,
        created=found.created,
        files=len(found.index["exchanges"]),
        notices=[NoticeOut(**notice) for notice in notices],
        pages=list(dict.fromkeys(weigh_in.page for weigh_in in before)),
        pages_left_out=baseline.get("left_out", 0),
        taken=baseline["taken"],
        effort=plan["effort"],
        allowance=found.allowance,
        weigh_ins=[WeighInOut(**weigh_in.as_json()) for weigh_in in before],
        pictures=[_picture(found, weigh_in) for weigh_in in before],
        excess=[ExcessOut(**excess) for excess in baseline["excess"]],
        changes=_changes(plan, found.result),
        keep_files=plan["keep"]["files"],
        plan_differs=_differs(plan, found.result),
        result=_result(found.result),
        job=_latest_job(found),
        preview_found=preview_address(found, "found"),
        preview_now=preview_address(found, "now") if found.result else "",
    )


def _changes(plan: dict[str, Any], result: dict[str, Any] | None) -> list[ChangeOut]:
    saved = {line["id"]: line["saved"] for line in result["ledger"]["changes"]} if result else {}
    return [ChangeOut(**change, saved=saved.get(change["id"])) for change in plan["changes"]]


def _differs(plan: dict[str, Any], result: dict[str, Any] | None) -> bool:
    def counting(changes: list[dict[str, Any]]) -> set[str]:
        return {change["id"] for change in changes if change["on"] and not change["set_aside"]}

    done = counting(result["ledger"]["changes"]) if result else set()
    return counting(plan["changes"]) != done


def _result(result: dict[str, Any] | None) -> ResultOut | None:
    if not result:
        return None
    ledger = result["ledger"]
    return ResultOut(
        effort=ledger["effort"],
        weigh_ins=ledger["after"],
        lines=ledger["lines"],
        unexplained=ledger["unexplained"],
        checks=ledger["checks"],
        pairs=[PairOut(**pair) for pair in result["pairs"]],
        evidence=[PairOut(**pair) for pair in result["evidence"]],
        notices=ledger["notices"],
        archive_bytes=result["archive_bytes"],
        taken=result["taken"],
    )


def _picture(found: Site, weigh_in: WeighIn) -> Picture:
    base = found.index["base_url"]
    device = weigh_in.conditions.device
    spots = [
        Spot(
            url=image.url,
            path=site_path(base, image.url.partition("?")[0]),
            x=image.x,
            y=image.y,
            width=image.width,
            height=image.height,
            visible=image.visible,
        )
        for image in weigh_in.visit.images
        if image.width and image.height
    ]
    name = found.baseline["pictures"].get(f"{weigh_in.page} {device.name}", "")
    return Picture(
        page=weigh_in.page,
        device=device.name,
        name=name,
        width=device.width,
        height=weigh_in.visit.page_height,
        spots=spots,
    )


def requests(found: Site, page: str, device: str) -> Requests:
    """The requests of the weigh-ins of a page on a device."""

    def rows(document: dict[str, Any] | None) -> list[RequestOut]:
        return [
            RequestOut(**{name: row[name] for name in RequestOut.model_fields})
            for weigh_in in _weigh_ins(document)
            if weigh_in.page == page and weigh_in.conditions.device.name == device
            for row in weigh_in.requests_as_json()
        ]

    return Requests(found=rows(found.baseline), now=rows(found.result))


def picture_names(found: Site) -> set[str]:
    """The names of all pictures that may be asked for."""
    names = set(found.baseline["pictures"].values()) if found.baseline else set()
    if found.result:
        pairs = [*found.result["pairs"], *found.result["evidence"]]
        names |= {pair[side] for pair in pairs for side in ("before", "after")}
    return names - {""}
