"""From differences to the parts of a plan that make them: the evidence first, then a search over the rest."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from unladen.check.compare import lead
from unladen.check.culprit import culprits
from unladen.check.evidence import Evidence
from unladen.check.pairs import Difference
from unladen.plan import Unit

# Looks that one page on one device may take. Halving finds one among 1,000 in 20.
MOST_TRIALS = 40
# Groups that are tried as the one to blame, and looks to tell its parts from each other.
_MOST_GROUPS, _MOST_HALVES = 4, 12
Ask = Callable[[Sequence[Unit]], Sequence[Difference]]


@dataclass(frozen=True, slots=True)
class Culprit:
    """A part that makes a difference; `together`: only with these, which may stay once it is out."""

    unit: Unit
    difference: Difference
    together: tuple[Unit, ...] = ()


@dataclass(slots=True)
class Found:
    """Who is to blame, empty if nobody is; `sure`: nobody could be left out. `asked`: the looks that it took."""

    guilty: list[Culprit] = field(default_factory=list)
    sure: bool = True
    asked: int = 0


def blame(
    pointed: Evidence,
    differences: Sequence[Difference],
    ask: Ask,
    most: int = MOST_TRIALS,
    group: Callable[[Unit], str] | None = None,
) -> Found:
    """Who makes the differences; `ask` says what differs with only these parts, and is asked `most` times at most.

    With none of them nothing may differ, and with all of them the `differences` do. Where `group` tells which parts
    do the same thing, such as putting an element around a picture, the search begins among whole groups: what breaks
    one place by its nature breaks others too.
    """
    everyone = pointed.ranked
    result = Found()

    def fails(units: Sequence[Unit]) -> bool:
        result.asked += 1
        return bool(ask(units))

    direct = list(pointed.direct)
    if direct and len(direct) < len(everyone):
        others = _without(everyone, direct)
        if not fails(others):
            _among_direct(pointed, others, fails, result, most)
            return result
    if group and (guilty := _of_a_group(pointed, fails, result, most, group)):
        result.guilty = [Culprit(unit, lead(differences)) for unit in guilty]
        return result
    suspects = [*direct, *pointed.near]
    others = _without(everyone, suspects)
    if pointed.near and others and not fails(others):
        # The rest is there all along, as it will be in the end.
        search = culprits(suspects, lambda part: fails([*part, *others]), max(0, most - result.asked), innocent=True)
    else:
        search = culprits(everyone, fails, max(0, most - result.asked), innocent=True)
    result.sure = search.minimal
    if search.minimal and len(search.guilty) > 1:
        # They fail together only: without the most suspicious one the others may stay.
        first, *rest = search.guilty
        result.guilty = [Culprit(first, lead(differences), tuple(rest))]
    else:
        result.guilty = [Culprit(unit, lead(differences)) for unit in search.guilty]
    return result


def _of_a_group(
    pointed: Evidence,
    fails: Callable[[Sequence[Unit]], bool],
    found: Found,
    most: int,
    group: Callable[[Unit], str],
) -> list[Unit]:
    """All parts to blame of the one group without which nothing differs, if there is one; the most suspicious are
    tried first.

    Halves that differ are halved again, until the looks for it are spent: what is left then goes as it stands.
    """
    everyone = pointed.ranked
    groups: dict[str, list[Unit]] = {}
    for unit in everyone:
        groups.setdefault(group(unit), []).append(unit)
    several = [units for units in groups.values() if len(units) > 1]
    if len(groups) < 2 or not several:
        return []
    guilty: list[Unit] = []
    for units in several[:_MOST_GROUPS]:
        if found.asked >= most:
            return []
        if not fails(_without(everyone, units)):
            guilty = units
            break
    innocent = _without(everyone, guilty)
    waiting = [guilty] if guilty else []
    blamed: list[Unit] = []
    asked = found.asked
    while waiting:
        units = waiting.pop(0)
        if len(units) == 1 or found.asked - asked >= _MOST_HALVES or found.asked + 2 > most:
            blamed += units
            found.sure &= len(units) == 1
            continue
        middle = (len(units) + 1) // 2
        halves = [half for half in (units[:middle], units[middle:]) if fails([*innocent, *half])]
        if not halves:
            return []  # they fail together only
        waiting += halves
    return [unit for unit in everyone if unit in set(blamed)]


def _among_direct(
    pointed: Evidence, others: Sequence[Unit], fails: Callable[[Sequence[Unit]], bool], found: Found, most: int
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
        found.guilty += [Culprit(unit, pointed.direct[unit]) for unit in guilty]


def _without(units: Sequence[Unit], gone: Sequence[Unit]) -> list[Unit]:
    out = set(gone)
    return [unit for unit in units if unit not in out]
