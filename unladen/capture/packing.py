"""Texts packed ahead of time, as small as they get: what a server hands out without doing it anew for every visitor."""

from __future__ import annotations

import gzip
import hashlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any, ClassVar

from unladen.capture.mediatypes import is_compressible
from unladen.capture.model import Capture, Exchange, sent_body
from unladen.capture.store import BodyStore
from unladen.capture.unpacking import BodyRefused, decoded
from unladen.errors import Refused

_GZIP = 9  # RFC 1952, at the most that its usual program does


@dataclass(frozen=True, slots=True)
class Packed:
    """A body packed by brotli."""

    data: bytes

    def facts(self) -> dict[str, Any]:
        """Nothing beside it."""
        return {}


@dataclass(frozen=True, slots=True)
class PackText:
    """The work of packing a body by brotli."""

    name: ClassVar[str] = "pack-text"
    version: ClassVar[int] = 1
    seconds: ClassVar[float] = 120.0
    memory: ClassVar[int] = 2_000_000_000

    def as_json(self) -> dict[str, Any]:
        """It has no parameters."""
        return {}

    def run(self, data: bytes) -> Packed:
        """The packed body; raises `Refused` where it would not be smaller."""
        made, encoding = sent_body(data, "packed")
        if not encoding:
            raise Refused("would not become smaller")
        return Packed(made)


def beside(capture: Capture, paths: Mapping[str, str]) -> Iterator[tuple[str, bytes]]:
    """What is written beside the files that were packed, by brotli and by gzip: `a.css.br`, `a.css.gz`.

    `paths` are those of the files by URL. A name that a file of the site has is left to it.
    """
    taken = {path.casefold() for path in paths.values()}
    for url, path in sorted(paths.items(), key=lambda entry: entry[1]):
        exchange = capture.exchanges[url]
        if not exchange.packed:
            continue
        for ending, body in ((".br", capture.store.get(exchange.packed)), (".gz", _zipped(capture, exchange))):
            if (path + ending).casefold() not in taken:
                yield path + ending, body


def as_packed(exchanges: Mapping[str, Exchange], store: BodyStore) -> dict[str, Exchange]:
    """The same in which a text with its packed self beside it (`a.css.br`, `a.css.gz`) is sent so, and both are one."""
    result = dict(exchanges)
    for url, exchange in exchanges.items():
        best, other = exchanges.get(f"{url}.br"), exchanges.get(f"{url}.gz")
        if best is None or not is_compressible(exchange.media_type) or not _unpacks_to(store, best, "br", exchange):
            continue
        result[url] = replace(exchange, encoding="packed", packed=best.digest, packed_size=best.size)
        del result[best.url]
        if other is not None and _unpacks_to(store, other, "gzip", exchange):
            del result[other.url]
    return result


def _unpacks_to(store: BodyStore, packed: Exchange, encoding: str, wanted: Exchange) -> bool:
    sha, size = hashlib.sha256(), 0
    try:
        for piece in decoded([store.get(packed.digest)], encoding):
            sha.update(piece)
            size += len(piece)
            if size > wanted.size:
                return False
    except BodyRefused:
        return False
    return sha.hexdigest() == wanted.digest


def _zipped(capture: Capture, exchange: Exchange) -> bytes:
    return gzip.compress(capture.body(exchange), _GZIP, mtime=0)
