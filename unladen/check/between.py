"""Any two versions of a site compared: pages of both side by side, and the published document of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import site_path
from unladen.check.difference_types import KINDS, ordered
from unladen.check.page_checks import PageChecks, by_address
from unladen.check.pairs import Difference, PageCheck
from unladen.check.tolerating import tolerated
from unladen.plan import Tolerance
from unladen.schemas import document_of, object_of
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.records.conditions import Device
from unladen.weigh.session import Session
from unladen.weigh.visits.lanes import in_lanes
from unladen.weigh.visits.remote import Batch
from unladen.weigh.visits.walk import WalkOrders

FORMAT = "unladen/check/1"


def compare_sites(
    session: Session,
    after: Capture,
    paths: Sequence[str],
    devices: Sequence[Device],
    *,
    quick: bool = False,
    tolerance: Tolerance | None = None,
    orders: Mapping[str, WalkOrders] | None = None,
) -> list[PageCheck]:
    """Page checks of the session's capture and another one, for all pages or these paths, on all devices.

    `tolerance`: accepted differences; `orders`: custom steps of walks, by the path of the page. Both captures must have
    the same store. A page that only one of them has is a difference. Raises `BadInput` and `Cancelled`.
    """
    before, browser = session.capture, session.browser
    after = at_the_same_address(after, before)
    pages = [before.page(path) for path in paths] or before.pages()
    page_checks = PageChecks(
        browser, session.work_cache, quick=quick, thorough=True, orders=by_address(orders or {}, before, pages)
    )
    there = {site_path(after.base_url, page.url) for page in after.pages()}

    def one(lane: Browser, page: Exchange) -> list[PageCheck]:
        name = site_path(before.base_url, page.url)
        if name not in there:
            gone = Difference("page", "the page no longer exists")
            return [PageCheck(name, device.name, (gone,)) for device in devices]
        checks = page_checks if lane is browser else page_checks.beside(lane)
        pairs = []
        for device, told in zip(devices, checks.compared(before, after, page, devices), strict=True):
            remaining = tolerated(told.differences, tolerance or Tolerance(), name, device.name)
            pairs.append(checks.pair(name, device, replace(told, differences=remaining)))
        return pairs

    def note(page: Exchange) -> str:
        return site_path(before.base_url, page.url)

    checks = [pair for pairs in in_lanes(session, Batch("check", pages, one, note)) for pair in pairs]
    if not paths:
        new = sorted(there - {site_path(before.base_url, page.url) for page in before.pages()})
        checks += [
            PageCheck(name, d.name, (Difference("page", "the page did not exist before"),))
            for name in new
            for d in devices
        ]
    return [replace(pair, differences=ordered(pair.differences)) for pair in checks]


def at_the_same_address(capture: Capture, other: Capture) -> Capture:
    """A capture whose own files stand at the address of another one, so that both can be told apart by content
    alone.
    """
    if capture.base_url == other.base_url:
        return capture

    def moved(url: str) -> str:
        return other.base_url + url.removeprefix(capture.base_url) if url.startswith(capture.base_url) else url

    exchanges: dict[str, Exchange] = {
        moved(url): replace(e, url=moved(e.url)) for url, e in capture.exchanges.items()
    }
    pages = tuple(map(moved, capture.page_urls))
    return Capture(other.base_url, exchanges, capture.store, capture.prefix, capture.notices, pages)


def check_document(pairs: Sequence[PageCheck], browser: str, *, quick: bool) -> dict[str, Any]:
    """The published document."""
    return {
        "format": FORMAT,
        "browser": browser,
        "quick": quick,
        "same": all(pair.passed for pair in pairs),
        "pages": [_pair(pair) for pair in pairs],
    }


def _pair(pair: PageCheck) -> dict[str, Any]:
    return {
        "page": pair.page,
        "device": pair.device,
        "same": pair.passed,
        "cannot_compare": pair.cannot,
        "steps": pair.steps,
        "left_out": list(pair.left),
        "differences": [
            {
                "key": d.key,
                "what": d.what,
                "text": d.text,
                "step": d.step,
                "boxes": [list(box) for box in d.boxes],
                "places": list(d.places),
                "files": list(d.files),
                "detail": d.detail,
            }
            for d in pair.differences
        ],
    }


def check_schema() -> dict[str, Any]:
    """JSON Schema, draft 2020-12."""
    text, flag, count = {"type": "string"}, {"type": "boolean"}, {"type": "integer"}
    texts = {"type": "array", "items": text}
    box = {
        "type": "array",
        "items": count,
        "minItems": 4,
        "maxItems": 4,
        "description": "left, top, right, bottom in CSS px",
    }
    difference = {
        "key": {"type": "string", "description": "tells it from others of the page, where it is to be accepted"},
        "what": {"type": "string", "description": f"one of {', '.join(KINDS)}; probes may bring others"},
        "text": text,
        "step": {"type": "string", "description": "what was done to the page before, or the state forced on it"},
        "boxes": {"type": "array", "items": box},
        "places": texts,
        "files": texts,
        "detail": text,
    }
    page = {
        "page": text,
        "device": text,
        "same": flag,
        "cannot_compare": {"type": "string", "description": "why two looks cannot be compared, if they cannot"},
        "steps": count,
        "left_out": texts,
        "differences": {"type": "array", "items": object_of(difference)},
    }
    properties = {
        "format": {"const": FORMAT},
        "browser": text,
        "quick": flag,
        "same": flag,
        "pages": {"type": "array", "items": object_of(page)},
    }
    return document_of(FORMAT, properties)
