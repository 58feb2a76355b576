"""The memory that a ZIP file of 200 MB needs to be taken in and its images tried out, browser apart."""

from __future__ import annotations

import resource
import subprocess
import sys
import tempfile
import zipfile
from pathlib import Path

from tests.sites import page, photo
from unladen.capture import BodyStore, read_zip, write_zip
from unladen.progress import Progress
from unladen.raster.recode import Recipe
from unladen.work_cache import WorkCache

LIMIT = 600_000_000
SIZE = 200_000_000


def _make(target: Path) -> None:
    picture = photo(2400, 1600, quality=98)
    with zipfile.ZipFile(target, "w") as archive:
        archive.writestr("index.html", page("".join(f"<img src={n}.jpg>" for n in range(SIZE // len(picture) + 1))))
        for number in range(SIZE // len(picture) + 1):
            archive.writestr(f"{number}.jpg", picture + str(number).encode())


def child(path: str) -> None:
    """Take the archive in, try four images out, write the archive; print the peak of this process and its workers."""
    with tempfile.TemporaryDirectory() as folder:
        store = BodyStore(Path(folder) / "bodies")
        capture = read_zip(Path(path), store)
        images = [e.digest for e in capture if e.media_type == "image/jpeg"][:4]
        WorkCache(Path(folder) / "memo", store).outcomes(
            [(d, Recipe(1200, "WEBP", 0.95)) for d in images], Progress(), "survey"
        )
        write_zip(capture, Path(folder) / "out.zip")
    own = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    worker = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss
    print((own + 2 * worker) * 1024)


def measure() -> tuple[str, str, bool]:
    """In a process of its own; the workers' peak counts twice, as two run at a time."""
    with tempfile.TemporaryDirectory() as folder:
        archive = Path(folder) / "large.zip"
        _make(archive)
        size = archive.stat().st_size
        code = f"from bench.memory import child; child({str(archive)!r})"
        found = int(subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True).stdout)
    return f"{found / 1e6:.0f} MB for a ZIP file of {size / 1e6:.0f} MB", f"under {LIMIT / 1e6:.0f} MB", found < LIMIT
