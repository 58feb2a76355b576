"""What a remedy says of itself. All else that has to know a remedy reads it here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.settings import Delivery

# Remedies run in the order of these, whatever the order in a plan.
PHASES = ("drop", "embeds", "images", "media", "lazy", "styles", "scripts", "fonts", "markup", "delivery")
EFFORTS = ("gentle", "steady", "bold")


@dataclass(frozen=True, slots=True)
class Remedy:
    """A kind of cure. `title` and `what` are for the screens, `detail` says in the docs what it changes.

    `least_effort`: the gentlest ready-made plan that may switch it on. `may_edit_pages`: it works by editing pages;
    `needs_new_names`: it works by adding files. Both are False where it can do without. `steadies`: it is for a
    steadier page or a repeat visit, not for bytes of a first one. `image_role`: it makes the `file` that an image
    becomes, does away with it (`instead`), or puts others `beside` it. `replaces_embed`: it puts something in the place
    of an embed, which the user may choose. `formerly` is its name in plans and ledgers of version 1.
    """

    name: str
    phase: str
    params: type[Params]
    title: str
    what: str
    apply: Callable[[Change[Any], Draft], None]
    detail: str = ""
    least_effort: str = "gentle"
    may_edit_pages: bool = False
    needs_new_names: bool = False
    steadies: bool = False
    image_role: Literal["", "file", "instead", "beside"] = ""
    replaces_embed: bool = False
    formerly: str = ""

    def allowed_by(self, delivery: Delivery) -> bool:
        """Whether what it makes can be delivered."""
        return not (delivery.same_names and (self.may_edit_pages or self.needs_new_names))

    def reached_by(self, effort: str) -> bool:
        """Whether an effort goes so far."""
        return EFFORTS.index(effort) >= EFFORTS.index(self.least_effort)
