"""Taking an archive or an address in as a new site."""

from __future__ import annotations

import uuid
from pathlib import Path
from urllib.parse import urlsplit

from django.contrib.auth.models import User
from django.db import transaction

from server.sites import jobs, storage
from server.sites.models import Job, Site
from unladen.capture import Capture, read_site
from unladen.markup.titles import title_of
from unladen.weigh.visits.recording import address_from


def take_in(owner: User, archive: Path, file_name: str, name: str = "") -> Site:
    """The new site, with its first weigh-in queued; raises `BadInput` (naming `file_name`) and leaves nothing then.

    Without a `name` it is called by its home page's title, or else by the file.
    """
    key = uuid.uuid4()
    try:
        capture = read_site(archive, storage.store(key), name=file_name)
        name = name or title_of(capture) or Path(file_name).stem
        with transaction.atomic():
            site = Site.objects.create(pk=key, owner=owner, name=name[:200], index=capture.to_index())
            jobs.start(site, Job.Kind.WEIGH)
    except BaseException:
        storage.remove(key)
        raise
    return site


def take_newer(site: Site, archive: Path, file_name: str) -> Site:
    """Weigh a newer copy of a site; the older one stays until that is done. Raises `BadInput` and `Busy`.

    Bodies and encodes that both have in common are kept once.
    """
    jobs.expect_idle(site)
    capture = read_site(archive, storage.store(site.pk), name=file_name)
    jobs.start(site, Job.Kind.WEIGH, {"newer": capture.to_index()})
    return site


def take_address(owner: User, address: str, depth: int, pages: int) -> Site:
    """A new site that is recorded from this address, with that queued; raises `BadInput`."""
    start = address_from(address)
    key = uuid.uuid4()
    empty = Capture(start, {}, storage.store(key)).to_index()
    name = urlsplit(start).hostname or start
    with transaction.atomic():
        site = Site.objects.create(pk=key, owner=owner, name=name[:200], index=empty)
        jobs.start(site, Job.Kind.RECORD, {"address": start, "depth": depth, "pages": pages})
    return site
