"""What comes out of uploads, piece by piece and counted: the sizes that they declare cannot be trusted.

Content codings as HTTP has them (RFC 9110, 8.4; RFC 1950 to 1952; RFC 7932; RFC 8878) and chunked framing (RFC 9112,
7.1).
"""

from __future__ import annotations

import re
import zlib
from collections.abc import Callable, Iterable, Iterator, Mapping

import brotli
import zstandard

from unladen.capture.limits import Limits
from unladen.errors import BadInput

Chunks = Iterable[bytes]
_PIECE = 1 << 20  # bytes that come out at once at most, or somewhat more
_SIP = 256  # bytes of Zstandard taken at once: a block of 128 kB may take 4 of them, and all come out together
_ZSTD_WINDOW = 8 << 20  # bytes; RFC 9659, 3
_LONGEST_SIZE = 8  # hexadecimal digits of a chunk's size
_LONGEST_LINE = 4096  # bytes of the line that says a chunk's size


class BodyRefused(ValueError):
    """A body that cannot be unpacked; its text is the reason."""


class Meter:
    """Counts what comes out of one upload, called `name`, of `packed` bytes, against limits."""

    def __init__(self, name: str, packed: int, limits: Limits) -> None:
        self.name = name
        self.packed = max(packed, 1)
        self.limits = limits
        self.total = 0

    def add(self, count: int) -> None:
        """Count bytes; raises `BadInput` when the upload is more than is read, all in all or for its size."""
        self.total += count
        if self.total > self.limits.total_size:
            raise BadInput(self.name, f"unpacks to more than {self.limits.total_size // 1_000_000:,} MB")
        if self.total > self.limits.ratio_from and self.total > self.packed * self.limits.ratio:
            raise BadInput(
                self.name, f"unpacks to more than {self.limits.ratio} times its size, which suggests an archive bomb"
            )

    def body(self, chunks: Chunks) -> Iterator[bytes]:
        """A body counted on its way; raises `BodyRefused` when it is larger than one file may be, and `BadInput`."""
        size = 0
        for chunk in chunks:
            size += len(chunk)
            self.add(len(chunk))
            if size > self.limits.file_size:
                raise BodyRefused(f"is larger than {self.limits.file_size // 1_000_000} MB")
            yield chunk


def decoded(chunks: Chunks, codings: str) -> Chunks:
    """A body without its content codings, the last one first; raises `BodyRefused`, here or while it is read."""
    for token in reversed([t.strip() for t in codings.lower().split(",") if t.strip()]):
        if token == "identity":
            continue
        if token not in _DECODERS:
            raise BodyRefused(f"is packed by “{token[:30]}”, which is not supported")
        chunks = _told(_DECODERS[token](chunks))
    return chunks


def _told(chunks: Chunks) -> Iterator[bytes]:
    try:
        yield from chunks
    except (zlib.error, brotli.error, zstandard.ZstdError) as error:
        raise BodyRefused("cannot be decompressed or is truncated") from error


def _inflated(chunks: Chunks) -> Iterator[bytes]:
    """gzip or zlib by its header, deflate without one where there is none."""
    machine = zlib.decompressobj(47)
    begun = False
    for chunk in chunks:
        while chunk and not machine.eof:
            try:
                out = machine.decompress(chunk, _PIECE)
            except zlib.error:
                if begun:
                    raise
                machine = zlib.decompressobj(-15)
                out = machine.decompress(chunk, _PIECE)
            begun = True
            yield out
            chunk = machine.unconsumed_tail
    if begun and not machine.eof:
        raise BodyRefused("is cut off")


def _unbrotlied(chunks: Chunks) -> Iterator[bytes]:
    machine = brotli.Decompressor()
    begun = False
    for chunk in chunks:
        begun = True
        yield machine.process(chunk, output_buffer_limit=_PIECE)
        while not machine.can_accept_more_data() and not machine.is_finished():
            yield machine.process(b"", output_buffer_limit=_PIECE)
        if machine.is_finished():
            return
    if begun:
        raise BodyRefused("is cut off")


def _unzstded(chunks: Chunks) -> Iterator[bytes]:
    """Zstandard, one frame or several."""
    reader = zstandard.ZstdDecompressor(max_window_size=_ZSTD_WINDOW)
    machine = None
    for chunk in chunks:
        while chunk:
            machine = machine or reader.decompressobj()
            sip, chunk = chunk[:_SIP], chunk[_SIP:]
            yield machine.decompress(sip)
            if machine.eof:
                chunk, machine = machine.unused_data + chunk, None
    if machine is not None:
        raise BodyRefused("is cut off")


_DECODERS: Mapping[str, Callable[[Chunks], Iterator[bytes]]] = {
    "gzip": _inflated,
    "x-gzip": _inflated,
    "deflate": _inflated,
    "br": _unbrotlied,
    "zstd": _unzstded,
}


def unchunked(chunks: Chunks) -> Iterator[bytes]:
    """A body without its chunk framing; one that was unchunked by the recorder already stays as it is."""
    source = iter(chunks)
    held = b""
    begun = False
    while True:
        while b"\r\n" not in held and len(held) < _LONGEST_LINE and (more := next(source, b"")):
            held += more
        line, mark, rest = held.partition(b"\r\n")
        size = line.split(b";")[0].strip() if mark else b""
        if not re.fullmatch(rb"[0-9A-Fa-f]{1,%d}" % _LONGEST_SIZE, size):
            if begun:
                raise BodyRefused("has a body that is cut off")
            yield held
            yield from source
            return
        begun, left, held = True, int(size, 16), rest
        if left == 0:
            return
        while left > 0:
            if not held and not (held := next(source, b"")):
                raise BodyRefused("has a body that is cut off")
            yield held[:left]
            left, held = left - len(held[:left]), held[left:]
        while len(held) < 2 and (more := next(source, b"")):
            held += more
        held = held[2:]
