"""What differs between a page as found and the page as it would be handed over."""

from __future__ import annotations

from unladen.check.looking import Look
from unladen.check.pairs import Difference
from unladen.check.probes import probes


def compare(before: Look, again: Look, after: Look) -> tuple[Difference, ...]:
    """All differences that a visitor could notice. `again` is a second look at the unchanged page.

    What differs between `before` and `again` moves by itself and is not held against the changes.
    """
    if not after.alive:
        return (Difference("dead", "the page does not load any more"),) if before.alive else ()
    found: list[Difference] = []
    for probe in probes():
        seen = [look.observations.get(probe.name) for look in (before, again, after)]
        if seen[0] and seen[1] and seen[2]:
            found += probe.compare(seen[0], seen[1], seen[2])
    return tuple(found)
