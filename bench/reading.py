"""The memory that a process needs to read uploads of nearly 400 MB, of every form, over what it takes to start."""

from __future__ import annotations

import base64
import json
import os
import re
import subprocess
import sys
import tempfile
import zipfile
from collections.abc import Callable, Mapping
from pathlib import Path

from tests.sites import page
from unladen.capture import BodyStore, read_site
from unladen.capture.recorded import Response
from unladen.capture.warc import write_warc

LIMIT = 300_000_000  # bytes
SIZE, BIGGEST = 280_000_000, 120_000_000  # bytes of all bodies, of one of them
_HOST = "https://large.example/"


def _bodies() -> list[tuple[str, bytes]]:
    sizes = [BIGGEST, *[2_000_000] * ((SIZE - BIGGEST) // 2_000_000)]
    return [(f"{number}.mp4", os.urandom(size)) for number, size in enumerate(sizes)]


def _zip(target: Path) -> None:
    with zipfile.ZipFile(target, "w") as archive:
        archive.writestr("index.html", page("x"))
        for name, body in _bodies():
            archive.writestr(name, body)


def _warc(target: Path) -> None:
    films = [Response(_HOST + name, 200, (("content-type", "video/mp4"),), body) for name, body in _bodies()]
    write_warc([Response(_HOST, 200, (("content-type", "text/html"),), page("x")), *films], target)


def _har(target: Path) -> None:
    def entry(url: str, media_type: str, body: bytes) -> str:
        content = {"size": len(body), "text": base64.b64encode(body).decode(), "encoding": "base64"}
        headers = [{"name": "content-type", "value": media_type}]
        answer = {"status": 200, "headers": headers, "content": content}
        return json.dumps({"request": {"method": "GET", "url": url}, "response": answer})

    with target.open("w") as file:
        file.write('{"log": {"version": "1.2", "entries": [' + entry(_HOST, "text/html", page("x")))
        for name, body in _bodies():
            file.write("," + entry(_HOST + name, "video/mp4", body))
        file.write("]}}")


_FORMS: Mapping[str, Callable[[Path], None]] = {"zip": _zip, "warc": _warc, "har": _har}


def child(path: str) -> None:
    """Read it; print the peak of this process in bytes."""
    with tempfile.TemporaryDirectory() as folder:
        read_site(Path(path), BodyStore(Path(folder) / "bodies"))
    # What getrusage says would count the process that started this one, too.
    print(re.search(r"VmHWM:\s*(\d+) kB", Path("/proc/self/status").read_text())[1] + "000")  # type: ignore[index]


def measure() -> tuple[str, str, bool]:
    """Each in a process of its own."""
    told, most = [], 0
    with tempfile.TemporaryDirectory() as folder:
        for form, make in _FORMS.items():
            path = Path(folder) / f"large.{form}"
            make(path)
            code = f"from bench.reading import child; child({str(path)!r})"
            found = int(
                subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True).stdout
            )
            told.append(f"{form} of {path.stat().st_size / 1e6:.0f} MB: {found / 1e6:.0f} MB")
            most = max(most, found)
            path.unlink()
    return ", ".join(told), f"under {LIMIT / 1e6:.0f} MB", most < LIMIT
