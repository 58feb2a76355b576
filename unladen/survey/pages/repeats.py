"""What a visitor who comes again must load once more, and why."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, replace
from typing import Literal

from unladen.remedies import Change
from unladen.remedies.delivery.lifetimes import LifetimeParams, seldom_changes
from unladen.survey.findings import Facts, Finding
from unladen.survey.site_facts import SiteFacts
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.link.freshness import (
    NEITHER,
    NEW_ADDRESS,
    NO_LIFETIME,
    NO_STORE,
    REVALIDATED,
    asked_again,
    freshness,
)
from unladen.weigh.records.conditions import HEADER_BYTES
from unladen.weigh.records.model import Request

_WORTH = 2_000  # bytes
_CURED = (NEITHER, NO_LIFETIME, REVALIDATED)
# By reason: the key of the finding, and what its owner can do.
_ADVICE = {
    NEW_ADDRESS: ("new address", "Give the file one address that changes only with its content."),
    NO_STORE: ("no store", "Let the server allow caching: a lifetime instead of no-store."),
    NEITHER: ("neither", "Let the server send a lifetime (Cache-Control: max-age) and a validator (ETag)."),
    NO_LIFETIME: (
        "no lifetime",
        "Let the server send a lifetime (Cache-Control: max-age): a year for files whose address changes with them.",
    ),
    REVALIDATED: ("revalidated", "Give files that seldom change a lifetime, so that no browser asks."),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class AgainFacts(Facts):
    """Why it is asked for again."""

    about: Literal["again"] = "again"
    reason: str


def find(context: Context) -> Found:
    """One excess for each reason: from repeat visits where they were weighed, else from the headers of recordings."""
    evidence = context.evidence
    again: dict[tuple[str, bool], dict[str, Request]] = defaultdict(dict)
    pages: dict[tuple[str, bool], list[str]] = defaultdict(list)

    def note(reason: str, page: str, request: Request) -> None:
        key = reason, reason in _CURED and _may_be_kept(evidence, request)
        again[key].setdefault(request.url.partition("?")[0], request)
        if page not in pages[key]:
            pages[key].append(page)

    weighed = {weigh_in.page for weigh_in in evidence.repeats}
    for weigh_in in evidence.repeats:
        first = next((w for w in evidence.weigh_ins if w.page == weigh_in.page), None)
        for request in weigh_in.visit.requests if first else ():
            if first and request.kind != "documents" and (reason := asked_again(request, first.visit.requests)):
                note(reason, weigh_in.page, request)
    for weigh_in in evidence.weigh_ins:
        if weigh_in.page in weighed:
            continue
        for request in weigh_in.visit.requests:
            exchange = evidence.capture.lookup(request.url)
            if exchange is None or not exchange.recorded or request.kind == "documents" or request.status != 200:
                continue  # the headers of plain files are an assumption of ours
            if reason := freshness(request.response_headers).reason:
                note(reason, weigh_in.page, request)
    return Found(
        tuple(
            e
            for (reason, cured), requests in sorted(again.items())
            if (e := _excess(context, reason, requests, pages[reason, cured], cured=cured))
        )
    )


def _may_be_kept(evidence: SiteFacts, request: Request) -> bool:
    exchange = evidence.capture.lookup(request.url)
    return exchange is not None and evidence.capture.owns(exchange.url) and seldom_changes(exchange)


def _excess(
    context: Context, reason: str, requests: dict[str, Request], pages: list[str], *, cured: bool
) -> Finding | None:
    evidence = context.evidence
    key, advice = _ADVICE.get(reason, ("", ""))
    # With a validator only question and answer go again, not the body.
    asks_only = reason in (NO_LIFETIME, REVALIDATED)
    size = sum(HEADER_BYTES if asks_only else request.transferred for request in requests.values())
    if not advice or size < _WORTH:
        return None
    files = tuple(dict.fromkeys(evidence.path(url) for url in requests))
    change = Change("lifetimes", "lifetimes", files, context.everywhere, LifetimeParams())
    if cured and reason == REVALIDATED:
        # A server has said so, and may have its reasons.
        change = replace(change, id="lifetimes:stated", on=False)
    elif cured and reason == NEITHER:
        change = replace(change, id="lifetimes:unknown")
    return Finding(
        id=f"again:{key}{':kept' if cured else ''}",
        excess="loaded-again",
        kind=max(requests.values(), key=lambda r: r.transferred).kind,
        title=f"{len(requests)} {'files' if len(requests) > 1 else 'file'} requested again on a repeat visit",
        why=f"Each {reason}. The bytes are those of a repeat visit, not of a first one.",
        pages=tuple(pages),
        bytes=size,
        of_bytes=sum(request.transferred for request in requests.values()),
        requests=len(requests),
        tried=bool(evidence.repeats),
        facts=AgainFacts(reason=reason),
        changes=(change,) if cured else (),
        advice="" if cured else advice,
        visit="repeat",
        files=files,
    )


SURVEYOR = Surveyor("repeat visits", find, (AgainFacts,), remedies=("lifetimes",), advises=True)
