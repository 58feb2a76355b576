"""One image treated as the user chose, whatever was proposed; and what a plan makes of each image."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from unladen.errors import BadInput
from unladen.plan.document import AnyChange, Plan
from unladen.raster.recode import SVG, Recipe
from unladen.remedies import LIKENESS, Change, ImageSettings, Params, order_of, remedy_named
from unladen.remedies.images.replacing import MOST_WIDTH, Coding
from unladen.remedies.images.shrink import ShrinkParams
from unladen.remedies.images.webp import FormatParams

LEAVE = "leave"
KEEP_FORMAT = ""


@dataclass(frozen=True, slots=True)
class ImageChoice:
    """`format` is "" for the file's own, a format's name, or `leave`; `width` in px, 0 for as it is.

    `likeness` is a word of `LIKENESS`; a `quality` other than 0 is taken as it is. Raises `BadInput`.
    """

    format: str = KEEP_FORMAT
    width: int = 0
    likeness: str = "fine"
    quality: int = 0

    def __post_init__(self) -> None:
        if self.format not in ("", LEAVE, "WEBP", "AVIF", "JPEG", "PNG"):
            raise BadInput(self.format, "is not an available format")
        if self.likeness not in LIKENESS:
            raise BadInput(self.likeness, f"must be one of {', '.join(LIKENESS)}")
        if not 0 <= self.quality <= 100 or not 0 <= self.width <= MOST_WIDTH:
            raise BadInput("the choice", f"quality goes from 1 to 100 and width to {MOST_WIDTH:,} px")


@dataclass(frozen=True, slots=True)
class ImageScope:
    """Where changes of an image count: all pages for its content, those weighed for its name."""

    weighed: tuple[str, ...]
    all: tuple[str, ...]


def choices_for(
    images: Iterable[Any], paths: Sequence[str], choice: ImageChoice, *, family: bool
) -> dict[str, ImageChoice]:
    """A choice for some of a site's images by path, with `family` for their other sizes too; raises `BadInput`.

    A width holds for the first one only, and none is made larger.
    """
    rows = {image.path: image for image in images}
    if unknown := set(paths) - rows.keys():
        raise BadInput(min(unknown), "the site has no such image")
    wanted = dict.fromkeys(paths)
    if family:
        related = {rows[path].family for path in paths} - {""}
        wanted |= dict.fromkeys(row.path for row in rows.values() if row.family in related)

    def fitting(path: str) -> ImageChoice:
        if choice.width and (path != paths[0] or choice.width >= rows[path].width):
            return replace(choice, width=0)
        return choice

    return {path: fitting(path) for path in wanted}


def with_choices(plan: Plan, choices: Mapping[str, ImageChoice], scope: ImageScope, *, on: bool = True) -> Plan:
    """The plan with these images, by path, treated as chosen."""
    bound = {c.targets[0] for c in plan.changes if isinstance(c.params, ShrinkParams) and c.params.reserve}
    kept = [c for change in plan.changes if (c := without_images(change, choices)) is not None]
    made = [
        replace(change, on=on)
        for path, choice in choices.items()
        for change in _changes(plan, path, choice, scope, path in bound)
    ]
    return replace(plan, changes=(*kept, *made))


def without_images(change: AnyChange, choices: Mapping[str, ImageChoice]) -> AnyChange | None:
    """A change without what a choice decides in its place; None when nothing is left of it."""
    role = remedy_named(change.remedy).image_role
    if role in ("file", "instead"):
        gone = set(choices)
    elif role == "beside":
        gone = {path for path, choice in choices.items() if choice.format == LEAVE}
    else:
        return change
    targets = tuple(target for target in change.targets if target not in gone)
    return replace(change, targets=targets) if targets else None


def _changes(plan: Plan, path: str, choice: ImageChoice, scope: ImageScope, bound: bool) -> list[AnyChange]:
    if choice.format == LEAVE:
        return []
    coding: dict[str, Any] = {"similarity": LIKENESS[choice.likeness], "quality": choice.quality}

    def made(remedy: str, pages: tuple[str, ...], params: Params) -> AnyChange:
        return Change(f"{remedy}:{path}", remedy, (path,), pages, params, chosen=True)

    changes: list[AnyChange] = []
    if choice.width:
        pages = scope.all if plan.delivery.same_names else scope.weighed
        changes.append(made("shrink", pages, ShrinkParams(width=choice.width, reserve=bound, **coding)))
    if choice.format:
        changes.append(made("webp", scope.weighed, FormatParams(format=choice.format, **coding)))
    elif not choice.width:
        if choice.likeness == "exact" and not choice.quality:
            changes.append(made("exact", scope.all, Params()))
        else:
            changes.append(made("recompress", scope.all, Coding(**coding)))
    return changes


@dataclass(frozen=True, slots=True)
class Proposal:
    """What a plan makes of an image's content: the ids of its changes, and which file comes of it."""

    changes: tuple[str, ...]
    on: bool
    format: str = ""
    width: int = 0
    similarity: float = 1.0
    quality: int = 0
    part: tuple[int, ...] = ()
    density: float = 1.0
    veil: tuple[int, ...] = ()

    def recipe(self, settings: ImageSettings) -> Recipe:
        """The same for the memo."""
        if self.format == SVG:
            return Recipe(format=SVG)
        return Recipe(
            self.width,
            self.format,
            self.similarity,
            self.quality,
            copyright=settings.copyright,
            part=self.part,
            density=self.density,
            veil=self.veil,
        )


def proposals(plan: Plan) -> dict[str, Proposal]:
    """By path what the plan makes of each image that it changes."""
    proposals: dict[str, Proposal] = {}
    deciding = [change for change in plan.changes if remedy_named(change.remedy).image_role == "file"]
    for change in sorted(deciding, key=lambda c: order_of(c.remedy)):
        for path in change.targets:
            known = proposals.get(path) or Proposal((), False)
            values = {
                name: getattr(change.params, name)
                for name in ("format", "width", "similarity", "quality", "part", "density", "veil")
                if hasattr(change.params, name)
            }
            proposals[path] = replace(known, changes=(*known.changes, change.id), on=known.on or change.on, **values)
    return proposals
