"""How a plan is edited.

Small commands, each from one plan to the next. They raise `BadInput` and change nothing then.
"""

from __future__ import annotations

import fnmatch
from collections.abc import Callable, Mapping
from dataclasses import dataclass, fields, replace
from typing import Annotated, Any, Protocol

from annotated_types import MaxLen, MinLen

from unladen.errors import BadInput
from unladen.markup.html import is_selector
from unladen.plan.document import Plan
from unladen.plan.embed_choices import EmbedChoice, with_embed, with_picture
from unladen.plan.image_choices import LEAVE, ImageChoice, ImageScope, with_choices, without_images
from unladen.plan.keep_list import KINDS, KeepList, KeepNote, texts_of
from unladen.plan.tolerance import Accepted, IgnoredRegion
from unladen.remedies import Change, Delivery, ImageSettings, remedy_named
from unladen.remedies.fields import FieldRefused
from unladen.remedies.styles.trim_styles import TrimParams

MOST_PAGES = 2000


class Command(Protocol):
    """An edit of a plan."""

    def apply(self, plan: Plan) -> Plan:
        """The plan after it."""


def _expect(plan: Plan, ids: tuple[str, ...]) -> None:
    if unknown := set(ids) - {change.id for change in plan.changes}:
        raise BadInput("the plan", f"has no change “{min(unknown)}”")


@dataclass(frozen=True, slots=True)
class Switch:
    """Want these changes or not; `insist`: whatever the check finds."""

    ids: Annotated[tuple[str, ...], MinLen(1), MaxLen(20_000)]
    on: bool
    insist: bool = False

    def apply(self, plan: Plan) -> Plan:
        """The plan after it."""
        _expect(plan, self.ids)
        ids = set(self.ids)
        return plan.changed(lambda c: replace(c, on=self.on, insist=self.on and self.insist) if c.id in ids else c)


@dataclass(frozen=True, slots=True)
class Pick:
    """Of several changes that cure the same excess, want this one and none of the others."""

    id: str
    others: Annotated[tuple[str, ...], MaxLen(100)]

    def apply(self, plan: Plan) -> Plan:
        """The plan after it."""
        _expect(plan, (self.id, *self.others))
        return Switch((self.id,), True).apply(
            Switch(tuple(i for i in self.others if i != self.id), False).apply(plan)
        )


@dataclass(frozen=True, slots=True)
class SetScope:
    """Let a change count on these pages only, of which `pattern` (with `*`) picks some."""

    id: str
    pages: Annotated[tuple[str, ...], MaxLen(MOST_PAGES)]
    pattern: Annotated[str, MaxLen(4000)] = "*"

    def apply(self, plan: Plan) -> Plan:
        """The plan after it."""
        _expect(plan, (self.id,))
        pages = tuple(page for page in self.pages if fnmatch.fnmatchcase(page, self.pattern))
        return plan.changed(lambda c: replace(c, pages=pages) if c.id == self.id else c)


@dataclass(frozen=True, slots=True)
class LeaveOut:
    """Leave a script or style sheet (by path, or address on another host) out of these pages, or (`out` False) have
    it there again.
    """

    file: Annotated[str, MinLen(1), MaxLen(2000)]
    pages: Annotated[tuple[str, ...], MinLen(1), MaxLen(MOST_PAGES)]
    out: bool = True

    def apply(self, plan: Plan) -> Plan:
        """The plan after it, with one change for each file that is left out of some page."""
        id = f"leave-out:{self.file}"
        known = plan.change(id)
        before = known.pages if known else ()
        pages = tuple(page for page in before if page not in self.pages)
        if self.out:
            pages = (*before, *(page for page in self.pages if page not in before))
        rest = tuple(change for change in plan.changes if change.id != id)
        if not pages:
            return replace(plan, changes=rest)
        wanted = known or Change(id, "leave-out", (self.file,), pages, chosen=True)
        return replace(plan, changes=(*rest, replace(wanted, pages=pages, on=True)))


