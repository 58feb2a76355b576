"""Style sheets without the rules that nothing on the pages can match."""

from __future__ import annotations

from dataclasses import dataclass

from unladen.capture.mediatypes import is_page
from unladen.markup.edits import Edit, apply_edits
from unladen.markup.references import parse_document
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft, Stage
from unladen.remedies.spec import Remedy
from unladen.styles.sheets import Sheet, is_sheet, named_elsewhere, sheets_of
from unladen.styles.trim import Dead, trimmed


@dataclass(frozen=True, slots=True, kw_only=True)
class TrimParams(Params):
    """What goes: rules that need one of the `absent` names (`.class`, `#id`, `tag`, `[attribute]`), and those whose relaxed selector is
    among the `unmatched`. `keep`: patterns of selectors that stay all the same, with `*` for anything.
    """

    absent: tuple[str, ...] = fields.names()
    unmatched: tuple[str, ...] = fields.names()
    keep: tuple[str, ...] = fields.names(5_000)

    def dead(self) -> Dead:
        """The same for the work itself."""
        return Dead(frozenset(self.absent), frozenset(self.unmatched), self.keep)


@dataclass(frozen=True, slots=True)
class _TrimFile:
    dead: Dead
    named: frozenset[str]

    def __call__(self, chars: str) -> str:
        return trimmed(chars, self.dead, lambda name: name.lower() in self.named).chars


@dataclass(frozen=True, slots=True)
class _TrimPage:
    """What stands in the style elements of a page; `named` for each of them in turn."""

    dead: Dead
    named: tuple[frozenset[str], ...]

    def __call__(self, chars: str) -> str:
        elements = [e for e in parse_document(chars).elements if is_sheet(e)]
        ours = [e for e in elements if "data-unladen" not in e.attrs]
        edits = []
        for element, named in zip(ours, self.named, strict=True):
            text = chars[element.end : element.inner_end]
            made = _TrimFile(self.dead, named)(text)
            if made != text:
                edits.append(Edit(element.end, element.inner_end, made))
        return apply_edits(chars, edits)


def apply(change: Change[TrimParams], draft: Draft) -> None:
    """Trim the targets, files or pages, where all pages that use them are in scope."""
    dead = change.params.dead()
    sheets: dict[str, list[Sheet]] = {}
    for sheet in sheets_of(draft.texts):
        sheets.setdefault(sheet.exchange.url, []).append(sheet)
    for path, exchange in draft.targets(change):
        found = sheets.get(exchange.url, [])
        if not found:
            draft.notice(path, "has no styles any more")
        elif not found[0].pages <= set(change.pages):
            draft.notice(path, "is also used by a page that stays as it is")
        else:
            named = tuple(named_elsewhere(draft.texts, sheet) for sheet in found)
            make = _TrimPage(dead, named) if is_page(exchange.media_type) else _TrimFile(dead, named[0])
            draft.transform(change, exchange, Stage.TRIM, make)


REMEDY = Remedy(
    name="trim-styles",
    phase="styles",
    params=TrimParams,
    title="Styles without unused rules",
    what="Rules that nothing on the pages can match",
    detail=(
        "Rules, single selectors of lists, and media that hold nothing else go where no page has what they ask for, in any "
        "state, and no script names it; then keyframes, font faces and custom properties that nothing names any more. What "
        "stays is as it was, in its order."
    ),
    apply=apply,
    least_effort="steady",
)
