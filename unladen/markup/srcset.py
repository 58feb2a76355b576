"""Image candidate strings (HTML Standard, 4.8.4.3.3 "Parsing a srcset attribute")."""

from __future__ import annotations

from dataclasses import dataclass

_SPACE = " \t\n\f\r"


@dataclass(frozen=True, slots=True)
class Candidate:
    """One candidate: its URL, where the URL stands in the attribute's value, and its descriptor such as `2x`."""

    url: str
    start: int
    end: int
    descriptor: str


def parse_srcset(value: str) -> list[Candidate]:
    """The candidates in order; descriptors are kept as written."""
    srcset: list[Candidate] = []
    position, length = 0, len(value)
    while True:
        while position < length and value[position] in _SPACE + ",":
            position += 1
        if position >= length:
            return srcset
        start = position
        while position < length and value[position] not in _SPACE:
            position += 1
        url = value[start:position]
        if url.endswith(","):
            url = url.rstrip(",")
            srcset.append(Candidate(url, start, start + len(url), ""))
            continue
        begin, depth = position, 0
        while position < length and (value[position] != "," or depth):
            depth += {"(": 1, ")": -1}.get(value[position], 0) if depth or value[position] == "(" else 0
            position += 1
        srcset.append(Candidate(url, start, start + len(url), value[begin:position].strip(_SPACE)))
