"""Where a site's files lie, and captures to and from what the database holds."""

from __future__ import annotations

import shutil
from pathlib import Path
from uuid import UUID

from django.conf import settings

from server.sites.models import Site
from unladen.capture import BodyStore, Capture


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


def remove(site_id: UUID) -> None:
    """Leave nothing of a site behind."""
    shutil.rmtree(folder(site_id), ignore_errors=True)
