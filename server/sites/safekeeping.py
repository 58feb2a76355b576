"""All that is kept put into one archive while the server runs, and taken back from it.

The archive is a TAR file: `mule.sqlite3`, a snapshot of the database, and the sites' files under `sites/`. What can be
computed anew is left out.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import sqlite3
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path, PurePosixPath
from uuid import UUID

from django.conf import settings
from django.db import connections

from unladen.errors import BadInput

DATABASE = "mule.sqlite3"
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

    Files of sites are added first, then the database changes in one step, so that whoever is at work sees the one
    state or the other. Raises `BadInput` and leaves everything as it is where the archive is none of ours.
    """
    try:
        with tempfile.TemporaryDirectory(dir=settings.DATA_DIR) as folder:
            _unpack(archive, Path(folder))
            snapshot = Path(folder) / DATABASE
            _proven(archive, snapshot)
            for site in sorted((Path(folder) / _SITES).glob("*")):
                shutil.copytree(site, Path(settings.SITES_DIR) / site.name, dirs_exist_ok=True)
            return _replaced(snapshot)
    except (tarfile.TarError, EOFError) as error:
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


def _proven(archive: Path, snapshot: Path) -> None:
    if not snapshot.exists():
        raise BadInput(str(archive), f"does not contain {DATABASE}")
    try:
        with closing(sqlite3.connect(snapshot)) as database:
            (verdict,) = database.execute("PRAGMA quick_check").fetchone()
            known = {row[0] for row in database.execute("SELECT name FROM django_migrations WHERE app = 'sites'")}
    except sqlite3.Error as error:
        raise BadInput(str(archive), f"its database cannot be read ({error})") from error
    if verdict != "ok":
        raise BadInput(str(archive), f"its database is damaged ({verdict})")
    migrations = {path.stem for path in (Path(__file__).parent / "migrations").glob("0*.py")}
    if newer := sorted(known - migrations):
        raise BadInput(str(archive), f"comes from a newer version of Unladen Mule ({newer[0]})")


def _replaced(snapshot: Path) -> Path:
    place = _database()
    before = place.with_name(f"{place.stem}-before-{datetime.now(UTC):%Y%m%dT%H%M%SZ}.sqlite3")
    with closing(sqlite3.connect(place)) as live:
        with closing(sqlite3.connect(before)) as kept:
            live.backup(kept)
        with closing(sqlite3.connect(snapshot)) as source:
            source.backup(live)
    connections.close_all()
    return before
