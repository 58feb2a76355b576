"""What is wrong with the set-up, as far as a program can tell."""

from __future__ import annotations

import os
import shutil
import sqlite3
import stat
import tempfile
from collections.abc import Callable
from contextlib import closing
from datetime import timedelta
from pathlib import Path
from typing import NamedTuple

from django.conf import settings
from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor
from django.utils import timezone

from server.sites import storage
from server.sites.models import Job, Site
from unladen.capture import BodyStore, read_folder
from unladen.errors import UnladenError
from unladen.weigh.records.conditions import DEVICES, Conditions
from unladen.weigh.visits.weighing import browser_for, weigh_page

PROGRAMS = ("ffmpeg", "ffprobe", "jpegtran", "cwebp")
_ROOM = 2_000_000_000  # bytes free on the disk, below which a site may not find room
_WAITS_LONG = timedelta(minutes=2)


class Verdict(NamedTuple):
    """What was looked at, whether it is well, and how it is in words."""

    name: str
    well: bool
    words: str


def examine() -> list[Verdict]:
    """All findings, each by itself, so that one that fails hides no other."""
    looks: list[tuple[str, Callable[[], tuple[bool, str]]]] = [
        ("programs", _programs),
        ("front end", _front_end),
        ("data folder", _folder),
        ("disk", _disk),
        ("database", _database),
        ("sites", _sites),
        ("jobs", _jobs),
        ("browser", _browser),
    ]
    result = []
    for name, look in looks:
        try:
            result.append(Verdict(name, *look()))
        except (OSError, DatabaseError, sqlite3.Error, UnladenError) as error:
            result.append(Verdict(name, False, str(error) or type(error).__name__))
    return result


def _programs() -> tuple[bool, str]:
    missing = [name for name in PROGRAMS if not shutil.which(name)]
    return (
        (False, f"{', '.join(missing)} not found. Run ./mule start to install them.") if missing else (True, "there")
    )


def _front_end() -> tuple[bool, str]:
    if (settings.WEB_DIR / "index.html").exists():
        return True, "built"
    return False, "is not built. Run ./mule start."


def _folder() -> tuple[bool, str]:
    data = Path(settings.DATA_DIR)
    with tempfile.NamedTemporaryFile(dir=data) as file:
        file.write(b"x" * 10_000)
    open_to_others = [p.name for p in [data, *data.iterdir()] if stat.S_IMODE(p.stat().st_mode) & 0o077]
    if open_to_others:
        return (
            False,
            f"other users of this machine can read {', '.join(sorted(open_to_others)[:5])}: chmod -R go= {data}",
        )
    return True, f"{data} is writable by its owner only"


def _disk() -> tuple[bool, str]:
    free = shutil.disk_usage(settings.DATA_DIR).free
    return (
        free >= _ROOM,
        f"{free / 1e9:.1f} GB free{'' if free >= _ROOM else '; this may not suffice for whole sites'}",
    )


def _database() -> tuple[bool, str]:
    with closing(sqlite3.connect(str(settings.DATABASES["default"]["NAME"]), timeout=5)) as database:
        (verdict,) = database.execute("PRAGMA quick_check").fetchone()
    if verdict != "ok":
        return False, f"is damaged ({verdict}). Restore a backup with ./mule restore."
    executor = MigrationExecutor(connection)
    if executor.migration_plan(executor.loader.graph.leaf_nodes()):
        return False, "has an older version. Run ./mule start to update it."
    return True, "undamaged, current version"


def _sites() -> tuple[bool, str]:
    keys = list(Site.objects.values_list("pk", flat=True))
    lost = [str(key) for key in keys if not storage.folder(key).is_dir()]
    if lost:
        return False, f"the files of {len(lost)} of {len(keys)} sites are gone, of {lost[0]} first"
    return True, f"{len(keys)}, with their files"


def _jobs() -> tuple[bool, str]:
    long_ago = timezone.now() - _WAITS_LONG
    waiting = Job.objects.filter(state=Job.State.WAITING, paused=False, created__lt=long_ago).count()
    running = Job.objects.filter(state=Job.State.RUNNING, heartbeat__gte=long_ago).count()
    if waiting and not running:
        return False, f"{waiting} jobs wait and none runs. Check that the worker runs."
    return True, f"{running} running, {waiting} waiting for long"


def _browser() -> tuple[bool, str]:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "site").mkdir()
        (folder / "site" / "index.html").write_text("<!doctype html><title>x</title><p>x")
        capture = read_folder(folder / "site", BodyStore(folder / "bodies"))
        with browser_for(capture) as browser:
            weigh_in = weigh_page(browser, capture.pages()[0], Conditions(DEVICES["phone"]))
    as_root = "" if os.geteuid() else ", without its sandbox, as this is root"
    return weigh_in.visit.requests[0].status == 200, f"{weigh_in.browser} opens a page{as_root}"
