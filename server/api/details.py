"""From stored weigh-ins and walks to what the API says of them. The core computes; this puts it into shape."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any
from urllib.parse import urlsplit

from server.api.present import weigh_in
from server.api.schemas.walking import Pickable, StepOut, UsedText, UseFile, UseMap, WalkOut
from server.api.schemas.weighing import (
    BroughtOut,
    Comparison,
    FontOut,
    HeadersOut,
    HistoryRow,
    LargestOut,
    Owner,
    RequestOut,
    StructureOut,
    WeighInDetail,
)
from server.previews.labels import file_address
from server.sites import runs, storage
from server.sites.models import Site, StoredWeighIn
from unladen.capture import Capture
from unladen.capture.addresses import site_path
from unladen.ledger import compare_weigh_ins
from unladen.markup.spans import union
from unladen.survey.code.usage import text_of, use_of_files
from unladen.weigh.link.freshness import asked_again, freshness
from unladen.weigh.page.fonts import fonts_of
from unladen.weigh.records.conditions import HEADER_BYTES
from unladen.weigh.records.model import Request, WeighIn
from unladen.weigh.records.parties import Causes, brought_by, rules_from

_LONGEST_TEXT = 4_000_000  # characters of a file that are shown


def capture_for(site: Site, row: StoredWeighIn) -> Capture:
    """The capture that a weigh-in was taken of; of an earlier result the latest one has to do."""
    lightened = storage.lightened_of(site) if row.side == StoredWeighIn.Side.NOW else None
    return lightened or storage.capture_of(site)


def detail(site: Site, row: StoredWeighIn) -> WeighInDetail:
    """All of one weigh-in."""
    result = WeighIn.from_record(row.record)
    capture = capture_for(site, row)
    visit, facts = result.visit, result.facts
    causes = Causes([*visit.requests, *facts.scrolled], capture.base_url, rules_from(site.rules))
    first = _first_visit(site, row) if result.conditions.visit == "repeat" else None
    rows = [_request(causes, i, len(visit.requests), visit.timings.load, first) for i in range(len(causes.requests))]
    fonts = fonts_of(capture, [*visit.requests, *facts.scrolled], facts.structure)
    timings = visit.timings
    return WeighInDetail(
        weigh_in=weigh_in(row, runs.held_keys(site)),
        requests=rows,
        brought=[BroughtOut(**asdict(row)) for row in brought_by(causes, len(visit.requests))],
        own_hosts=sorted({_host(r.url) for r in causes.requests if causes.is_own(r.url)}),
        marks={
            "first paint": timings.first_paint,
            "largest paint": timings.largest_paint,
            "content ready": timings.content_ready,
            "load": timings.load,
        },
        largest=_largest(result, causes.requests),
        fonts=[FontOut(**asdict(font)) for font in fonts],
        structure=StructureOut(**{k: v for k, v in asdict(facts.structure).items() if k != "fonts"}),
    )


def _host(url: str) -> str:
    return urlsplit(url).netloc


def _first_visit(site: Site, row: StoredWeighIn) -> list[Request]:
    others = site.weigh_ins.filter(
        side="now" if row.side == StoredWeighIn.Side.NOW else "found",
        page=row.page,
        device=row.device,
        summary__weigh_in__visit="first",
    )
    known = others.order_by("-taken").first()
    return WeighIn.from_record(known.record).visit.requests if known else []


def _request(causes: Causes, i: int, loaded: int, load: float, first: list[Request] | None) -> RequestOut:
    request = causes.requests[i]
    fresh = freshness(request.response_headers)
    bringer = causes.bringers[i]
    plain = {name: getattr(request, name) for name in RequestOut.model_fields if hasattr(request, name)}
    return RequestOut(
        **plain,
        after_load=i < loaded and request.started > load > 0,
        scrolled=i >= loaded,
        brought_by=Owner(**bringer.as_json()),
        chain=causes.chain(i),
        again=asked_again(request, first) if first is not None else "",
        lifetime=fresh.lifetime,
        lifetime_words=fresh.reason,
    )


def _largest(found: WeighIn, requests: Any) -> LargestOut | None:
    largest = found.visit.largest
    if not largest.selector and not largest.url:
        return None
    position = next((i for i, request in enumerate(requests) if largest.url and request.url == largest.url), -1)
    return LargestOut(**asdict(largest), request=position)


def headers(site: Site, row: StoredWeighIn, position: int, viewer: str) -> HeadersOut | None:
    """The header fields of a request by its position, and where its file can be seen; None when there is none."""
    weigh_in = WeighIn.from_record(row.record)
    requests = [*weigh_in.visit.requests, *weigh_in.facts.scrolled]
    if not 0 <= position < len(requests):
        return None
    request = requests[position]
    known = capture_for(site, row).lookup(request.url)
    return HeadersOut(
        request=request.request_headers,
        response=request.response_headers,
        preview=file_address(site, row.side, request.url, viewer) if known and known.size else "",
    )


def history(site: Site, page: str) -> list[HistoryRow]:
    """All weigh-ins of a page, the oldest first."""
    held = runs.held_keys(site)
    rows = []
    for row in site.weigh_ins.filter(page=page).defer("record"):
        document = row.summary["weigh_in"]
        rows.append(
            HistoryRow(
                id=row.pk,
                side=StoredWeighIn.Side(row.side),
                page=row.page,
                device=row.device,
                conditions=row.conditions,
                taken=row.taken,
                name=row.name,
                pinned=row.pinned,
                held=str(row.pk) in held,
                load=document["timings"]["load"],
                **{name: document[name] for name in ("visit", "link", "runs", "transferred", "requests")},
            )
        )
    return rows


def comparison(before: StoredWeighIn, after: StoredWeighIn) -> Comparison:
    """Two weigh-ins side by side, marked where their conditions differ."""
    first, second = (WeighIn.from_record(row.record) for row in (before, after))
    marks = first.conditions.differences(second.conditions)
    if before.page != after.page:
        marks.insert(0, f"page: {before.page} and {after.page}")
    if first.browser != second.browser:
        marks.append(f"browser: {first.browser} and {second.browser}")
    result = compare_weigh_ins(before.summary["weigh_in"], after.summary["weigh_in"])
    names = Comparison.model_fields.keys() - {"marks"}
    return Comparison(marks=marks, **{name: result[name] for name in names})


def use_map(site: Site) -> UseMap:
    """Files by pages, and the walks that it comes from."""
    capture = storage.capture_of(site)
    walks = storage.walks_of(site)
    taken = {(row.page, row.device): row.taken for row in site.walks.all()}
    files = [
        UseFile(
            url=use.url,
            path=site_path(capture.base_url, use.url),
            own=capture.owns(use.url),
            pages=use.pages,
            **{name: getattr(use, name) for name in ("kind", "size", "used", "transferred", "transferred_unused")},
        )
        for use in use_of_files(capture, walks)
    ]
    rows = [
        WalkOut(
            page=walk.page,
            device=walk.device.name,
            taken=taken[(walk.page, walk.device.name)],
            errors=walk.errors,
            elements=[Pickable(**element) for element in walk.elements],
            steps=[
                StepOut(
                    key=s.step.key,
                    outcome=s.outcome,
                    requests=s.requests,
                    transferred=s.transferred,
                    **asdict(s.step),
                )
                for s in walk.steps
            ],
        )
        for walk in walks
    ]
    return UseMap(pages=list(dict.fromkeys(walk.page for walk in walks)), files=files, walks=rows)


def used_text(site: Site, url: str, page: str) -> UsedText | None:
    """A file's text with the spans used on a page, or anywhere; None when no walk met it."""
    uses = [use for walk in storage.walks_of(site) if page in ("", walk.page) for use in walk.files if use.url == url]
    if not uses:
        return None
    text = text_of(storage.capture_of(site), url)
    spans = union(span for use in uses for span in use.used)
    return UsedText(text=text[:_LONGEST_TEXT], spans=spans, cut=len(text) > _LONGEST_TEXT)


__all__ = ["HEADER_BYTES", "comparison", "detail", "headers", "history", "use_map", "used_text"]
