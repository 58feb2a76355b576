"""Weighing again only what has changed: the same page with the same files weighs the same."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Sequence
from dataclasses import asdict, replace
from pathlib import Path

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import canonical, site_path
from unladen.capture.reads import ReadShelf
from unladen.weigh.records.conditions import Conditions
from unladen.weigh.records.model import WeighIn
from unladen.weigh.session import Session
from unladen.weigh.visits.weighing import weigh_lacking

_MOST = 40  # weigh-ins kept of a page under the same conditions


def reads_of(capture: Capture, weigh_in: WeighIn) -> dict[str, str]:
    """What was in each file that a page asked for, by URL."""
    asked = [*weigh_in.visit.requests, *weigh_in.facts.scrolled]
    return {url: capture.fingerprint(url) for url in dict.fromkeys(canonical(request.url) for request in asked)}


class WeighInShelf:
    """Weigh-ins of lightened pages, kept under their page, conditions and browser with what they read."""

    def __init__(self, root: Path, browser: str) -> None:
        self._kept = ReadShelf(root, _MOST)
        self.browser = browser

    def _key(self, url: str, conditions: Conditions) -> str:
        return json.dumps([1, self.browser, url, asdict(conditions)])

    def find(self, capture: Capture, url: str, conditions: Conditions) -> WeighIn | None:
        """The newest one that holds for a capture."""
        for _, document in self._kept.holding(capture, self._key(url, conditions), newest=True):
            with contextlib.suppress(ValueError, KeyError, TypeError):
                return WeighIn.from_record(json.loads(document))
        return None

    def keep(self, capture: Capture, url: str, weigh_in: WeighIn) -> None:
        """Keep one."""
        document = json.dumps(weigh_in.to_record())
        self._kept.keep(self._key(url, weigh_in.conditions), reads_of(capture, weigh_in), {}, document)


def weigh_again(
    session: Session,
    before: Sequence[WeighIn],
    lighter: Capture,
    pages: Sequence[Exchange],
    conditions: Sequence[Conditions],
) -> list[WeighIn]:
    """Weigh-ins of a changed site, pages by conditions; raises `Cancelled`.

    The session has the site as found. A page of which nothing has changed weighs what it did `before`, and one that
    was weighed like this once, what it did then.
    """
    weigh_ins = session.capture
    shelf = WeighInShelf(session.work_cache.root / "weighed", session.browser.version)
    known: dict[tuple[str, Conditions], WeighIn] = {}
    old = {(weigh_in.page, weigh_in.conditions): weigh_in for weigh_in in before}
    for page in pages:
        path = site_path(weigh_ins.base_url, page.url)
        for condition in conditions:
            was = old.get((path, condition))
            if was and reads_of(weigh_ins, was) == reads_of(lighter, was):
                known[path, condition] = was
            elif kept := shelf.find(lighter, page.url, condition):
                known[path, condition] = kept

    def keep(weigh_in: WeighIn) -> None:
        shelf.keep(lighter, lighter.page(weigh_in.page).url, weigh_in)

    changed = replace(session, capture=lighter)
    return weigh_lacking(changed, pages, conditions, known, stage="weigh again", each=keep)
