"""Taking an archive or an address in as a new site."""

from __future__ import annotations

import uuid
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from django.contrib.auth.models import User
from django.db import transaction

from server.sites import jobs, storage
from server.sites.models import Job, Site
from unladen.capture import BASE_URL, Capture, recognised
from unladen.weigh.visits.recording import address_from


def take_in(owner: User, archive: Path, file_name: str, name: str = "") -> Site:
    """The new site, with its archive waiting to be read and weighed by a job.

    Raises `BadInput` (naming `file_name`) where that is no archive at all, and leaves nothing then. Without a `name`
    the site is called by its home page's title, once that is read.
    """
    recognised(archive, file_name)
    key = uuid.uuid4()
    try:
        params = {"archive": storage.arrive(key, archive), "file": file_name, "called": name}
        empty = Capture(BASE_URL, {}, storage.store(key)).to_index()
        with transaction.atomic():
            shown = name or Path(file_name).stem
            size = archive.stat().st_size
            site = Site.objects.create(pk=key, owner=owner, name=shown[:200], index=empty, stored=size)
            jobs.start(site, Job.Kind.WEIGH, params)
    except BaseException:
        storage.remove(key)
        raise
    return site


def take_newer(site: Site, archive: Path, file_name: str) -> Site:
    """Have a newer copy of a site read and weighed; the older one stays until that is done.

    Raises `BadInput` and `Busy`. Bodies and encodes that both have in common are kept once.
    """
    jobs.expect_idle(site)
    recognised(archive, file_name)
    jobs.start(site, Job.Kind.WEIGH, {"archive": storage.arrive(site.pk, archive), "file": file_name})
    return site


def take_address(owner: User, address: str, **which: Any) -> Site:
    """A new site that is recorded from this address, with that queued: `which` pages, see `Visiting`. Raises
    `BadInput`.
    """
    start = address_from(address)
    key = uuid.uuid4()
    empty = Capture(start, {}, storage.store(key)).to_index()
    name = urlsplit(start).hostname or start
    with transaction.atomic():
        site = Site.objects.create(pk=key, owner=owner, name=name[:200], index=empty)
        jobs.start(site, Job.Kind.RECORD, {"address": start, **which})
    return site
