"""The plan: what is wanted, as one JSON document that is independent of the machine and of what any run found."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from unladen.errors import BadInput
from unladen.plan.efforts import EFFORTS
from unladen.plan.keep_list import KeepList, texts_of
from unladen.plan.tolerance import Tolerance
from unladen.plan.version1 import FORMAT_1, from_version_1
from unladen.remedies import Change, Delivery, ImageSettings, Params, Remedy, order_of, remedy_named
from unladen.remedies.fields import FieldRefused

FORMAT = "unladen/plan/2"
MOST_CHANGES = 20_000
_LONGEST = 4_000  # characters of an id
AnyChange = Change[Any]


@dataclass(frozen=True, slots=True, order=True)
class Unit:
    """The smallest part of a plan that can be left out: one target of a change."""

    change: str
    target: str


@dataclass(frozen=True, slots=True)
class Plan:
    """The changes of a site, what it keeps, and what holds for all of them. It holds wishes only."""

    effort: str
    changes: tuple[AnyChange, ...]
    keep: KeepList = field(default_factory=KeepList)
    images: ImageSettings = field(default_factory=ImageSettings)
    delivery: Delivery = field(default_factory=Delivery)
    tolerance: Tolerance = field(default_factory=Tolerance)

    def counting(self, without: Collection[str] = ()) -> list[AnyChange]:
        """The changes that a build carries out, in the order of the remedies, the keep list applied.

        `without` are ids of changes that do not count, as a check or an account has found.
        """
        order = {name: order_of(name) for name in {change.remedy for change in self.changes}}
        kept = (self._spared(c) for c in self.changes if c.on and c.id not in without)
        return sorted((c for c in kept if c.targets and c.pages), key=lambda c: order[c.remedy])

    def _spared(self, change: AnyChange) -> AnyChange:
        keep = self.keep
        if not keep.files and not keep.pages and not keep.hosts:
            return change
        remedy = change.remedy
        targets = tuple(t for t in change.targets if not keep.holds_file(t, remedy))
        pages = tuple(p for p in change.pages if not keep.holds_page(p, remedy) and not keep.holds_file(p, remedy))
        return replace(change, targets=targets, pages=pages)

    def change(self, id: str) -> AnyChange | None:
        """The change of this id."""
        return next((change for change in self.changes if change.id == id), None)

    def changed(self, edit: Callable[[AnyChange], AnyChange]) -> Plan:
        """A plan in which every change went through `edit`."""
        return replace(self, changes=tuple(edit(change) for change in self.changes))

    def with_only(self, ids: Iterable[str]) -> Plan:
        """A plan in which of the wanted changes only these are on."""
        wanted = set(ids)
        return self.changed(lambda c: c if c.id in wanted or not c.on else replace(c, on=False))

    def units(self, page: str = "") -> list[Unit]:
        """All parts that a build carries out, or those with a page (a path) in their scope, in the order of the
        remedies.
        """
        return [Unit(c.id, target) for c in self.counting() if not page or page in c.pages for target in c.targets]

    def without(self, ids: Collection[str], units: Collection[Unit] = ()) -> Plan:
        """A plan in which these changes are off, and others do without these of their targets."""
        if not ids and not units:
            return self
        gone: dict[str, set[str]] = {}
        for unit in units:
            gone.setdefault(unit.change, set()).add(unit.target)

        def less(change: AnyChange) -> AnyChange:
            if change.id in gone:
                change = replace(change, targets=tuple(t for t in change.targets if t not in gone[change.id]))
            return replace(change, on=False) if change.on and (change.id in ids or not change.targets) else change

        return self.changed(less)

    def sparing(self, pieces: Mapping[str, Collection[str]]) -> Plan:
        """A plan in which changes, by id, do without these pieces of what they do."""
        return self.changed(lambda c: replace(c, params=c.params.sparing(pieces[c.id])) if pieces.get(c.id) else c)

    def asks_the_same_as(self, other: Plan) -> bool:
        """Whether carrying out either comes to the same."""
        parts = ((p.counting(), p.images, p.delivery, p.tolerance, p.keep.selectors) for p in (self, other))
        return next(parts) == next(parts)

    def as_json(self) -> dict[str, Any]:
        """The published document."""
        return {
            "format": FORMAT,
            "effort": self.effort,
            "keep": self.keep.as_json(),
            "images": self.images.as_json(),
            "delivery": self.delivery.as_json(),
            "tolerance": self.tolerance.as_json(),
            "changes": [change_as_json(change) for change in self.changes],
        }

    @classmethod
    def from_json(cls, data: Any, name: str = "plan") -> Plan:
        """Read the published document, of version 1 or 2; raises `BadInput` naming what is wrong with it."""
        if not isinstance(data, Mapping) or data.get("format") not in (FORMAT, FORMAT_1):
            raise BadInput(name, f"is not a plan in the format {FORMAT} or {FORMAT_1}")
        try:
            return cls._read(from_version_1(data) if data["format"] == FORMAT_1 else data, name)
        except FieldRefused as refused:
            raise BadInput(name, str(refused)) from None
        except (KeyError, TypeError, AttributeError, ValueError) as error:
            raise BadInput(name, f"lacks or misuses the field {error}") from None

    @classmethod
    def _read(cls, data: Mapping[str, Any], name: str) -> Plan:
        effort, items, keep = data["effort"], data["changes"], data.get("keep", {})
        if effort not in EFFORTS:
            raise FieldRefused("effort", f"should be one of {', '.join(EFFORTS)}")
        if not isinstance(items, list) or len(items) > MOST_CHANGES:
            raise FieldRefused("changes", f"should be a list of at most {MOST_CHANGES:,}")
        seen: dict[str, Params] = {}
        changes = tuple(_change(item, name, seen) for item in items)
        twice = next((id for id, count in Counter(c.id for c in changes).items() if count > 1), None)
        if twice is not None:
            raise BadInput(name, f"has two changes of the id “{twice}”")
        parts = _part("images", ImageSettings, data), _part("delivery", Delivery, data)
        return cls(effort, changes, KeepList.from_json(keep), *parts, Tolerance.from_json(data.get("tolerance", {})))


def _part(name: str, cls: Any, data: Mapping[str, Any]) -> Any:
    try:
        return cls.from_json(data.get(name, {}))
    except FieldRefused as refused:
        raise FieldRefused(f"{name}.{refused.place}", refused.reason) from None


def change_as_json(change: AnyChange) -> dict[str, Any]:
    """Plain values, as in the published plan."""
    return {
        "id": change.id,
        "remedy": change.remedy,
        "targets": list(change.targets),
        "pages": list(change.pages),
        "params": change.params.as_json(),
        "on": change.on,
        "insist": change.insist,
        "chosen": change.chosen,
    }


def _params(remedy: Remedy, data: Any, seen: dict[str, Params]) -> Params:
    """Many changes of a plan have the same parameters; they are read once, and cannot be changed."""
    key = remedy.name + repr(data)
    if key not in seen:
        seen[key] = remedy.params.from_json(data)
    return seen[key]


def _change(item: Any, name: str, seen: dict[str, Params]) -> AnyChange:
    id = item.get("id") if isinstance(item, Mapping) else None
    if not isinstance(id, str) or not 0 < len(id) <= _LONGEST:
        raise FieldRefused("changes", "should be objects with a text for an id")
    try:
        remedy = remedy_named(item["remedy"])
    except KeyError:
        raise BadInput(name, f"names the unknown remedy “{item.get('remedy')}” in the change “{id}”") from None
    try:
        return Change(
            id=id,
            remedy=remedy.name,
            targets=texts_of(item.get("targets"), "targets"),
            pages=texts_of(item.get("pages"), "pages"),
            params=_params(remedy, item.get("params", {}), seen),
            on=_flag(item, "on", True),
            insist=_flag(item, "insist", False),
            chosen=_flag(item, "chosen", False),
        )
    except FieldRefused as refused:
        raise BadInput(name, f"in the change “{id}” {refused}") from None


def _flag(item: Mapping[str, Any], name: str, usual: bool) -> bool:
    value = item.get(name, usual)
    if not isinstance(value, bool):
        raise FieldRefused(name, "should be true or false")
    return value
