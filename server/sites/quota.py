"""How much of the disk a user's sites take, and how much they may."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from django.conf import settings
from django.contrib.auth.models import User
from django.db.models import F

from server.sites import storage
from server.sites.models import Site
from unladen.errors import StoreFull

_STEP = 1_000_000  # bytes noted at once


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


class Spending:
    """Counts what a job writes for a site against the quota of its owner, together with all other jobs of theirs.

    Each step is noted before its bytes are written and before the sum is looked at, so that jobs in other processes
    see each other and none writes more than a step beyond the quota. `measure` puts the exact figure in its place.
    """

    def __init__(self, site: Site) -> None:
        self._site = site.pk
        self._owner = site.owner
        self._noted = self._spent = 0

    def __call__(self, count: int) -> None:
        """Note bytes; raises `StoreFull` where they go beyond the quota."""
        self._spent += count
        if self._spent <= self._noted:
            return
        step = max(_STEP, self._spent - self._noted)
        self._noted += step
        Site.objects.filter(pk=self._site).update(stored=F("stored") + step)
        room = room_of(self._owner)
        if room.used - (self._noted - self._spent) > room.most:
            raise StoreFull(
                f"The site is larger than the room that is left: {megabytes(self._spent)} of it are unpacked, and your "
                f"quota of {megabytes(room.most)} is full. Delete a site to free space, or add a smaller one."
            )


def megabytes(size: int) -> str:
    """A size as people read it."""
    return f"{size / 1_000_000:,.0f} MB"


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
