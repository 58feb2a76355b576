"""What came and went between two runs of a site."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from unladen.ledger.document import carried_out


@dataclass(frozen=True, slots=True)
class Moved:
    """A change that is part of one run and not of the other, or saves another amount there; bytes and requests saved
    then and now.

    `then` and `now` say how it stood: `in`, `off`, or why it was set aside.
    """

    change: str
    remedy: str
    targets: tuple[str, ...]
    then: str
    now: str
    bytes_then: int
    bytes_now: int

    @property
    def difference(self) -> int:
        """Bytes by which more is saved now."""
        return self.bytes_now - self.bytes_then


def between_runs(then: Mapping[str, Any], now: Mapping[str, Any]) -> list[Moved]:
    """The changes that differ between two ledger documents of version 2, those that matter most first.

    Where both stand on the same weigh-ins, the sum of the differences is that of what both saved, but for what no
    change explains.
    """
    sides = [{row["id"]: row for row in ledger["changes"]} for ledger in (then, now)]
    inside = [{row["id"] for row in carried_out(ledger)} for ledger in (then, now)]
    result = []
    for id in dict.fromkeys((*sides[0], *sides[1])):
        old, new = sides[0].get(id), sides[1].get(id)
        row = new or old
        assert row is not None
        stood, stands = _standing(old, id in inside[0]), _standing(new, id in inside[1])
        before, after = (int(each["saved"]["bytes"]) if each else 0 for each in (old, new))
        if stood != stands or before != after:
            targets = tuple(row["targets"])
            result.append(Moved(id, row["remedy"], targets, stood, stands, before, after))
    return sorted(result, key=lambda moved: (-abs(moved.difference), moved.change))


def _standing(row: Mapping[str, Any] | None, inside: bool) -> str:
    if inside:
        return "in"
    if row is None or not row["on"]:
        return "off"
    return str(row["reason"] or row["standing"] or "off")