@dataclass(frozen=True, slots=True)
class KeepRules:
    """Which rules a trim of style sheets leaves where they are: patterns of selectors, all of them."""

    id: str
    patterns: Annotated[tuple[str, ...], MaxLen(5000)]

    def apply(self, plan: Plan) -> Plan:
        """The plan after it."""
        _expect(plan, (self.id,))
        change = plan.change(self.id)
        if change is None or not isinstance(change.params, TrimParams):
            raise BadInput("the plan", f"has no trimmed styles under “{self.id}”")
        try:
            params = replace(change.params, keep=tuple(dict.fromkeys(p.strip() for p in self.patterns if p.strip())))
        except FieldRefused as refused:
            raise BadInput("the rules to keep", str(refused)) from None
        return plan.changed(lambda c: replace(c, params=params) if c.id == self.id else c)


@dataclass(frozen=True, slots=True)
class SetParams:
    """Set parameters of a change, by name: those that its remedy lets the user set."""

    id: str
    values: Annotated[Mapping[str, int | str], MaxLen(20)]

    def apply(self, plan: Plan) -> Plan:
        """The plan after it."""
        _expect(plan, (self.id,))

        def with_values(change: Change[Any]) -> Change[Any]:
            known = {setting.name for setting in remedy_named(change.remedy).settings}
            if unknown := set(self.values) - known:
                raise BadInput("the plan", f"“{change.id}” has no setting “{min(unknown)}”")
            try:
                return replace(
                    change, params=type(change.params).from_json(change.params.as_json() | dict(self.values))
                )
            except FieldRefused as refused:
                raise BadInput("the plan", f"“{change.id}”: {refused}") from None

        return plan.changed(lambda c: with_values(c) if c.id == self.id else c)


@dataclass(frozen=True, slots=True)
class SetKeepList:
    """What must never be touched; None leaves the one or the other as it is."""

    files: Annotated[tuple[str, ...], MaxLen(5000)] | None = None
    pages: Annotated[tuple[str, ...], MaxLen(5000)] | None = None
    selectors: Annotated[tuple[str, ...], MaxLen(500)] | None = None
    hosts: Annotated[tuple[str, ...], MaxLen(500)] | None = None
    notes: Annotated[tuple[KeepNote, ...], MaxLen(5000)] | None = None

    def apply(self, plan: Plan) -> Plan:
        """The plan after it; notes of entries that are gone go with them."""
        given = {kind: getattr(self, kind) for kind in KINDS}
        try:
            lists = {
                kind: getattr(plan.keep, kind) if some is None else texts_of(some, kind)
                for kind, some in given.items()
            }
        except FieldRefused as refused:
            raise BadInput("the keep list", str(refused)) from None
        for selector in lists["selectors"]:
            if not is_selector(selector):
                raise BadInput("the keep list", f"has “{selector}”, which is not a selector")
        notes = plan.keep.notes if self.notes is None else self.notes
        there = tuple(note for note in notes if note.pattern in lists.get(note.kind, ()))
        return replace(plan, keep=KeepList(**lists, notes=there))


@dataclass(frozen=True, slots=True)
class Accept:
    """Let a difference of a page and device be, with a word why, or (`off`) no longer."""

    accepted: Accepted
    off: bool = False

    def apply(self, plan: Plan) -> Plan:
        """The plan after it."""
        new = self.accepted
        spot = (new.page, new.device, new.key)
        rest = tuple(a for a in plan.tolerance.accepted if (a.page, a.device, a.key) != spot)
        return replace(plan, tolerance=replace(plan.tolerance, accepted=rest if self.off else (*rest, new)))


@dataclass(frozen=True, slots=True)
class SetIgnoredRegions:
    """The regions that a check leaves out, all of them."""

    masks: Annotated[tuple[IgnoredRegion, ...], MaxLen(500)]

    def apply(self, plan: Plan) -> Plan:
        """The plan after it."""
        for mask in self.masks:
            left, top, right, bottom = mask.box
            if left >= right or top >= bottom:
                raise BadInput("the masks", f"have a region without a size on {mask.page}")
        return replace(plan, tolerance=replace(plan.tolerance, masks=self.masks))


@dataclass(frozen=True, slots=True)
class ChooseImages:
    """Treat these images, by path, as chosen."""

    choices: Mapping[str, ImageChoice]
    scope: ImageScope
    on: bool = True

    def apply(self, plan: Plan) -> Plan:
        """The plan after it."""
        return with_choices(plan, self.choices, self.scope, on=self.on)


