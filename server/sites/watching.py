"""Live sites visited again: what grew and who brought it, and what of a run has been put in by hand."""

from __future__ import annotations

import logging
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.mail import send_mail
from django.utils import timezone

from server.sites import runs, storage
from server.sites.documents import Hand, Visited, Watched
from server.sites.models import Site, StoredWeighIn
from server.sites.outcome import Outcome
from unladen.capture import BodyStore
from unladen.errors import BadInput, UnladenError
from unladen.ledger.by_hand import put_in
from unladen.ledger.growth import grown
from unladen.progress import Progress
from unladen.weigh.records.parties import rules_from
from unladen.weigh.visits.live import Live, weigh_live

log = logging.getLogger(__name__)
_MOST_TOLD = 20


def watch(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """Visit the live site and weigh its pages as the baseline was; a visit that comes to nothing is noted, and the
    next one tries again.
    """
    watched = Watched(at=timezone.now().isoformat())
    rows: list[StoredWeighIn] = []
    address = site.watch_address or storage.capture_of(site).base_url
    try:
        with visited(site, address, progress) as live:
            rows = [storage.row_of(site, StoredWeighIn.Side.LIVE, w, live.capture.base_url) for w in live.after]
            result = grown(live.before, live.after, rules_from(site.rules))
            watched.grown = [row.as_json() for row in result[:_MOST_TOLD]]
    except UnladenError as error:
        watched.error = str(error)
    if watched.grown and site.watch_mail:
        watched.mail = _write(site, watched.grown)
    return Outcome({"watched": watched}, rows)


def visit_again(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
    """Which steps of what is put in by hand are on the live site by now, and what its pages weigh there."""
    if site.run is None:
        raise BadInput(site.name, "has no steps by hand yet")
    lighter = runs.capture_of(site.run)
    with visited(site, params["address"], progress) as live:
        result = {step.key: put_in(step, lighter, live.capture) for step in runs.hand_steps_of(site.run)}
        now = {(w.page, w.conditions.key): w.visit.transferred for w in live.after}
        weighed = [
            {
                "page": w.page,
                "device": w.conditions.device.name,
                "found": w.visit.transferred,
                "live": now[(w.page, w.conditions.key)],
            }
            for w in live.before
            if (w.page, w.conditions.key) in now
        ]
    # Steps may have been ticked off while the site was visited.
    hand: Hand = Site.objects.values_list("hand", flat=True).get(pk=site.pk)
    hand.visited = Visited(timezone.now().isoformat(), params["address"], result, weighed)
    return Outcome({"hand": hand})


@contextmanager
def visited(site: Site, address: str, progress: Progress) -> Iterator[Live]:
    """The live site of these moments; nothing of it is kept, since it would come anew each time."""
    before = storage.weigh_ins_of(site, site.known.weigh_ins)
    with tempfile.TemporaryDirectory(prefix="mule-live-") as folder:
        yield weigh_live(address, BodyStore(Path(folder) / "bodies"), before, progress, settings.VISIT_ALLOWED)


def _write(site: Site, rows: list[dict[str, Any]]) -> str:
    """Write to whoever wants to know; returns why that failed, "" where it did not."""
    if not settings.EMAIL_HOST:
        return "no mail server is configured (MULE_MAIL)"
    lines = [
        f"{row['page']} on {row['device']}: {row['before']:,} bytes, now {row['after']:,}; "
        + "; ".join(f"{by['name']} {by['bytes']:+,}" for by in row["by"])
        for row in rows
    ]
    name = " ".join(site.name.split())
    try:
        send_mail(f"{name} became heavier", "\n".join(lines), settings.DEFAULT_FROM_EMAIL, [site.watch_mail])
    except OSError as error:
        log.warning("no mail could be sent about %s: %s", site.pk, error)
        return f"the mail could not be sent: {error}"
    return ""
