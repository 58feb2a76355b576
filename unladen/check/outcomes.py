"""What a run found of each change. It is never written into the plan, which holds wishes only."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import Any

from unladen.check.pairs import PageCheck
from unladen.errors import BadInput
from unladen.plan import Plan, Unit, change_as_json


class Standing(StrEnum):
    """How a change stands after a run."""

    PASSED = "passed"
    SET_ASIDE = "set aside"
    NOTHING = "nothing to gain"
    KEPT = "kept all the same"


_OUT = (Standing.SET_ASIDE, Standing.NOTHING)


@dataclass(frozen=True, slots=True)
class Part:
    """One target of a change that was set aside, with the evidence; or, if there are `pieces`, those of what was to
    happen to it.
    """

    target: str
    reason: str
    pair: PageCheck | None = None
    pieces: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class ChangeResult:
    """The standing of one change with its evidence: `reason` in words, and the pair that shows it, if there is one.

    `judged` is the change as it was then, in plain values: of another one this says nothing. `parts` are those of its
    targets that were set aside; the others stay unless the whole change is out. `open`: the search for the cause was
    short, and a longer one may bring some of it back.
    """

    change: str
    standing: Standing
    reason: str = ""
    pair: PageCheck | None = None
    judged: Mapping[str, Any] = field(default_factory=dict)
    parts: tuple[Part, ...] = ()
    open: bool = False

    def as_json(self) -> dict[str, Any]:
        """Plain values, for `from_json`."""
        return {
            "change": self.change,
            "standing": str(self.standing),
            "reason": self.reason,
            "pair": self.pair.as_json() if self.pair else None,
            "judged": dict(self.judged),
            "parts": [
                {
                    "target": p.target,
                    "reason": p.reason,
                    "pair": p.pair.as_json() if p.pair else None,
                    "pieces": list(p.pieces),
                }
                for p in self.parts
            ],
            "open": self.open,
        }

    @classmethod
    def from_json(cls, data: Any) -> ChangeResult:
        """Raises `BadInput`."""
        try:
            pair = PageCheck.from_json(data["pair"]) if data.get("pair") else None
            standing = Standing(data["standing"])
            parts = tuple(
                Part(
                    str(p["target"]),
                    str(p["reason"]),
                    PageCheck.from_json(p["pair"]) if p.get("pair") else None,
                    tuple(str(piece) for piece in p.get("pieces", ())),
                )
                for p in data.get("parts", ())
            )
            judged = dict(data.get("judged", {}))
            left = bool(data.get("open", False))
            return cls(str(data["change"]), standing, str(data["reason"]), pair, judged, parts, left)
        except (KeyError, TypeError, ValueError, AttributeError) as error:
            raise BadInput("outcomes", f"lack or misuse the field {error}") from error


@dataclass(frozen=True, slots=True)
class ChangeResults:
    """The outcomes of a run by change; a change that is not there was not carried out."""

    by_change: Mapping[str, ChangeResult] = field(default_factory=dict)

    def with_(self, outcomes: Iterable[ChangeResult]) -> ChangeResults:
        """With these besides, or in the place of those known of the same changes."""
        return ChangeResults(dict(self.by_change) | {outcome.change: outcome for outcome in outcomes})

    @property
    def out(self) -> frozenset[str]:
        """The changes that do not count: set aside, or with nothing to gain."""
        return frozenset(id for id, outcome in self.by_change.items() if outcome.standing in _OUT)

    @property
    def open(self) -> list[str]:
        """The changes of which a longer search may bring something back."""
        return [id for id, outcome in self.by_change.items() if outcome.open]

    def applied_to(self, plan: Plan) -> Plan:
        """A plan without what is out: changes as a whole, single targets of others, and pieces of what happens to
        those.
        """
        parts = [(id, part) for id, outcome in self.by_change.items() for part in outcome.parts]
        units = [Unit(id, part.target) for id, part in parts if not part.pieces]
        pieces = {id: part.pieces for id, part in parts if part.pieces}
        return plan.without(self.out, units).sparing(pieces)

    def carried_forward(self, plan: Plan, again: Iterable[str] = ()) -> ChangeResults:
        """What still holds for a plan: the changes that are out and are the same as they were judged.

        What is insisted on and what is to be tried `again` is judged anew.
        """
        anew = set(again)
        kept = {}
        for change in plan.counting():
            known = self.by_change.get(change.id)
            if known is None or change.id in anew or change.insist:
                continue
            if known.standing not in _OUT and not known.parts:
                continue
            if not known.judged or dict(known.judged) == judged(change):
                kept[change.id] = replace(known, judged=judged(change))
        return ChangeResults(kept)

    def as_json(self) -> list[dict[str, Any]]:
        """Plain values, for `from_json`."""
        return [outcome.as_json() for outcome in self.by_change.values()]

    @classmethod
    def from_json(cls, data: Any) -> ChangeResults:
        """Raises `BadInput`."""
        return cls().with_(ChangeResult.from_json(entry) for entry in data or ())


def judged(change: Any) -> dict[str, Any]:
    """A change as far as its standing depends on it."""
    record = change_as_json(change)
    return {name: record[name] for name in ("remedy", "targets", "pages", "params")}


def outcomes_of(plan: Plan, out: ChangeResults) -> ChangeResults:
    """The standing of all changes of a plan: those that are out as told, the others passed or kept all the same."""
    rest = [
        ChangeResult(change.id, Standing.KEPT if change.insist else Standing.PASSED, judged=judged(change))
        for change in plan.counting()
        if change.id not in out.by_change
    ]
    return ChangeResults().with_([*out.by_change.values(), *rest])
