"""Folders of static files in and out."""

from __future__ import annotations

import os
import stat
from collections.abc import Iterable
from pathlib import Path

from unladen.capture.addresses import url_of_path
from unladen.capture.limits import Limits
from unladen.capture.mediatypes import is_compressible, is_page, media_type_of
from unladen.capture.model import Capture, Exchange
from unladen.capture.names import NameRefused, is_litter, safe_path, shared_folder
from unladen.capture.packing import as_packed
from unladen.capture.packing import beside as packed_beside
from unladen.capture.paths import written_paths
from unladen.capture.store import BodyStore
from unladen.errors import BadInput, Notice

BASE_URL = "https://site.example/"


def read_folder(
    path: Path, store: BodyStore, *, base_url: str = BASE_URL, gzip_text: bool = True, limits: Limits | None = None
) -> Capture:
    """A capture from a folder. Symbolic links and devices are left out with a notice; raises `BadInput`."""
    limits = limits or Limits()
    kept: list[tuple[str, str, int]] = []
    notices: list[Notice] = []
    total = 0
    for name, file in _walk(path):
        try:
            relative = safe_path(name, limits)
        except NameRefused as error:
            notices.append(Notice(os.fsencode(name).decode("utf-8", "backslashreplace"), f"{error}; left out"))
            continue
        if is_litter(name):
            continue
        mode = file.lstat().st_mode
        if not stat.S_ISREG(mode):
            kind = "a symbolic link" if stat.S_ISLNK(mode) else "not a regular file"
            notices.append(Notice(name, f"is {kind}; left out"))
            continue
        size = file.stat().st_size
        total += size
        if size > limits.file_size:
            notices.append(Notice(name, f"is larger than {limits.file_size // 1_000_000} MB; left out"))
            continue
        if len(kept) >= limits.files:
            raise BadInput(path.name, f"holds more than {limits.files:,} files")
        if total > limits.total_size:
            raise BadInput(path.name, f"holds more than {limits.total_size // 1_000_000:,} MB")
        try:
            kept.append((relative, *store.put_file(file)))
        except PermissionError:
            notices.append(Notice(name, "may not be read; left out"))
    return capture_of_files(path.name, kept, store, base_url, gzip_text, notices)


def _walk(root: Path) -> Iterable[tuple[str, Path]]:
    for folder, folders, files in os.walk(root, followlinks=False):
        folders.sort()
        here = Path(folder)
        links = [name for name in folders if (here / name).is_symlink()]
        for name in sorted(files + links):
            file = here / name
            yield file.relative_to(root).as_posix(), file


def capture_of_files(
    name: str,
    files: list[tuple[str, str, int]],
    store: BodyStore,
    base_url: str,
    gzip_text: bool,
    notices: list[Notice],
) -> Capture:
    """A capture from (relative path, digest, size) triples; raises `BadInput` when no page is among them."""
    if not base_url.endswith("/"):
        base_url += "/"
    if not files:
        first = f" ({notices[0]})" if notices else ""
        raise BadInput(name, f"holds no files{first}")
    prefix = shared_folder([path for path, _, _ in files])
    exchanges: dict[str, Exchange] = {}
    for path, digest, size in sorted(files, key=lambda file: file[0]):
        inner = path.removeprefix(prefix)
        url = url_of_path(base_url, inner)
        media_type = media_type_of(inner)
        if url in exchanges:
            notices.append(Notice(path, "has the same address as a file before it; left out"))
            continue
        encoding = "gzip" if gzip_text and is_compressible(media_type) else ""
        exchanges[url] = Exchange(
            url, 200, (("content-type", media_type),), media_type, digest, size, encoding, inner
        )
    if not any(is_page(exchange.media_type) for exchange in exchanges.values()):
        raise BadInput(name, f"holds no HTML page among its {len(exchanges):,} files")
    return Capture(base_url, as_packed(exchanges, store), store, prefix, tuple(notices))


def write_folder(capture: Capture, target: Path) -> list[Notice]:
    """Write the site's own files below `target`; returns what stands there under another name, and what does not."""
    files, paths, notices = written_paths(capture)
    for exchange in files:
        file = target / paths[exchange.url]
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_bytes(capture.body(exchange))
    for name, body in packed_beside(capture, paths):
        (target / name).write_bytes(body)
    return notices
