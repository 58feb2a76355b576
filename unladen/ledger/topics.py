"""What somebody who does not build sites is asked about a run: its changes in words, small ones of a kind together."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from unladen.remedies import remedy_named

_SMALL = 0.02  # of all that was saved
_REST = "rest:"


@dataclass(frozen=True, slots=True)
class Topic:
    """Some changes that are judged together.

    `changes` are their ids, `targets` the paths that they are about; `bytes` and `requests` what they saved over all
    weigh-ins.
    """

    id: str
    remedy: str
    title: str
    why: str
    changes: tuple[str, ...]
    targets: tuple[str, ...]
    pages: tuple[str, ...]
    bytes: int
    requests: int


def topics_of(ledger: Mapping[str, Any], excess: Iterable[Mapping[str, Any]]) -> list[Topic]:
    """All changes that a run carried out, the largest saving first; `excess` is that of the survey in plain values."""
    told = {id: row for row in excess for id in row["changes"]}
    done = [row for row in ledger["changes"] if row["on"] and row["standing"] in ("passed", "kept all the same")]
    whole = sum(max(0, row["saved"]["bytes"]) for row in done)
    large: list[Topic] = []
    small: dict[str, list[Mapping[str, Any]]] = {}
    for row in done:
        if row["saved"]["bytes"] >= _SMALL * whole > 0:
            large.append(_topic(row["id"], [row], told))
        else:
            small.setdefault(row["remedy"], []).append(row)
    rest = [_topic(f"{_REST}{remedy}", rows, told) for remedy, rows in small.items()]
    return sorted([*large, *rest], key=lambda topic: (-topic.bytes, -topic.requests, topic.id))


def _topic(id: str, rows: list[Mapping[str, Any]], told: Mapping[str, Mapping[str, Any]]) -> Topic:
    remedy = remedy_named(rows[0]["remedy"])
    known = [told[row["id"]] for row in rows if row["id"] in told]
    alone = len(rows) == 1 and bool(known)
    return Topic(
        id=id,
        remedy=remedy.name,
        title=known[0]["title"] if alone else remedy.title,
        why=known[0]["why"] if alone else remedy.detail or remedy.what,
        changes=tuple(row["id"] for row in rows),
        targets=tuple(dict.fromkeys(target for row in rows for target in row["targets"])),
        pages=tuple(dict.fromkeys(page for row in known for page in row["pages"])),
        bytes=sum(row["saved"]["bytes"] for row in rows),
        requests=sum(row["saved"]["requests"] for row in rows),
    )
