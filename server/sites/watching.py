"""A live site weighed again: what its pages weigh by now, what grew since the pinned weigh-ins, and who brought that."""

from __future__ import annotations

import logging
from typing import Any

from django.conf import settings
from django.core.mail import send_mail
from django.utils import timezone

from server.sites import storage
from server.sites.models import Site, StoredWeighIn
from server.sites.outcome import Outcome
from unladen.capture.addresses import site_path
from unladen.errors import UnladenError
from unladen.ledger.growth import grown
from unladen.progress import Progress
from unladen.weigh.records.bringers import rules_from
from unladen.weigh.records.model import WeighIn
from unladen.weigh.visits.recording import Visiting, record_site
from unladen.weigh.visits.weighing import browser_for, weigh_pages

log = logging.getLogger(__name__)
_MOST_TOLD = 20


def watch(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """Visit the live site and weigh its pages as the baseline was; a visit that comes to nothing is noted, and the next one tries again."""
    told: dict[str, Any] = {"at": timezone.now().isoformat(), "error": "", "grown": []}
    rows: list[StoredWeighIn] = []
    try:
        rows, told["grown"] = _weighed(site, progress)
    except UnladenError as error:
        told["error"] = str(error)
    if told["grown"] and site.watch_mail:
        told["mail"] = _write(site, told["grown"])
    return Outcome({"watched": told}, rows)


def _weighed(site: Site, progress: Progress) -> tuple[list[StoredWeighIn], list[dict[str, Any]]]:
    before = storage.weigh_ins_of(site, site.baseline["weigh_ins"])
    pages = list(dict.fromkeys(weigh_in.page for weigh_in in before))
    address = site.watch_address or storage.capture_of(site).base_url
    visiting = Visiting(depth=3, pages=len(pages))
    live = record_site(address, storage.store(site.pk), progress, visiting, settings.VISIT_ALLOWED)
    there = {site_path(live.base_url, page.url): page for page in live.pages()}
    same = [weigh_in for weigh_in in before if weigh_in.page in there]
    after: list[WeighIn] = []
    if same:
        conditions = list(dict.fromkeys(weigh_in.conditions for weigh_in in same))
        chosen = [there[page] for page in dict.fromkeys(weigh_in.page for weigh_in in same)]
        with browser_for(live) as browser:
            after = weigh_pages(browser, live, chosen, conditions, progress)
    rules = rules_from(site.rules)
    rows = [storage.row_of(site, StoredWeighIn.Side.LIVE, weigh_in, live.base_url) for weigh_in in after]
    return rows, [row.as_json() for row in grown(same, after, rules)][:_MOST_TOLD]


def _write(site: Site, rows: list[dict[str, Any]]) -> str:
    """Write to whoever wants to know; returns why that failed, "" where it did not."""
    if not settings.EMAIL_HOST:
        return "no mail server is set"
    lines = [
        f"{row['page']} on {row['device']}: {row['before']:,} bytes, now {row['after']:,}; "
        + "; ".join(f"{by['name']} {by['bytes']:+,}" for by in row["by"])
        for row in rows
    ]
    name = " ".join(site.name.split())
    try:
        send_mail(f"{name} has grown heavier", "\n".join(lines), settings.DEFAULT_FROM_EMAIL, [site.watch_mail])
    except OSError as error:
        log.warning("no mail could be sent about %s: %s", site.pk, error)
        return f"the mail could not be sent: {error}"
    return ""
