"""How much memory the web server takes for an archive of the largest size that is taken in."""

from __future__ import annotations

import os
import tempfile
import threading
import zipfile
from pathlib import Path

from bench.served import Caller, served
from tests.sites import page

SIZE, LIMIT = 490_000_000, 60_000_000  # bytes


def measure() -> tuple[str, str, bool]:
    """The largest growth of all web processes together while it comes."""
    with tempfile.TemporaryDirectory() as folder, served(["ada"]) as (address, data):
        archive = Path(folder) / "large.zip"
        with zipfile.ZipFile(archive, "w", zipfile.ZIP_STORED) as target:
            target.writestr("index.html", page("x"))
            target.writestr("large.bin", os.urandom(SIZE))
        caller = Caller(address, "ada")
        before = _memory(data)
        largest = before
        done = threading.Event()

        def watch() -> None:
            nonlocal largest
            while not done.wait(0.05):
                largest = max(largest, _memory(data))

        watcher = threading.Thread(target=watch)
        watcher.start()
        caller.upload(archive)
        done.set()
        watcher.join()
        left = [path.name for path in (data / "incoming").iterdir()]
    grown = largest - before
    told = f"{grown / 1e6:.0f} MB more for an upload of {SIZE / 1e6:.0f} MB; left in the way: {left or 'nothing'}"
    return told, f"{LIMIT / 1e6:.0f} MB", grown <= LIMIT and not left


def _memory(data: Path) -> int:
    """Bytes that the processes hold which serve from this folder."""
    total = 0
    for process in Path("/proc").glob("[0-9]*"):
        try:
            told = (process / "environ").read_bytes()
            if f"MULE_DATA={data}".encode() in told and b"gunicorn" in (process / "cmdline").read_bytes():
                total += int((process / "statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE")
        except OSError:
            continue
    return total
