"""Texts packed ahead of time, as small as they get: what a server hands out without doing it anew for every visitor."""

from __future__ import annotations

import gzip
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

import brotli

from unladen.capture.model import Capture, Exchange
from unladen.errors import Refused

# RFC 7932 and RFC 1952 at the most that their usual programs do.
_BROTLI, _GZIP = 11, 9


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
        made = brotli.compress(data, mode=brotli.MODE_TEXT, quality=_BROTLI, lgwin=24 if len(data) > 1 << 22 else 22)
        if len(made) >= len(data):
            raise Refused("would not get smaller")
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


def _zipped(capture: Capture, exchange: Exchange) -> bytes:
    return gzip.compress(capture.body(exchange), _GZIP, mtime=0)
