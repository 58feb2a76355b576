"""Small damage to bytes, of the kinds that files meet and that attackers try."""

from __future__ import annotations

import random
import re
from collections.abc import Callable

# What readers stumble over, from experience with formats like these.
TOKENS = (
    b"\x00",
    b"\xff\xfe",
    b"\xef\xbb\xbf",
    b"\xed\xa0\x80",
    b"\\ud800",
    b"../",
    b"..\\",
    b"C:",
    b"%00",
    b"%2e%2e%2f",
    b"con",
    b"\r\n\r\n",
    b"9" * 400,
    b"-1",
    b"1e999",
    b"NaN",
    b"4294967296",
    b"18446744073709551616",
    b"null",
    b"[]",
    b"{}",
    b"[" * 3000,
    b'{"a":' * 2000,
    b"<" * 500,
    b"<svg><script>",
    b"<!--",
    b"]]>",
    b"&#x110000;",
    b"url(",
    b"a{b:url(" * 300,
    b"/*",
    b"@import ",
    b"\\" * 99,
    b'"',
    b"'",
    b"http://[::1",
    b"//",
    b"data:;base64,",
    b"javascript:",
    b"\x1f\x8b\x08\x00",
    b"PK\x03\x04",
    b"PK\x05\x06",
    b"WARC/1.0\r\n",
)
_NUMBER = re.compile(rb"\d+")


def _flip(data: bytearray, dice: random.Random) -> None:
    for _ in range(dice.choice((1, 1, 2, 8))):
        if data:
            data[dice.randrange(len(data))] ^= 1 << dice.randrange(8)


def _cut(data: bytearray, dice: random.Random) -> None:
    del data[dice.randrange(len(data) + 1) :]


def _drop(data: bytearray, dice: random.Random) -> None:
    begin = dice.randrange(len(data) + 1)
    del data[begin : begin + dice.randrange(1, 200)]


def _repeat(data: bytearray, dice: random.Random) -> None:
    begin = dice.randrange(len(data) + 1)
    part = bytes(data[begin : begin + dice.randrange(1, 300)])
    data[begin:begin] = part * dice.choice((1, 2, 50))


def _insert(data: bytearray, dice: random.Random) -> None:
    at = dice.randrange(len(data) + 1)
    data[at:at] = dice.choice(TOKENS)


def _number(data: bytearray, dice: random.Random) -> None:
    found = list(_NUMBER.finditer(bytes(data[:200_000])))
    if found:
        spot = dice.choice(found)
        data[spot.start() : spot.end()] = dice.choice(
            (b"0", b"-1", b"65536", b"4294967295", b"9" * 30, b"1e400", b"")
        )


def _swap(data: bytearray, dice: random.Random) -> None:
    one, other = sorted((dice.randrange(len(data) + 1), dice.randrange(len(data) + 1)))
    data[:] = data[other:] + data[one:other] + data[:one]


_WAYS: tuple[Callable[[bytearray, random.Random], None], ...] = (
    _flip,
    _flip,
    _cut,
    _drop,
    _repeat,
    _insert,
    _insert,
    _number,
    _swap,
)


def mutated(data: bytes, seed: str) -> bytes:
    """A damaged copy; the same seed does the same damage."""
    dice = random.Random(seed)
    out = bytearray(data)
    for _ in range(dice.choice((1, 1, 1, 2, 3, 6))):
        dice.choice(_WAYS)(out, dice)
    return bytes(out[:5_000_000])
