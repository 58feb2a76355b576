"""From differences to the parts of a plan that make them: the evidence first, then a search over the rest."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from unladen.check.compare import lead
from unladen.check.culprit import culprits
from unladen.check.evidence import Pointed
from unladen.check.pairs import Difference
from unladen.plan import Unit

# Looks that one page on one device may take. Halving finds one among 1,000 in 20.
MOST_TRIALS = 40
Ask = Callable[[Sequence[Unit]], Sequence[Difference]]


@dataclass(frozen=True, slots=True)
class Guilt:
    """A part that makes a difference; `together`: only with these, which may stay once it is out."""

    unit: Unit
    difference: Difference
    together: tuple[Unit, ...] = ()


@dataclass(slots=True)
class Found:
    """Who is to blame, empty if nobody is; `sure`: nobody could be left out. `asked`: the looks that it took."""

    guilty: list[Guilt] = field(default_factory=list)
    sure: bool = True
    asked: int = 0


def blame(pointed: Pointed, differences: Sequence[Difference], ask: Ask, most: int = MOST_TRIALS) -> Found:
    """Who makes the differences; `ask` says what differs with only these parts, and is asked `most` times at most.

    With none of them nothing may differ, and with all of them the `differences` do.
    """
    everyone = pointed.ranked
    found = Found()

    def fails(units: Sequence[Unit]) -> bool:
        found.asked += 1
        return bool(ask(units))

    direct = list(pointed.direct)
    if direct and len(direct) < len(everyone):
        others = _without(everyone, direct)
        if not fails(others):
            _among_direct(pointed, others, fails, found, most)
            return found
    suspects = [*direct, *pointed.near]
    others = _without(everyone, suspects)
    if pointed.near and others and not fails(others):
        # The rest is there all along, as it will be in the end.
        search = culprits(suspects, lambda part: fails([*part, *others]), max(0, most - found.asked), innocent=True)
    else:
        search = culprits(everyone, fails, max(0, most - found.asked), innocent=True)
    found.sure = search.minimal
    if search.minimal and len(search.guilty) > 1:
        # They fail together only: without the most suspicious one the others may stay.
        first, *rest = search.guilty
        found.guilty = [Guilt(first, lead(differences), tuple(rest))]
    else:
        found.guilty = [Guilt(unit, lead(differences)) for unit in search.guilty]
    return found


def _among_direct(
    pointed: Pointed, others: Sequence[Unit], fails: Callable[[Sequence[Unit]], bool], found: Found, most: int
) -> None:
    """Of several parts that share a difference only those stay blamed that make it."""
    groups: dict[str, list[Unit]] = {}
    for unit, difference in pointed.direct.items():
        groups.setdefault(difference.key, []).append(unit)
    for units in groups.values():
        guilty = units
        if len(units) > 1:
            search = culprits(units, lambda part: fails([*part, *others]), max(0, most - found.asked), innocent=True)
            guilty = search.guilty
            found.sure &= search.minimal
        found.guilty += [Guilt(unit, pointed.direct[unit]) for unit in guilty]


def _without(units: Sequence[Unit], gone: Sequence[Unit]) -> list[Unit]:
    out = set(gone)
    return [unit for unit in units if unit not in out]
