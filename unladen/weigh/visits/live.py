"""A live site weighed as another version of it was: the same pages under the same conditions."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from unladen.capture import BodyStore, Capture
from unladen.capture.addresses import site_path
from unladen.progress import Progress
from unladen.replay.upstream import Allowed
from unladen.weigh.records.model import WeighIn
from unladen.weigh.session import Session
from unladen.weigh.visits.recording import Visiting, record_site
from unladen.weigh.visits.weighing import browser_for, weigh_pages

_DEPTH = 3  # links


@dataclass(frozen=True, slots=True)
class Live:
    """What was recorded, and for the pages that are there, by path, the weigh-ins of before and those of now."""

    capture: Capture
    before: list[WeighIn]
    after: list[WeighIn]


def weigh_live(
    address: str, store: BodyStore, before: Sequence[WeighIn], progress: Progress, allowed: Allowed
) -> Live:
    """Record the site into `store` and weigh its pages; raises `BadInput` and `Cancelled`."""
    pages = list(dict.fromkeys(weigh_in.page for weigh_in in before))
    capture = record_site(address, store, progress, Visiting(depth=_DEPTH, pages=len(pages)), allowed)
    there = {site_path(capture.base_url, page.url): page for page in capture.pages()}
    same = [weigh_in for weigh_in in before if weigh_in.page in there]
    if not same:
        return Live(capture, [], [])
    conditions = list(dict.fromkeys(weigh_in.conditions for weigh_in in same))
    chosen = [there[page] for page in dict.fromkeys(weigh_in.page for weigh_in in same)]
    with browser_for(capture) as browser:
        return Live(
            capture,
            same,
            weigh_pages(Session.of(browser, capture, progress), chosen, conditions, stage="weigh again"),
        )
