"""One image treated as the user chose, whatever was proposed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from unladen.plan.document import Plan
from unladen.plan.model import Change
from unladen.plan.settings import LIKENESS

LEAVE = "leave"
KEEP_FORMAT = ""
# Remedies that decide what an image becomes; the others build on what these leave.
_DECIDING = ("exact", "svg", "shrink", "recompress", "webp", "avif", "inline")
_BUILDING_ON = ("widths", "phone")


@dataclass(frozen=True, slots=True)
class Choice:
    """`format` is "" for the file's own, a format's name, or `leave`; `width` in px, 0 for as it is.

    `likeness` is a word of `LIKENESS`; a `quality` other than 0 is taken as it is.
    """

    format: str = KEEP_FORMAT
    width: int = 0
    likeness: str = "fine"
    quality: int = 0

    def __post_init__(self) -> None:
        if self.format not in ("", LEAVE, "WEBP", "AVIF", "JPEG", "PNG"):
            raise ValueError(f"the format “{self.format}” cannot be chosen")
        if self.likeness not in LIKENESS:
            raise ValueError(f"the likeness “{self.likeness}” is none of {', '.join(LIKENESS)}")
        if not 0 <= self.quality <= 100 or not 0 <= self.width <= 30_000:
            raise ValueError("quality goes from 1 to 100 and width to 30,000 px")


@dataclass(frozen=True, slots=True)
class ImageScope:
    """Where changes of an image count: all pages for its content, those weighed for its name."""

    weighed: tuple[str, ...]
    all: tuple[str, ...]


def with_choices(plan: Plan, choices: Mapping[str, Choice], scope: ImageScope, bound: Sequence[str] = ()) -> Plan:
    """The plan with these images, by path, treated as chosen. `bound` are paths that give their boxes their size."""
    kept = [c for change in plan.changes if (c := _without(change, choices)) is not None]
    made = [
        change for path, choice in choices.items() for change in _changes(plan, path, choice, scope, path in bound)
    ]
    return replace(plan, changes=(*kept, *made))


def _without(change: Change, choices: Mapping[str, Choice]) -> Change | None:
    left_alone = {path for path, choice in choices.items() if choice.format == LEAVE}
    gone = set(choices) if change.remedy in _DECIDING else left_alone if change.remedy in _BUILDING_ON else set()
    targets = tuple(target for target in change.targets if target not in gone)
    return replace(change, targets=targets) if targets else None


def _changes(plan: Plan, path: str, choice: Choice, scope: ImageScope, bound: bool) -> list[Change]:
    if choice.format == LEAVE:
        return []
    params: dict[str, Any] = {"similarity": LIKENESS[choice.likeness], "chosen": True}
    if choice.quality:
        params["quality"] = choice.quality
    changes = []
    if choice.width:
        size = params | {"width": choice.width, "reserve": bound}
        pages = scope.all if plan.images.same_names else scope.weighed
        changes.append(Change(f"shrink:{path}", "shrink", (path,), pages, size))
    if choice.format:
        changes.append(Change(f"webp:{path}", "webp", (path,), scope.weighed, params | {"format": choice.format}))
    elif not choice.width:
        exact = choice.likeness == "exact" and not choice.quality
        remedy = "exact" if exact else "recompress"
        changes.append(Change(f"{remedy}:{path}", remedy, (path,), scope.all, params))
    return changes


def carried_over(old: Plan, new: Plan) -> Plan:
    """A new proposal with what the user decided in the old plan: what is on, what is kept, images of one's own choice."""
    chosen = [change for change in old.changes if change.params.get("chosen")]
    own = {change.id for change in chosen}
    paths = {path: Choice(LEAVE) for change in chosen for path in change.targets}
    states = {change.id: change for change in old.changes}
    fresh = []
    for change in new.changes:
        left = _without(change, paths) if change.remedy in _DECIDING else change
        if left is not None and left.id not in own:
            known = states.get(left.id)
            fresh.append(replace(left, on=known.on, insist=known.insist) if known else replace(left, on=False))
    return replace(new, changes=(*fresh, *chosen), keep=old.keep)


@dataclass(frozen=True, slots=True)
class Proposal:
    """What a plan makes of an image's content: the ids of its changes, and which file comes of it."""

    changes: tuple[str, ...]
    on: bool
    set_aside: str
    format: str
    width: int
    similarity: float
    quality: int
    svg: bool = False


def proposals(plan: Plan) -> dict[str, Proposal]:
    """By path what the plan makes of each image that it changes."""
    found: dict[str, Proposal] = {}
    order = {remedy: i for i, remedy in enumerate(_DECIDING)}
    deciding = [change for change in plan.changes if change.remedy in order and change.remedy != "inline"]
    for change in sorted(deciding, key=lambda c: order[c.remedy]):
        for path in change.targets:
            known = found.get(path) or Proposal((), change.counts, "", "", 0, 1.0, 0)
            format = {"webp": change.params.get("format", "WEBP"), "avif": "AVIF"}.get(change.remedy, known.format)
            found[path] = Proposal(
                changes=(*known.changes, change.id),
                on=known.on or change.counts,
                set_aside=known.set_aside or change.set_aside,
                format=str(format),
                width=int(change.params.get("width", known.width)),
                similarity=float(change.params.get("similarity", known.similarity)),
                quality=int(change.params.get("quality", known.quality)),
                svg=change.remedy == "svg",
            )
    return found
