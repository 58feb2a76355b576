"""What somebody who does not build sites is asked about a run: its changes in words, small ones of a kind together."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from unladen.ledger.document import carried_out
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
    """All changes that a run carried out, the largest saving first; `excess` is that of the survey in plain values.

    All that was done to one file is one topic, and so are files that save little, by the remedy that did most of it.
    """
    told, groups = _told(excess), _by_file(ledger)
    whole = sum(max(0, row["saved"]["bytes"]) for rows in groups for row in rows)
    large: list[Topic] = []
    small: dict[str, list[Mapping[str, Any]]] = {}
    for rows in groups:
        if sum(row["saved"]["bytes"] for row in rows) >= _SMALL * whole > 0:
            large.append(_topic(rows[0]["id"], rows, told))
        else:
            small.setdefault(rows[0]["remedy"], []).extend(rows)
    return _largest_first([*large, *(_topic(f"{_REST}{remedy}", rows, told) for remedy, rows in small.items())])


def topics_by_file(ledger: Mapping[str, Any], excess: Iterable[Mapping[str, Any]]) -> list[Topic]:
    """The same with each file by itself, however little it saves."""
    titles = _told(excess)
    return _largest_first([_topic(rows[0]["id"], rows, titles) for rows in _by_file(ledger)])


def _by_file(ledger: Mapping[str, Any]) -> list[list[Mapping[str, Any]]]:
    """What was done to one file, the largest saving first; what is about several files stands alone."""
    groups: dict[str, list[Mapping[str, Any]]] = {}
    for row in carried_out(ledger):
        groups.setdefault(row["targets"][0] if len(row["targets"]) == 1 else row["id"], []).append(row)
    return [sorted(rows, key=lambda row: -row["saved"]["bytes"]) for rows in groups.values()]


def _told(excess: Iterable[Mapping[str, Any]]) -> dict[str, Mapping[str, Any]]:
    return {id: row for row in excess for id in row["changes"]}


def _largest_first(topics: list[Topic]) -> list[Topic]:
    return sorted(topics, key=lambda topic: (-topic.bytes, -topic.requests, topic.id))


def _topic(id: str, rows: Sequence[Mapping[str, Any]], told: Mapping[str, Mapping[str, Any]]) -> Topic:
    remedy = remedy_named(rows[0]["remedy"])
    known = [told[row["id"]] for row in rows if row["id"] in told]
    targets = tuple(dict.fromkeys(target for row in rows for target in row["targets"]))
    alone = bool(known) and (len(rows) == 1 or len(targets) == 1)
    return Topic(
        id=id,
        remedy=remedy.name,
        title=known[0]["title"] if alone else remedy.title,
        why=" ".join(dict.fromkeys(row["why"] for row in known)) if alone else remedy.detail or remedy.what,
        changes=tuple(row["id"] for row in rows),
        targets=targets,
        pages=tuple(dict.fromkeys(page for row in known for page in row["pages"])),
        bytes=sum(row["saved"]["bytes"] for row in rows),
        requests=sum(row["saved"]["requests"] for row in rows),
    )
