"""A site from whatever it is handed in as."""

from __future__ import annotations

import zipfile
from pathlib import Path

from unladen.capture.files import BASE_URL, read_folder
from unladen.capture.har import read_har
from unladen.capture.limits import Limits
from unladen.capture.model import Capture
from unladen.capture.store import BodyStore
from unladen.capture.warc import read_warc
from unladen.capture.zipped import read_zip
from unladen.errors import BadInput

_HEAD = 512  # bytes that tell what it is


def recognised(path: Path, name: str = "") -> None:
    """Raises `BadInput` for a file that is no archive or recording at all, by a glance at it."""
    called = name or path.name
    with path.open("rb") as file:
        head = file.read(_HEAD)
    if _is_warc(head, called) or _is_har(head, called):
        return
    if not head:
        raise BadInput(called, "is empty")
    if not zipfile.is_zipfile(path):
        raise BadInput(called, "is not a ZIP file")


def _is_warc(head: bytes, called: str) -> bool:
    return head.startswith((b"WARC/", b"\x1f\x8b")) or called.endswith((".warc", ".warc.gz"))


def _is_har(head: bytes, called: str) -> bool:
    return head.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"{") or called.endswith(".har")


def read_site(
    path: Path,
    store: BodyStore,
    *,
    base_url: str = BASE_URL,
    gzip_text: bool = True,
    limits: Limits | None = None,
    name: str = "",
) -> Capture:
    """A capture from a folder, a ZIP, HAR or WARC file; raises `BadInput` naming the file and the reason.

    A recording has addresses and encodings of its own, so `base_url` and `gzip_text` are for folders and ZIP files.
    """
    called = name or path.name
    if not path.exists():
        raise BadInput(str(path), "does not exist")
    if path.is_dir():
        return read_folder(path, store, base_url=base_url, gzip_text=gzip_text, limits=limits)
    with path.open("rb") as file:
        head = file.read(_HEAD)
    if _is_warc(head, called):
        return read_warc(path, store, limits=limits, name=called)
    if _is_har(head, called):
        return read_har(path, store, limits=limits, name=called)
    return read_zip(path, store, base_url=base_url, gzip_text=gzip_text, limits=limits, name=called)
