"""A large JSON document in pieces: the items of one long list one by one, long texts on the disk until they are asked
for.

What a piece says is judged by who reads it. Here only brackets, quotes and escapes count (RFC 8259), so that time and
memory stay in proportion whatever else the document holds.
"""

from __future__ import annotations

import codecs
import json
import re
import secrets
from collections.abc import Iterator
from typing import IO

_CHUNK = 1 << 20
_LONG = 1 << 16  # bytes from which a text goes to the disk
_DEEPEST = 200
_MARK = re.compile(rb'["{}\[\]]')
_NAMES = re.compile(rb"\s*:\s*")
_IN_TEXT = re.compile(rb'(?:[^"\\]++|\\.)*+', re.S)
# An escape, or the first half of a pair of them, that goes on in the next chunk.
_UNFINISHED = re.compile(r"\\(?:u[0-9a-fA-F]{0,3}|u[dD][89abAB][0-9a-fA-F]{2}(?:\\(?:u[0-9a-fA-F]{0,3})?)?)?\Z")
_EVEN = re.compile(r"(?:[^\\]|\\.)*+\Z", re.S)


class TooLarge(ValueError):
    """Of what is neither text nor item there is more than anybody writes by good will."""


class Texts:
    """Long texts of a document, each as it stands there between its quotes, in a temporary file."""

    def __init__(self, file: IO[bytes]) -> None:
        self._file = file
        self._secret = secrets.token_hex(16)
        self._spans: list[tuple[int, int]] = []

    def stands_for(self, value: object) -> bool:
        """Whether a value stands for a text that lies here."""
        return isinstance(value, str) and value.startswith(self._secret)

    def begin(self) -> None:
        """A text follows."""
        end = self._file.seek(0, 2)
        self._spans.append((end, end))

    def write(self, raw: bytes) -> None:
        """What follows of it."""
        self._file.write(raw)
        start, end = self._spans[-1]
        self._spans[-1] = (start, end + len(raw))

    @property
    def name(self) -> bytes:
        """What stands for the latest text in its place."""
        return f"{self._secret}{len(self._spans) - 1}".encode()

    def read(self, value: str) -> Iterator[str]:
        """A text without its escapes, piece by piece; raises `ValueError` for what is no JSON text."""
        place, end = self._spans[int(value.removeprefix(self._secret))]
        decoder = codecs.getincrementaldecoder("utf-8")()
        held = ""
        while place < end:
            self._file.seek(place)
            raw = self._file.read(min(_CHUNK, end - place))
            place += len(raw)
            text = held + decoder.decode(raw, place >= end)
            cut = len(text) if place >= end else _whole(text)
            held = text[cut:]
            yield str(json.loads(f'"{text[:cut]}"'))

    def forget(self) -> None:
        """The texts so far are not asked for any more."""
        self._spans.clear()
        self._file.truncate(0)


def _whole(text: str) -> int:
    """How many characters of a piece can be read before the next one is there."""
    unfinished = _UNFINISHED.search(text, max(0, len(text) - 12))
    while unfinished is not None:
        # A backslash that is itself escaped begins nothing.
        if _EVEN.match(text[max(0, unfinished.start() - 4096) : unfinished.start()]):
            return unfinished.start()
        unfinished = _UNFINISHED.search(text, unfinished.start() + 1)
    return len(text)


class Pieces:
    """The items of the list at `path` (names of members from the root) of the document in a file.

    Afterwards `frame` is the document without them, closed where it is cut off (`whole` says whether it is). Items
    longer than `longest` bytes without their long texts are given as None. Raises `TooLarge`.
    """

    def __init__(self, file: IO[bytes], path: tuple[str, ...], texts: Texts, longest: int = 8_000_000) -> None:
        self._file = file
        self._path = [json.dumps(name).encode()[1:-1] for name in path]
        self._texts = texts
        self._longest = longest
        self._frame = bytearray()
        self._item = bytearray()
        self._too_long = False
        self._open: list[bytes] = []
        self._names: list[bytes] = []
        self._text = bytearray()
        self._long = False
        self._after = b""  # what follows the latest text, of which it is the end that counts
        self.whole = False

    @property
    def frame(self) -> bytes:
        """What is not an item."""
        inside = self._open[: len(self._path) + 1] if self._inside else self._open
        closing = b"".join(b"}" if mark == b"{" else b"]" for mark in reversed(inside))
        return bytes(self._frame) + closing

    def items(self) -> Iterator[bytes | None]:
        """Each item as it stands in the document, but for its long texts, whose place others take."""
        rest = b""
        text = False
        for chunk in iter(lambda: self._file.read(_CHUNK), b""):
            data, here = rest + chunk, 0
            rest = b""
            while here < len(data):
                if text:
                    here, text = self._in_text(data, here)
                    if text and here < len(data):  # half of an escape
                        rest, here = data[here:], len(data)
                    continue
                mark = _MARK.search(data, here)
                between = data[here : mark.start() if mark else len(data)]
                self._put(between)
                self._after = (self._after + between)[:100]
                if mark is None:
                    break
                here = mark.end()
                if mark[0] == b'"':
                    text = True
                    self._put(b'"')
                    self._text = bytearray()
                    self._long = False
                else:
                    yield from self._bracket(mark[0])
        self.whole = not self._open and not text

    def _in_text(self, data: bytes, here: int) -> tuple[int, bool]:
        """Take in what belongs to a text; where it ends in these data, and whether it goes on after them."""
        match = _IN_TEXT.match(data, here)
        assert match is not None
        if self._long:
            self._texts.write(match[0])
        else:
            self._text += match[0]
            if len(self._text) > _LONG:
                self._texts.begin()
                self._texts.write(bytes(self._text))
                self._long = True
        end = match.end()
        if end < len(data) and data[end : end + 1] == b'"':
            self._put((self._texts.name if self._long else bytes(self._text)) + b'"')
            self._after = b""
            return end + 1, False
        return end, True

    def _bracket(self, mark: bytes) -> Iterator[bytes | None]:
        if mark in b"{[":
            if len(self._open) >= _DEEPEST:
                raise TooLarge("is nested too deep")
            if len(self._open) < len(self._path) + 1:
                named = _NAMES.fullmatch(self._after) and not self._long
                self._names[len(self._open) :] = [bytes(self._text) if named else b""]
            if self._inside and len(self._open) == len(self._path) + 1:
                self._item.clear()  # what stood before it was no object
                self._too_long = False
            self._put(mark)
            self._open.append(mark)
            self._after = b"-"
            return
        if self._open:
            self._open.pop()
        in_list = self._inside
        self._put(mark, closing=True)
        if in_list and len(self._open) == len(self._path) + 1:
            yield None if self._too_long else bytes(self._item)
            self._item.clear()
            self._too_long = False

    @property
    def _inside(self) -> bool:
        depth = len(self._path) + 1
        return len(self._open) >= depth and self._open[depth - 1] == b"[" and self._names[1:depth] == self._path

    def _put(self, raw: bytes, *, closing: bool = False) -> None:
        if self._inside:
            if len(self._item) + len(raw) > self._longest:
                self._too_long = True
                self._item.clear()
            elif not self._too_long:
                self._item += raw
            return
        if closing and self._item:  # items that are no objects, or white space
            self._item.clear()
        self._frame += raw
        if len(self._frame) > self._longest:
            raise TooLarge("holds too much beside its list")
