"""What a remedy says of itself. All else that has to know a remedy reads it here."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.settings import Delivery

# Remedies run in the order of these, whatever the order in a plan.
PHASES = ("drop", "embeds", "images", "media", "lazy", "styles", "scripts", "fonts", "markup", "delivery")
EFFORTS = ("gentle", "steady", "bold")


@dataclass(frozen=True, slots=True)
class Setting:
    """A parameter of a change that the user may set: the name of its field, and what it is called.

    `words` are what its values are called where it has a few; else `unit` and range where it is a number; else it is
    a text. `listed`: it is a list, which has a form of its own.
    """

    name: str
    title: str
    words: Mapping[str, str] = field(default_factory=dict)
    unit: str = ""
    low: int = 0
    high: int = 0
    listed: bool = False

    @property
    def sort(self) -> Literal["word", "number", "text"]:
        """What is to be entered."""
        return "word" if self.words else "number" if self.high else "text"


@dataclass(frozen=True, slots=True)
class Remedy:
    """A kind of cure. `title` and `what` are for the screens, `detail` says in the docs what it changes.

    `least_effort`: the gentlest ready-made plan that may switch it on. `may_edit_pages`: it works by editing pages;
    `needs_new_names`: it works by adding files. Both are False where it can do without. `steadies`: it is for a
    steadier page or a repeat visit, not for bytes of a first one. `puts_off`: what the page has comes later by it.
    `defers`: the bytes that it saves at first are not gone: they load once a visitor wants them.
    `image_role`: it makes the `file` that an image becomes, does away with it (`instead`), or puts others `beside` it.
    `replaces_embed`: it puts something in the place of an embed, which the user may choose. `settings` are the
    parameters that the user may set by hand. `formerly` is its name in plans and ledgers of version 1.
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
    puts_off: bool = False
    defers: bool = False
    image_role: Literal["", "file", "instead", "beside"] = ""
    replaces_embed: bool = False
    settings: tuple[Setting, ...] = ()
    formerly: str = ""

    def allowed_by(self, delivery: Delivery) -> bool:
        """Whether what it makes can be delivered."""
        return not (delivery.same_names and (self.may_edit_pages or self.needs_new_names))

    def reached_by(self, effort: str) -> bool:
        """Whether an effort goes so far."""
        return EFFORTS.index(effort) >= EFFORTS.index(self.least_effort)
