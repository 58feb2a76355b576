"""How much of the disk a user's sites take, and how much they may."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from django.conf import settings
from django.contrib.auth.models import User

from server.sites import storage
from server.sites.models import Site


class Quota(NamedTuple):
    """Bytes on the disk: taken by a user's sites, and what they may take at most."""

    used: int
    most: int


def room_of(user: User) -> Quota:
    """What a user has, as of the last time each of the sites was worked on."""
    return Quota(sum(Site.objects.filter(owner=user).values_list("stored", flat=True)), settings.USER_LIMIT)


def measure(site: Site) -> None:
    """Snapshot how much a site takes, and note it."""
    Site.objects.filter(pk=site.pk).update(stored=sum(_sizes(storage.folder(site.pk))))


def _sizes(folder: Path) -> Iterator[int]:
    """Bytes of all files below a folder; some may go meanwhile."""
    try:
        entries = list(os.scandir(folder))
    except OSError:
        return
    for entry in entries:
        if entry.is_dir(follow_symlinks=False):
            yield from _sizes(Path(entry.path))
        else:
            try:
                yield entry.stat(follow_symlinks=False).st_size
            except OSError:
                continue
