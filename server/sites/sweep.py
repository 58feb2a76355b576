"""What killed processes left behind on the disk: half of an upload, files of a site that is gone, temporary folders."""

from __future__ import annotations

import contextlib
import os
import shutil
import tempfile
import time
from pathlib import Path
from uuid import UUID

from django.conf import settings

from server.sites.models import Job, Site

_OLD = 3600.0  # s without a change, before which somebody may be about to use it


def own_temporary_folder() -> None:
    """Have all temporary files of this process and of those below it in a folder that goes with it."""
    folder = Path(settings.DATA_DIR) / "temporary" / str(os.getpid())
    folder.mkdir(parents=True, exist_ok=True)
    tempfile.tempdir = str(folder)
    os.environ["TMPDIR"] = str(folder)


def sweep(older_than: float = _OLD) -> list[Path]:
    """Remove what nobody will ask for any more, if it is old enough (in s); returns what went."""
    gone: list[Path] = []
    for path in [*_uploads(), *_sites(), *_archives()]:
        if _age(path) >= older_than:
            gone.append(path)
    gone += _temporary()
    for path in gone:
        if path.is_dir():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink(missing_ok=True)
    return gone


def _below(folder: Path) -> list[Path]:
    with contextlib.suppress(OSError):
        return sorted(folder.iterdir())
    return []


def _age(path: Path) -> float:
    try:
        return time.time() - path.stat().st_mtime
    except OSError:
        return 0.0


def _uploads() -> list[Path]:
    return _below(Path(settings.FILE_UPLOAD_TEMP_DIR))


def _sites() -> list[Path]:
    """Folders of sites that are not in the database."""
    sites = []
    for path in _below(Path(settings.SITES_DIR)):
        try:
            key = UUID(path.name)
        except ValueError:
            continue  # none of ours
        if not Site.objects.filter(pk=key).exists():
            sites.append(path)
    return sites


def _archives() -> list[Path]:
    """Archives that no job is going to read."""
    active = Job.objects.filter(state__in=[Job.State.WAITING, Job.State.RUNNING])
    wanted = set(active.values_list("params__archive", flat=True))
    folders = [folder / "arrived" for folder in _below(Path(settings.SITES_DIR))]
    return [path for folder in folders for path in _below(folder) if path.name not in wanted]


def _temporary() -> list[Path]:
    """Temporary folders of processes that have ended."""
    folders = _below(Path(settings.DATA_DIR) / "temporary")
    return [path for path in folders if path.name.isdigit() and not Path(f"/proc/{path.name}").exists()]
