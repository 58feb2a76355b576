"""Where a site's files lie, and captures to and from what the database holds."""

from __future__ import annotations

import os
import secrets
import shutil
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from uuid import UUID

from django.conf import settings

from server.sites.models import Site, StoredWeighIn
from unladen.capture import BodyStore, Capture
from unladen.survey import SiteImage, SurveyInputs
from unladen.weigh.records.conditions import Conditions
from unladen.weigh.records.model import WeighIn
from unladen.weigh.records.parties import rules_from
from unladen.weigh.records.placed import placed
from unladen.weigh.visits.again import reads_of
from unladen.weigh.visits.walk import Walk
from unladen.work_cache import WorkCache, work_cache_of


def folder(site_id: UUID) -> Path:
    """The folder that holds everything of a site."""
    return Path(settings.SITES_DIR) / str(site_id)


def store(site_id: UUID, spend: Callable[[int], None] | None = None) -> BodyStore:
    """The bodies of a site; `spend` is told of bytes before they are written."""
    return BodyStore(folder(site_id) / "bodies", spend)


def work_cache(site_id: UUID) -> WorkCache:
    """What is remembered of costly work on a site."""
    return work_cache_of(store(site_id))


def capture_of(site: Site) -> Capture:
    """The site as found."""
    return Capture.from_index(site.index, store(site.pk))


def lightened_of(site: Site) -> Capture | None:
    """The site as it would be handed over, if there is one."""
    return Capture.from_index(site.run.index, store(site.pk)) if site.run else None


def keep_picture(site_id: UUID, data: bytes) -> str:
    """Keep a picture that our own browser took; returns its name, or "" for none."""
    return store(site_id).put(data) if data else ""


def weigh_ins_of(site: Site, keys: list[str]) -> list[WeighIn]:
    """The weigh-ins with these keys, in this order."""
    rows = site.weigh_ins.in_bulk(keys)
    return [WeighIn.from_record(rows[UUID(key)].record) for key in keys]


def images_of(site: Site) -> list[SiteImage]:
    """All images of the site, as they were found."""
    return [SiteImage(**{k: v for k, v in row.items() if k != "per_pixel"}) for row in site.images]


def walks_of(site: Site) -> list[Walk]:
    """The latest walks over the site's pages."""
    return [Walk.from_record(row.record) for row in site.walks.all()]


def seen_of(site: Site) -> SurveyInputs:
    """All that was seen of a site: the weigh-ins of its baseline, repeat visits, walks, and whose hosts are whose."""
    keys = site.known.weigh_ins
    rows = site.weigh_ins.filter(side=StoredWeighIn.Side.FOUND, summary__weigh_in__visit="repeat")
    return SurveyInputs(
        weigh_ins=weigh_ins_of(site, keys),
        repeats=[WeighIn.from_record(row.record) for row in rows],
        walks=walks_of(site),
        rules=rules_from(site.rules),
        kin=site.known.kin,
    )


def known_weigh_ins(site: Site, capture: Capture, browser: str) -> dict[tuple[str, Conditions], WeighIn]:
    """The weigh-ins of a baseline, or of the attempt at one, that hold for a capture too: all that they read is in it
    as it was.
    """
    rows = site.weigh_ins.filter(side=StoredWeighIn.Side.FOUND)
    if site.baseline:
        rows = rows.filter(pk__in=site.baseline.weigh_ins)
    older = Capture.from_index(Site.objects.values_list("index", flat=True).get(pk=site.pk), capture.store)
    known = {}
    for row in rows:
        try:
            weigh_in = WeighIn.from_record(row.record)
        except (KeyError, TypeError, ValueError):
            continue  # of an older version
        if weigh_in.browser != browser or reads_of(older, weigh_in) != reads_of(capture, weigh_in):
            continue
        picture = row.summary["picture"]
        weigh_in.facts.picture = capture.store.get(picture) if picture else b""
        known[weigh_in.page, weigh_in.conditions] = weigh_in
    return known


def row_of(site: Site, side: str, weigh_in: WeighIn, base_url: str) -> StoredWeighIn:
    """A weigh-in as it is stored, not saved yet; its picture is kept."""
    extra = {
        "picture": keep_picture(site.pk, weigh_in.facts.picture),
        "shown": [asdict(place) for place in placed(weigh_in.facts, base_url)],
        "height": weigh_in.facts.page_height,
    }
    return StoredWeighIn(
        site=site,
        side=side,
        page=weigh_in.page,
        device=weigh_in.conditions.device.name,
        conditions=weigh_in.conditions.key,
        summary={"weigh_in": weigh_in.as_json(), **extra},
        record=weigh_in.to_record(),
    )


def arrived(site_id: UUID) -> Path:
    """The folder of archives that were handed in and are not read yet."""
    return folder(site_id) / "arrived"


def arrive(site_id: UUID, archive: Path) -> str:
    """Put an archive where jobs find it; returns its name there. The file itself is left alone."""
    name = secrets.token_hex(8)
    place = arrived(site_id) / name
    place.parent.mkdir(parents=True, exist_ok=True)
    try:
        os.link(archive, place)
    except OSError:  # another disk
        shutil.copyfile(archive, place)
    return name


def remove(site_id: UUID) -> None:
    """Leave nothing of a site behind."""
    shutil.rmtree(folder(site_id), ignore_errors=True)
