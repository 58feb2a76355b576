"""The files of a lightened capture, made of what a draft has collected."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from unladen.build.texts import made_text
from unladen.capture import Capture, Exchange
from unladen.capture.packing import PackText
from unladen.remedies.draft import Draft
from unladen.remedies.journal import Edited


def finished(draft: Draft) -> Capture:
    """The lightened capture. What a change wants of a text and the text does not bear is left out, with a notice."""
    for notice in draft.texts.notices:
        draft.notice(notice.name, notice.reason)
    urls = sorted(draft.pending.keys() | draft.transforms.keys())
    changed = [edited for url in urls if (edited := _edited(draft, url)) is not None]
    lighter = draft.capture.with_changes([*changed, *draft.in_place.values(), *draft.added_files()])
    return lighter.with_changes(_packed(draft, lighter))


def _packed(draft: Draft, lighter: Capture) -> Iterator[Exchange]:
    """The texts that are packed ahead of time, as they are after all else."""
    for url, change in sorted(draft.packed.items()):
        exchange = lighter.exchanges[url]
        outcome = draft.memo.outcome(exchange.digest, PackText())
        before = lighter.sent_size(exchange)
        if outcome.refused or outcome.size >= before:
            continue
        draft.memo.hand_over(outcome)
        draft.journal.write(Edited(change, url, before, outcome.size))
        yield replace(exchange, encoding="packed", packed=outcome.digest, packed_size=outcome.size)


def _edited(draft: Draft, url: str) -> Exchange | None:
    exchange = draft.capture.exchanges[url]
    text = draft.texts.text(exchange)
    pending, transforms = tuple(draft.pending.get(url, ())), tuple(draft.transforms.get(url, ()))
    if text is None or not (pending or transforms):
        return None
    found = made_text(text, exchange.media_type, exchange.encoding, pending, transforms)
    for change, reason in found.refused:
        draft.notice(draft.path(exchange), f"{reason}; left without “{change}”")
    for number, (change, before, after) in enumerate(found.steps):
        # What somebody else packed ahead of time need not be as we would have packed it.
        first = draft.capture.sent_size(exchange) if number == 0 else before
        draft.journal.write(Edited(change, url, first, after))
    if not found.steps:
        return None
    digest = draft.capture.store.put(found.body)
    return replace(exchange, digest=digest, size=len(found.body), packed="", packed_size=0)
