"""Two plans beside each other: where they differ, and one made of both."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace
from typing import Any

from unladen.plan.document import AnyChange, Plan
from unladen.plan.keep_list import KINDS, KeepList
from unladen.plan.tolerance import Tolerance

# What holds for a plan as a whole, with what it is called.
WHOLE = {
    "effort": "The effort",
    "images": "How images are treated",
    "delivery": "What can be delivered",
    "keep": "The keep list",
    "tolerance": "What a check lets pass",
}
_CHANGE = "change:"


@dataclass(frozen=True, slots=True)
class Apart:
    """A place where two plans differ: a change, or a part of the whole plan by its name in `WHOLE`.

    `here` and `there` say in words what either wants; `conflict`: both say something, and not the same.
    """

    key: str
    change: AnyChange | None
    here: str
    there: str
    conflict: bool


def apart(here: Plan, there: Plan) -> list[Apart]:
    """Where two plans differ, what holds for the whole first; changes that neither wants make no difference."""
    result = []
    for name in WHOLE:
        ours, theirs = getattr(here, name), getattr(there, name)
        if ours != theirs:
            said = _settings(name, ours, theirs), _settings(name, theirs, ours)
            result.append(Apart(name, None, *said, conflict=name not in ("keep", "tolerance")))
    known = {change.id: change for change in here.changes}
    others = {change.id: change for change in there.changes}
    for id in dict.fromkeys([*known, *others]):
        one, other = known.get(id), others.get(id)
        if one == other or not any(c is not None and c.on for c in (one, other)):
            continue
        words = _change(one, other), _change(other, one)
        result.append(Apart(_CHANGE + id, other or one, *words, conflict=one is not None and other is not None))
    return result


def merged(here: Plan, there: Plan, take: Collection[str]) -> Plan:
    """This plan with what the other one says in the places with these keys.

    Of the keep list and of what a check lets pass nothing is lost: taking the other's adds to it. A change that the
    other does not have is off then.
    """
    parts: dict[str, Any] = {name: getattr(there, name) for name in ("effort", "images", "delivery") if name in take}
    if "keep" in take:
        parts["keep"] = _both_keep(here.keep, there.keep)
    if "tolerance" in take:
        ours, theirs = here.tolerance, there.tolerance
        parts["tolerance"] = Tolerance(_union(ours.accepted, theirs.accepted), _union(ours.masks, theirs.masks))
    wanted = {key.removeprefix(_CHANGE) for key in take if key.startswith(_CHANGE)}
    others = {change.id: change for change in there.changes}

    def chosen(change: AnyChange) -> AnyChange:
        if change.id not in wanted:
            return change
        return others.get(change.id, replace(change, on=False))

    ids = {change.id for change in here.changes}
    fresh = [change for change in there.changes if change.id in wanted and change.id not in ids]
    return replace(here, changes=(*map(chosen, here.changes), *fresh), **parts)


def _union(ours: tuple[Any, ...], theirs: tuple[Any, ...]) -> tuple[Any, ...]:
    return tuple(dict.fromkeys([*ours, *theirs]))


def _both_keep(ours: KeepList, theirs: KeepList) -> KeepList:
    lists = {kind: _union(getattr(ours, kind), getattr(theirs, kind)) for kind in KINDS}
    noted = {(note.kind, note.pattern) for note in ours.notes}
    return KeepList(**lists, notes=(*ours.notes, *(n for n in theirs.notes if (n.kind, n.pattern) not in noted)))


def _change(change: AnyChange | None, other: AnyChange | None) -> str:
    """What a plan wants of a change, as far as the other one wants something else."""
    if change is None:
        return "not in it"
    if not change.on:
        return "off"
    said = ["on, override" if change.insist else "on"]
    if other is not None and other.on:
        if change.targets != other.targets:
            said.append(
                "for " + (change.targets[0] if len(change.targets) == 1 else _count(len(change.targets), "", "files"))
            )
        if change.pages != other.pages:
            said.append(
                "on " + (change.pages[0] if len(change.pages) == 1 else _count(len(change.pages), "", "pages"))
            )
        if change.params != other.params:
            said.append(_fields(change.params.as_json(), other.params.as_json()))
    return ", ".join(said)


def _fields(ours: dict[str, Any], theirs: dict[str, Any]) -> str:
    """The settings that differ, in short."""
    apart = {name: value for name, value in ours.items() if theirs.get(name) != value}
    return ", ".join(f"{name.replace('_', ' ')} {_value(value)}" for name, value in apart.items()) or "as usual"


def _value(value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list | tuple | dict):
        return f"({_count(len(value), 'entry', 'entries')})"
    return str(value)[:80] if value not in ("", 0) else "as usual"


def _count(number: int, one: str, many: str) -> str:
    return f"{number:,} {one if number == 1 else many}"


def _settings(name: str, ours: Any, theirs: Any) -> str:
    match name:
        case "effort":
            return str(ours)
        case "keep":
            return _count(sum(len(getattr(ours, kind)) for kind in KINDS), "entry", "entries")
        case "tolerance":
            accepted = _count(len(ours.accepted), "difference", "differences")
            return f"{accepted} accepted, {_count(len(ours.masks), 'region', 'regions')} left out"
    return _fields(ours.as_json(), theirs.as_json())
