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
        times = sum(visits.get(page, 0) for page in row["pages"])
        guessed.setdefault(first, Saving()).add(row["bytes"] * times, row["requests"] * times)
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
