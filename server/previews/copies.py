"""The captures that previews show, each read or built once and kept for a while."""

from __future__ import annotations

import threading
from functools import lru_cache

from django.db.models import QuerySet
from django.db.models.fields.json import KeyTextTransform
from django.utils import timezone

from server.previews.labels import Spot, short
from server.sites import plans, runs, storage
from server.sites.models import Site
from unladen.capture import Capture
from unladen.lighten import as_planned
from unladen.replay.moved import Moved

_PLANNED = ("plan", "with", "without")
_MOST = 12
_building: dict[tuple[Spot, str], threading.Lock] = {}
_lock = threading.Lock()


def _sites(spot: Spot) -> QuerySet[Site]:
    """The site that a key opens, or none."""
    return Site.objects.filter(preview_keys__token=spot.token, preview_keys__until__gt=timezone.now())


def copy_at(spot: Spot) -> Moved | None:
    """The copy of a site that a host name asks for, None where there is none."""
    sites = _sites(spot).annotate(read=KeyTextTransform("taken", "baseline"))
    site = sites.values("run_id", "head_id", "read").first()
    if site is None:
        return None
    # What was found changes with a newer copy of the site, what is there now with the run that is shown.
    stamp = {"found": site["read"], "now": site["run_id"]}.get(
        spot.side, (site["head_id"], site["run_id"], site["read"])
    )
    if (spot.side == "now" and stamp is None) or (spot.side in _PLANNED and site["head_id"] is None):
        return None
    # A page asks for its files at once, and the first of them builds the copy for all.
    key = spot._replace(host=""), str(stamp)
    with _lock:
        mine = _building.setdefault(key, threading.Lock())
        while len(_building) > 10 * _MOST:
            del _building[next(iter(_building))]
    with mine:
        return _kept(*key)


@lru_cache(maxsize=_MOST)
def _kept(spot: Spot, stamp: str) -> Moved | None:
    site = _sites(spot).select_related("run", "head").get()
    capture = _capture(site, spot)
    return None if capture is None else Moved(capture, lambda label: spot._replace(host=label).origin)


def _capture(site: Site, spot: Spot) -> Capture | None:
    match spot.side:
        case "found":
            return storage.capture_of(site)
        case "now":
            return storage.lightened_of(site)
    plan = plans.plan_of(plans.head_of(site))
    change = next((c.id for c in plan.changes if short(c.id) == spot.change), None)
    if spot.change and change is None:
        return None
    on = {change: spot.side == "with"} if change else {}
    return as_planned(storage.capture_of(site), plan, runs.outcomes_of(site.run), on)
