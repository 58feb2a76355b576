"""ZIP archives in and out."""

from __future__ import annotations

import lzma
import stat
import struct
import zipfile
import zlib
from collections.abc import Collection, Iterator, Mapping
from pathlib import Path

from unladen.capture.files import BASE_URL, capture_of_files
from unladen.capture.limits import Limits
from unladen.capture.mediatypes import is_compressible
from unladen.capture.model import Capture
from unladen.capture.names import NameRefused, is_litter, member_name, safe_path
from unladen.capture.packing import beside as packed_beside
from unladen.capture.paths import written_paths
from unladen.capture.store import BodyStore
from unladen.capture.unpacking import BodyRefused, Meter
from unladen.errors import BadInput, Notice

_CHUNK = 1 << 20
# What the unpackers of the standard library raise, beside the `OSError` of bzip2.
_DAMAGED = (
    zipfile.BadZipFile,
    zlib.error,
    lzma.LZMAError,
    struct.error,
    EOFError,
    NotImplementedError,
    RuntimeError,
    ValueError,
    IndexError,
)
_UTF8_FLAG = 0x800
_ENCRYPTED_FLAG = 0x1
_EPOCH = (1980, 1, 1, 0, 0, 0)


def read_zip(
    path: Path,
    store: BodyStore,
    *,
    base_url: str = BASE_URL,
    gzip_text: bool = True,
    limits: Limits | None = None,
    name: str = "",
) -> Capture:
    """A capture from a ZIP file, called `name` in messages; unusable members are left out with a notice.

    Raises `BadInput` when nothing can be made of it.
    """
    limits = limits or Limits()
    called = name or path.name
    try:
        archive = zipfile.ZipFile(path)
    except (zipfile.BadZipFile, ValueError, OSError, EOFError, NotImplementedError) as error:
        if path.is_file() and path.stat().st_size == 0:
            raise BadInput(called, "is empty") from error
        raise BadInput(called, "is not a ZIP file, or is cut off") from error
    kept: list[tuple[str, str, int]] = []
    notices: list[Notice] = []
    with archive:
        members = [info for info in archive.infolist() if not info.filename.endswith("/")]
        if not members:
            raise BadInput(called, "is an empty ZIP file")
        if len(members) > limits.files:
            raise BadInput(called, f"holds {len(members):,} files; at most {limits.files:,} are read")
        meter = Meter(called, path.stat().st_size, limits)
        for info in members:
            name = member_name(info.filename, bool(info.flag_bits & _UTF8_FLAG))
            if is_litter(name):
                continue
            try:
                relative = safe_path(name, limits)
                _refuse_special(info)
                digest, size = store.put_chunks(meter.body(_unpack(archive, info)))
            except (NameRefused, BodyRefused) as error:
                notices.append(Notice(name, f"{error}; left out"))
            else:
                kept.append((relative, digest, size))
    return capture_of_files(called, kept, store, base_url, gzip_text, notices)


def _refuse_special(info: zipfile.ZipInfo) -> None:
    mode = info.external_attr >> 16
    if stat.S_ISLNK(mode):
        raise NameRefused("is a symbolic link")
    if stat.S_IFMT(mode) not in (0, stat.S_IFREG):
        raise NameRefused("is not a regular file")
    if info.flag_bits & _ENCRYPTED_FLAG:
        raise NameRefused("is encrypted")


def _unpack(archive: zipfile.ZipFile, info: zipfile.ZipInfo) -> Iterator[bytes]:
    """A member piece by piece; raises `BodyRefused`, whatever the way in which it is damaged."""
    try:
        with archive.open(info) as source:
            while chunk := source.read(_CHUNK):
                yield chunk
    except (*_DAMAGED, OSError) as error:
        raise BodyRefused("is damaged in the archive or packed in an unknown way") from error


def write_zip(
    capture: Capture,
    target: Path,
    *,
    only: Collection[str] | None = None,
    beside: Mapping[str, str | bytes] | None = None,
) -> list[Notice]:
    """Write the capture as a ZIP file, with what was packed ahead of time beside: the same capture gives the same
    bytes.

    `only` are the URLs of files to be taken, all without it; `beside` are texts by file name that go with them. Returns
    what stands there under another name than its own, and what does not.
    """
    files, paths, notices = written_paths(capture, only)
    with zipfile.ZipFile(target, "w") as archive:
        for name, text in sorted((beside or {}).items()):
            archive.writestr(zipfile.ZipInfo(name, _EPOCH), text, zipfile.ZIP_DEFLATED)
        for exchange in sorted(files, key=lambda e: paths[e.url]):
            info = zipfile.ZipInfo(paths[exchange.url], _EPOCH)
            info.external_attr = 0o644 << 16
            info.compress_type = zipfile.ZIP_DEFLATED if is_compressible(exchange.media_type) else zipfile.ZIP_STORED
            with archive.open(info, "w") as sink, capture.store.path(exchange.digest).open("rb") as source:
                while chunk := source.read(_CHUNK):
                    sink.write(chunk)
        for name, body in packed_beside(capture, written_paths(capture)[1] if only is not None else paths):
            info = zipfile.ZipInfo(name, _EPOCH)
            info.external_attr = 0o644 << 16
            archive.writestr(info, body)
    return notices
