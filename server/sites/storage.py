"""Where a site's files lie, and captures to and from what the database holds."""

from __future__ import annotations

import shutil
from pathlib import Path
from uuid import UUID

from django.conf import settings

from server.sites.models import Site, StoredWeighIn
from unladen.capture import BodyStore, Capture
from unladen.capture.addresses import site_path
from unladen.survey import SiteImage
from unladen.weigh.page.embeds import Embed
from unladen.weigh.page.films import ShownFilm
from unladen.weigh.records.model import ShownImage, WeighIn
from unladen.weigh.visits.walk import Walk


def folder(site_id: UUID) -> Path:
    """The folder that holds everything of a site."""
    return Path(settings.SITES_DIR) / str(site_id)


def store(site_id: UUID) -> BodyStore:
    """The bodies of a site."""
    return BodyStore(folder(site_id) / "bodies")


def capture_of(site: Site) -> Capture:
    """The site as found."""
    return Capture.from_index(site.index, store(site.pk))


def lightened_of(site: Site) -> Capture | None:
    """The site as it would be handed over, if there is one."""
    return Capture.from_index(site.result["index"], store(site.pk)) if site.result else None


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


def row_of(site: Site, side: str, weigh_in: WeighIn, base_url: str) -> StoredWeighIn:
    """A weigh-in as it is stored, not saved yet; its picture is kept."""
    picture = keep_picture(site.pk, weigh_in.facts.picture)
    visit = weigh_in.visit
    shown: list[Embed | ShownFilm | ShownImage] = [*visit.embeds, *visit.films, *visit.images]
    spots = [
        {"url": i.url, "path": site_path(base_url, i.url.partition("?")[0]), "visible": i.visible}
        | {"selector": i.selector, "x": i.x, "y": i.y, "width": i.width, "height": i.height}
        for i in shown
        if i.width and i.height
    ]
    extra = {"picture": picture, "spots": spots, "height": weigh_in.facts.page_height}
    return StoredWeighIn(
        site=site,
        side=side,
        page=weigh_in.page,
        device=weigh_in.conditions.device.name,
        conditions=weigh_in.conditions.key,
        summary={"weigh_in": weigh_in.as_json(), **extra},
        record=weigh_in.to_record(),
    )


def remove(site_id: UUID) -> None:
    """Leave nothing of a site behind."""
    shutil.rmtree(folder(site_id), ignore_errors=True)
