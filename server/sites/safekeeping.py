"""All that is kept put into one archive while the server runs, and taken back from it.

The archive is a TAR file: `mule.sqlite3`, a snapshot of the database, and the sites' files under `sites/`. What can be
computed anew is left out.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import sqlite3
import subprocess
import sys
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path, PurePosixPath
from uuid import UUID

from django.apps import apps
from django.conf import settings
from django.db import connections
from django.db.migrations.loader import MigrationLoader

from unladen.errors import BadInput

DATABASE = "mule.sqlite3"
APPLICATION_ID = 0x4D_55_4C_45  # "MULE" (SQLite, "PRAGMA application_id"); backups from before have none
_MANAGE = Path(settings.BASE_DIR) / "manage.py"
_FIRST = {("sites", "0001_initial"), ("auth", "0001_initial")}
_OPENED_WITHIN = 600.0  # s
_SITES = "sites"
_COMPUTED = ("memo",)  # folders of a site that come again


def _database() -> Path:
    return Path(str(settings.DATABASES["default"]["NAME"]))


def back_up(out: Path) -> tuple[int, int]:
    """Write the archive; returns how many files it holds and its size in bytes. Raises `BadInput` and `OSError`.

    The database comes first: a file that a later row names may be there without it, but not the other way round,
    unless a site is deleted meanwhile.
    """
    if out.exists():
        raise BadInput(str(out), "exists already; choose another file name")
    part = out.with_name(out.name + ".part")
    count = 0
    try:
        with tempfile.TemporaryDirectory(dir=settings.DATA_DIR) as folder, tarfile.open(part, "x") as archive:
            snapshot = Path(folder) / DATABASE
            with closing(sqlite3.connect(_database())) as source, closing(sqlite3.connect(snapshot)) as target:
                source.backup(target)
                target.execute(f"PRAGMA application_id = {APPLICATION_ID}")
            archive.add(snapshot, DATABASE)
            for path, name in _files():
                with contextlib.suppress(FileNotFoundError):  # its site was deleted a moment ago
                    archive.add(path, name, recursive=False)
                    count += 1
        part.replace(out)
    except FileExistsError:
        raise BadInput(str(part), "exists already; another backup is running or was interrupted") from None
    except BaseException:
        part.unlink(missing_ok=True)
        raise
    return count, out.stat().st_size


def _files() -> Iterator[tuple[Path, str]]:
    root = Path(settings.SITES_DIR)
    for folder, below, names in os.walk(root):
        here = Path(folder)
        if here.parent.parent == root or here.parent == root:
            below[:] = [name for name in below if name not in _COMPUTED]
        for name in sorted(names):
            path = here / name
            yield path, str(PurePosixPath(_SITES) / path.relative_to(root).as_posix())


def take_back(archive: Path) -> Path:
    """Put what an archive holds in the place of what is there; returns where the database lies that was there before.

    The archive is unpacked beside, and its database is brought up to date and read from end to end there. Only then
    files of sites are moved to their place, and the database changes in one step, so that whoever is at work sees the
    one state or the other. Raises `BadInput` and leaves everything as it is where the archive is not one of ours.
    """
    try:
        with tempfile.TemporaryDirectory(dir=settings.DATA_DIR) as folder:
            _unpack(archive, Path(folder))
            snapshot = Path(folder) / DATABASE
            _recognised(archive, snapshot)
            _opened(archive, Path(folder))
            _moved(Path(folder) / _SITES, Path(settings.SITES_DIR))
            return _replaced(snapshot)
    except (tarfile.TarError, EOFError, sqlite3.Error) as error:
        raise BadInput(str(archive), f"is not a backup or is damaged ({error})") from error


def _unpack(archive: Path, folder: Path) -> None:
    """Only what a backup may hold; anything else refuses the whole."""
    with tarfile.open(archive) as members:
        for member in members:
            path = PurePosixPath(member.name)
            ours = member.name == DATABASE or (path.parts[:1] == (_SITES,) and _is_key(path.parts[1:2]))
            if not ours or not member.isreg():
                raise BadInput(str(archive), f"holds “{member.name[:80]}”, which does not belong in a backup")
            members.extract(member, folder, filter="data")


def _is_key(parts: tuple[str, ...]) -> bool:
    try:
        return str(UUID(parts[0])) == parts[0]
    except (ValueError, IndexError):
        return False


def _recognised(archive: Path, snapshot: Path) -> None:
    """Raises `BadInput` unless a database is ours by its mark and its migrations, and whole."""
    if not snapshot.exists():
        raise BadInput(str(archive), f"does not contain {DATABASE}")
    try:
        with closing(sqlite3.connect(snapshot)) as database:
            (mark,) = database.execute("PRAGMA application_id").fetchone()
            (verdict,) = database.execute("PRAGMA integrity_check").fetchone()
            applied = set(database.execute("SELECT app, name FROM django_migrations"))
    except sqlite3.Error as error:
        raise BadInput(str(archive), f"its database cannot be read ({error})") from error
    ours = set(MigrationLoader(None).disk_migrations)
    labels = {config.label for config in apps.get_app_configs()}
    if mark not in (0, APPLICATION_ID) or not applied >= _FIRST or {app for app, _ in applied} - labels:
        raise BadInput(str(archive), "its database does not belong to Unladen Mule")
    if verdict != "ok":
        raise BadInput(str(archive), f"its database is damaged ({verdict})")
    if newer := sorted(applied - ours):
        raise BadInput(str(archive), f"comes from a newer version of Unladen Mule ({newer[0][1]})")


def _opened(archive: Path, folder: Path) -> None:
    """Raises `BadInput` unless this version opens the unpacked database: a process of its own migrates and reads it."""
    here = {"MULE_DATA": str(folder), "MULE_DATABASE": str(folder / DATABASE), "MULE_SITES": str(folder / _SITES)}
    command = [sys.executable, str(_MANAGE), "readable"]
    try:
        done = subprocess.run(
            command, env=os.environ | here, capture_output=True, text=True, timeout=_OPENED_WITHIN, check=False
        )
    except subprocess.TimeoutExpired:
        raise BadInput(str(archive), f"its database cannot be read within {_OPENED_WITHIN:.0f} s") from None
    if done.returncode:
        lines = done.stderr.strip().splitlines() or ["the process ended"]
        raise BadInput(str(archive), f"this version cannot open its database ({lines[-1][:300]})")


def _moved(source: Path, target: Path) -> None:
    """Each file moves in one step, which takes no room on the disk."""
    for folder, _, names in os.walk(source):
        place = target / Path(folder).relative_to(source)
        place.mkdir(parents=True, exist_ok=True)
        for name in names:
            shutil.move(Path(folder) / name, place / name)


def _replaced(snapshot: Path) -> Path:
    """The database from before is kept, and comes back at once where the new one does not answer."""
    place = _database()
    before = place.with_name(f"{place.stem}-before-{datetime.now(UTC):%Y%m%dT%H%M%SZ}.sqlite3")
    with closing(sqlite3.connect(place)) as live:
        with closing(sqlite3.connect(before)) as kept:
            live.backup(kept)
        try:
            with closing(sqlite3.connect(snapshot)) as source:
                source.backup(live)
            live.execute("SELECT COUNT(*) FROM sites_site").fetchone()
        except sqlite3.Error:
            with closing(sqlite3.connect(before)) as kept:
                kept.backup(live)
            raise
    connections.close_all()
    return before
