"""What several looks at a page as found and at the page as it would be agree on."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from itertools import product

from unladen.check.compare import compare
from unladen.check.pairs import Difference
from unladen.check.probes import Focus
from unladen.check.probes.rules import RULES, focus_of
from unladen.check.probes.spec import Judge, cannot_tell
from unladen.check.snapshot import Snapshot

MOST_TOLD = 60  # differences told of a page


@dataclass(frozen=True, slots=True)
class Seen:
    """A look at a page as found and one as it would be, what differs, and why nothing can be said, if so."""

    before: Snapshot
    after: Snapshot
    differences: tuple[Difference, ...] = ()
    cannot: str = ""


def agreed(
    old: Sequence[Snapshot], new: Sequence[Snapshot], judge: Judge = cannot_tell, only: Collection[str] = ()
) -> Seen:
    """What differs in all new looks from all old ones, or why nothing can be said; `judge` tells how alike files are.

    Of `only` these probes, if any are named.
    """
    first, now = old[0], new[0]
    if not first.alive:
        return Seen(first, now, cannot="the page does not load, as found")
    if why := next((snapshot.restless for snapshot in (*old, *new) if snapshot.restless), ""):
        return Seen(first, now, cannot=f"{why}, so it cannot be compared")
    differences = list(compare(first, old[-1], now, only, judge))
    for again, snapshot in product(old[1:-1] or old[-1:], new):
        if differences and (again, snapshot) != (old[-1], now):
            also = {difference.key for difference in compare(first, again, snapshot, seen_by(differences), judge)}
            differences = [difference for difference in differences if difference.key in also]
    return Seen(first, now, tuple(differences[:MOST_TOLD]))


def focus_of_seen(seen: Seen) -> Focus | None:
    """Where computed styles have to be read, if anywhere."""
    before, after = (snapshot.observations.get(RULES) for snapshot in (seen.before, seen.after))
    return focus_of(before, after) if before and after and not seen.cannot else None


def seen_by(differences: Collection[Difference]) -> frozenset[str]:
    """The names of the probes that saw these; none where it takes all of them, as of a page that is dead."""
    names = frozenset(difference.probe for difference in differences)
    return frozenset() if "" in names else names


def with_clues(differences: Sequence[Difference], focus: Focus) -> tuple[Difference, ...]:
    """Differences of styles with the selectors of the rules that only one of two pages has."""
    selectors = tuple(dict.fromkeys(selector for _, selector, _ in focus.rules))
    return tuple(replace(difference, clues=selectors) for difference in differences)
