"""What a plan would bring, from what is known already: at once, and marked as an estimate."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from unladen.ledger.account import Saving


@dataclass(frozen=True, slots=True)
class Estimate:
    """Over all weigh-ins of a site: as found, and as it would be; by remedy what it brings.

    `sure`: every figure in it was measured in a run, none is estimated.
    """

    before: Saving
    after: Saving
    sure: bool
    remedies: Mapping[str, tuple[Saving, bool]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Worth:
    """What a change brings over all weigh-ins of a site, wanted or not; `sure`: a run measured it."""

    bytes: int
    requests: int
    sure: bool


def worth(
    excess: Iterable[Mapping[str, Any]], visits: Mapping[str, int], known: Mapping[str, Saving]
) -> dict[str, Worth]:
    """For every change that cures something, by id; the arguments are those of `estimate`.

    What a run found to bring nothing, since it was set aside, is worth what its excess says.
    """
    guessed: dict[str, Saving] = {}
    for row in excess:
        if row["visit"] == "first":
            for id in row["changes"]:
                _add(guessed, id, row, visits)
    result = {id: Worth(saved.bytes, saved.requests, sure=False) for id, saved in guessed.items()}
    for id, saved in known.items():
        if saved.bytes or saved.requests or id not in result:
            result[id] = Worth(saved.bytes, saved.requests, sure=True)
    return result


def _add(sums: dict[str, Saving], id: str, row: Mapping[str, Any], visits: Mapping[str, int]) -> None:
    times = sum(visits.get(page, 0) for page in row["pages"])
    sums.setdefault(id, Saving()).add(row["bytes"] * times, row["requests"] * times)


def estimate(
    changes: Iterable[Mapping[str, Any]],
    excess: Iterable[Mapping[str, Any]],
    visits: Mapping[str, int],
    known: Mapping[str, Saving],
    before: Saving,
) -> Estimate:
    """From the changes of a plan's document and the excess as its surveyors gave it.

    `visits` is the number of weigh-ins by page, `known` what a run measured of changes by id, `before` the sum of the
    weigh-ins. What no run has measured counts as its excess says, once on each weigh-in of a page that has it; of
    several cures of the same excess the first that is wanted counts.
    """
    wanted = [change for change in changes if change["on"]]
    ids = {change["id"] for change in wanted}
    guessed: dict[str, Saving] = {}
    for row in excess:
        first = next((id for id in row["changes"] if id in ids), None)
        if first is None or first in known or row["visit"] != "first":
            continue
        _add(guessed, first, row, visits)
    remedies: dict[str, tuple[Saving, bool]] = {}
    total, sure = Saving(), True
    for change in wanted:
        saved = known.get(change["id"]) or guessed.get(change["id"], Saving())
        measured = change["id"] in known
        sum_, all_measured = remedies.get(change["remedy"], (Saving(), True))
        for one in (sum_, total):
            one.add(saved.bytes, saved.requests)
        remedies[change["remedy"]] = (sum_, all_measured and measured)
        sure = sure and measured
    after = Saving(max(0, before.bytes - total.bytes), max(0, before.requests - total.requests))
    return Estimate(before, after, sure, remedies)
