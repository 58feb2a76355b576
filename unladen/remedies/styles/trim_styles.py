"""Style sheets without the rules that nothing on the pages can match."""

from __future__ import annotations

import contextlib
from collections.abc import Collection
from dataclasses import dataclass, replace

from unladen.capture import Capture
from unladen.markup.site import texts_of
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft, Stage
from unladen.remedies.spec import Remedy, Setting
from unladen.remedies.styles.sheets import Make, over, sheets_in
from unladen.styles.sheets import named_elsewhere, sheets_of
from unladen.styles.trim import Dead, Gone, selectors_in, trimmed


@dataclass(frozen=True, slots=True, kw_only=True)
class TrimParams(Params):
    """What goes: rules that need one of the `absent` names (`.class`, `#id`, `tag`, `[attribute]`), and those whose
    relaxed selector is among the `unmatched`. `keep`: patterns of selectors that stay all the same, with `*` for
    anything.
    """

    absent: tuple[str, ...] = fields.names()
    unmatched: tuple[str, ...] = fields.names()
    keep: tuple[str, ...] = fields.names(5_000)

    def pieces(self) -> tuple[str, ...]:
        """Each name and each selector by itself."""
        return (*self.absent, *self.unmatched)

    def sparing(self, pieces: Collection[str]) -> TrimParams:
        """The same with the rules that ask for these left where they are."""
        out = set(pieces)
        absent, unmatched = (tuple(n for n in names if n not in out) for names in (self.absent, self.unmatched))
        return replace(self, absent=absent, unmatched=unmatched)

    def dead(self) -> Dead:
        """The same for the work itself."""
        return Dead(frozenset(self.absent), frozenset(self.unmatched), self.keep)


@dataclass(frozen=True, slots=True)
class _Trim:
    dead: Dead
    named: frozenset[str]
    proves: bool

    def __call__(self, chars: str) -> str:
        return trimmed(chars, self.dead, lambda name: name.lower() in self.named, proves=self.proves).chars


def apply(change: Change[TrimParams], draft: Draft) -> None:
    """Trim the targets, files or pages, where all pages that use them are in scope."""
    dead = change.params.dead()
    for path, exchange in draft.targets(change):
        sheets = sheets_in(draft, exchange)
        if not sheets:
            draft.notice(path, "has no styles any more")
        elif not sheets[0].pages & set(change.pages):
            draft.notice(path, "is used by none of these pages any more")
        else:
            makes: list[Make] = [
                _Trim(dead, named_elsewhere(draft.texts, sheet), not draft.trial) for sheet in sheets
            ]
            draft.edits.transform(change, exchange, Stage.TRIM, over(exchange, makes))


@dataclass(frozen=True, slots=True)
class Went:
    """What a trim takes out of a site's style sheets, of which these are how many selectors."""

    gone: tuple[Gone, ...]
    selectors: int


def went(capture: Capture, change: Change[TrimParams]) -> Went:
    """What a change takes out of its targets as found; of one that refuses to be trimmed, nothing."""
    texts, dead = texts_of(capture), change.params.dead()
    gone: list[Gone] = []
    selectors = 0
    for sheet in sheets_of(texts):
        if texts.path(sheet.exchange) in change.targets:
            selectors += sum(1 for _ in selectors_in(sheet.chars))
            named = named_elsewhere(texts, sheet)
            with contextlib.suppress(ValueError):
                gone += trimmed(sheet.chars, dead, lambda name, named=named: name.lower() in named).gone  # type: ignore[misc]
    return Went(tuple(gone), selectors)


REMEDY = Remedy(
    name="trim-styles",
    phase="styles",
    params=TrimParams,
    title="Remove unused CSS",
    what="Removes rules that no page can match",
    detail=(
        "Removes rules, single selectors of lists, and empty media blocks that no page can match in any state and no "
        "script names. Then removes keyframes, font faces and custom properties that nothing uses. The remaining "
        "rules keep their text and order."
    ),
    apply=apply,
    least_effort="steady",
    settings=(Setting("keep", "Rules to keep", listed=True),),
)
