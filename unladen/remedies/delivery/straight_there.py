"""Addresses that redirect are not asked for."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from unladen.capture import Capture, Exchange
from unladen.markup.references import resolve
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.journal import Spared
from unladen.remedies.spec import Remedy

FOR_GOOD = (301, 308)  # RFC 9110, 15.4.2 and 15.4.9
MOST_STEPS = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class StraightParams(Params):
    """`to`: for each target, which leads on for good, the address of what comes in the end."""

    to: dict[str, str] = fields.texts(most=4_000)


def apply(change: Change[StraightParams], draft: Draft) -> None:
    """Let the pages in scope, and the style sheets that only they use, name what the targets lead to."""
    for path in change.targets:
        passing = draft.exchange(path)
        final = draft.capture.lookup(change.params.to.get(path, ""))
        if passing is None or final is None or final.status != 200:
            draft.notice(path, "no longer redirects to a file of the recording")
            continue
        pages = {p for use in draft.edits.uses_of(passing, change.pages) for p in draft.texts.pages_of(use.text)}
        if not draft.files.merge(change, final, passing):
            draft.notice(path, "is not named in any editable text")
            continue
        for step in _between(draft.capture, passing):
            for page in sorted(pages):
                draft.journal.write(Spared(change.id, step.url, page))


def _between(capture: Capture, passing: Exchange) -> Iterator[Exchange]:
    """What else is asked for on the way."""
    here: Exchange | None = passing
    for _ in range(MOST_STEPS):
        to = next((value for name, value in here.headers if name.lower() == "location"), "") if here else ""
        url = resolve(here.url, to) if here and to else None
        here = capture.lookup(url) if url else None
        if here is None or here.status not in FOR_GOOD:
            return
        yield here


REMEDY = Remedy(
    name="straight-there",
    phase="drop",
    params=StraightParams,
    title="Link to final addresses",
    what="Addresses that redirect",
    detail="Where an address redirects permanently (301, 308), pages and style sheets link to the final address.",
    apply=apply,
    may_edit_pages=True,
)