@dataclass(frozen=True, slots=True)
class ChooseEmbed:
    """Treat an embed, by the id of its change, as chosen."""

    id: str
    choice: EmbedChoice

    def apply(self, plan: Plan) -> Plan:
        """The plan after it."""
        return with_embed(plan, self.id, self.choice)


@dataclass(frozen=True, slots=True)
class SetPicture:
    """Show the user's own picture, by its digest, for an embed."""

    id: str
    digest: str
    width: int
    height: int

    def apply(self, plan: Plan) -> Plan:
        """The plan after it."""
        return with_picture(plan, self.id, self.digest, self.width, self.height)


@dataclass(frozen=True, slots=True)
class Propose:
    """Take a new proposal, made under other settings or of a newer copy; what the user decided stays.

    That is what is on and off, what is insisted on, the keep list, and images and embeds of the user's own choice.
    """

    proposal: Plan

    def apply(self, plan: Plan) -> Plan:
        """The plan after it."""
        states = {change.id: change for change in plan.changes}

        def known(id: str) -> tuple[bool, bool]:
            old = states.get(id)
            return (old.on, old.insist) if old else (False, False)

        return _merged(plan, self.proposal, known)


@dataclass(frozen=True, slots=True)
class TakeEffort:
    """Take the ready-made plan of an effort; choices, the keep list and what is insisted on stay."""

    proposal: Plan

    def apply(self, plan: Plan) -> Plan:
        """The plan after it."""
        insisted = {change.id for change in plan.changes if change.on and change.insist}
        wanted = {change.id: change.on for change in self.proposal.changes}
        new = _merged(plan, self.proposal, lambda id: (wanted[id] or id in insisted, id in insisted))
        here = {change.id for change in new.changes}
        gone = tuple(c for c in plan.changes if c.on and c.insist and c.id not in here)
        return replace(new, changes=(*new.changes, *gone))


def _merged(old: Plan, new: Plan, state: Callable[[str], tuple[bool, bool]]) -> Plan:
    """A proposal with the user's own choices in the place of what it proposes for the same files."""
    chosen = [change for change in old.changes if change.chosen]
    chosen_ids = {change.id for change in chosen}
    decided = {path: ImageChoice(LEAVE) for change in chosen for path in change.targets}
    fresh = []
    for change in new.changes:
        remaining = without_images(change, decided) if remedy_named(change.remedy).image_role != "beside" else change
        if remaining is not None and remaining.id not in chosen_ids:
            on, insist = state(remaining.id)
            fresh.append(
                replace(remaining, on=on, insist=insist, params=_as_set(old.change(remaining.id), remaining))
            )
    return replace(new, changes=(*fresh, *chosen), keep=old.keep, tolerance=old.tolerance)


def _as_set(old: Change[Any] | None, new: Change[Any]) -> Any:
    """The parameters of a change that is proposed anew, with what the user had set of them."""
    if old is None or old.remedy != new.remedy:
        return new.params
    usual = {entry.name: entry.default for entry in fields(new.params)}
    names = [setting.name for setting in remedy_named(new.remedy).settings]
    return replace(new.params, **{n: v for n in names if (v := getattr(old.params, n)) != usual[n]})


@dataclass(frozen=True, slots=True)
class SetSettings:
    """How all images are treated and what can be delivered. What is proposed under them comes by `Propose`."""

    images: ImageSettings
    delivery: Delivery

    def apply(self, plan: Plan) -> Plan:
        """The plan after it."""
        return replace(plan, images=self.images, delivery=self.delivery)


@dataclass(frozen=True, slots=True)
class Adopt:
    """Take another plan as a whole, such as one from a file."""

    other: Plan

    def apply(self, plan: Plan) -> Plan:
        """The plan after it."""
        return self.other


# Commands that can be sent as they are, under the names by which requests ask for them. Their limits are those of
# requests; a plan itself may hold more.
COMMANDS: Mapping[str, type[Command]] = {
    "switch": Switch,
    "pick": Pick,
    "scope": SetScope,
    "leave out": LeaveOut,
    "keep rules": KeepRules,
    "set": SetParams,
    "keep": SetKeepList,
    "masks": SetIgnoredRegions,
}
