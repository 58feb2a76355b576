"""The files of a lightened capture, made of what a draft has collected."""

from __future__ import annotations

import html
import posixpath
from collections.abc import Iterator, Mapping
from dataclasses import replace

from unladen.build.texts import made_text
from unladen.capture import Capture, Exchange
from unladen.capture.addresses import path_of_url, url_of_path
from unladen.capture.mediatypes import is_page
from unladen.capture.packing import PackText
from unladen.markup.edits import Edit
from unladen.markup.references import link_to
from unladen.markup.text import decode
from unladen.remedies.delivery.lifetimes import kept_for, says_its_content, seldom_changes
from unladen.remedies.draft import AddressOf, ContentsOf, Draft, LinkedEdit, Pending, beside
from unladen.remedies.draft.links import Part
from unladen.remedies.journal import Edited, Replaced


def finished(draft: Draft) -> Capture:
    """The lightened capture, with texts packed ahead of time where a change says so and it is no trial.

    What a change wants of a text and the text does not bear is left out, with a notice.
    """
    for notice in draft.texts.notices:
        draft.notice(notice.name, notice.reason)
    copies = {url: copied for url in sorted(draft.edits.copies) if (copied := _copied(draft, url))}
    pages_of = {copied.url: draft.edits.copies[url].pages for url, copied in copies.items()}
    urls = draft.edits.pending.keys() | draft.edits.transforms.keys()
    # Pages last, since they may hold what has become of others.
    made = dict(copies)
    changed = []
    for url in sorted(urls, key=lambda url: (is_page(draft.capture.exchanges[url].media_type), url)):
        if (edited := _edited(draft, url, copies, made)) is not None:
            made.setdefault(url, edited)
            changed.append(edited)
    lighter = draft.capture.with_changes([*changed, *draft.files.in_place.values(), *draft.files.added_files()])
    if not draft.trial:
        lighter = lighter.with_changes(_packed(draft, lighter, pages_of))
    return lighter.with_changes(_kept(draft, lighter)) if draft.lifetimes else lighter


def _kept(draft: Draft, lighter: Capture) -> Iterator[Exchange]:
    """The files with a lifetime, and what stands for them or is new under a name that says its content."""
    for url, seconds in sorted(draft.lifetimes.items()):
        yield kept_for(lighter.exchanges[url], seconds)
    longest = max(draft.lifetimes.values())
    for exchange in draft.files.added_files():
        if seldom_changes(exchange) or says_its_content(exchange.path):
            yield kept_for(lighter.exchanges[exchange.url], longest)


def _copied(draft: Draft, url: str) -> Exchange | None:
    """The copy of a text that some pages get for themselves, which name it from now on; None where nothing came of
    it.
    """
    copy, exchange = draft.edits.copies[url], draft.capture.exchanges[url]
    text = draft.texts.text(exchange)
    assert text is not None
    pending = tuple(draft.edits.pending.get(url, ()))
    transforms = (*copy.transforms, *draft.edits.transforms.get(url, ()))
    result = made_text(text, exchange.media_type, exchange.encoding, pending, transforms, trial=draft.trial)
    for change, reason in result.refused:
        draft.notice(draft.path(exchange), f"{reason}; left without “{change}”")
    if not {change for change, _, _ in result.steps} & {transform.change for transform in copy.transforms}:
        return None
    digest = draft.capture.store.put(result.body)
    suffix = posixpath.splitext(path_of_url(draft.capture.base_url, url))[1]
    path = beside(draft.capture.base_url, exchange, digest, suffix)
    new = url_of_path(draft.capture.base_url, path)
    made = replace(exchange, url=new, path=path, digest=digest, size=len(result.body), packed="", packed_size=0)
    for use in draft.edits.naming(exchange, copy.pages):
        draft.edits.point(copy.change, use, new)
    draft.files.add(made)
    for number, (change, before, after) in enumerate(result.steps):
        if number == 0:
            first = draft.capture.sent_size(exchange)
            draft.journal.write(Replaced(change, url, new, first, after, copy.pages))
        else:
            draft.journal.write(Edited(change, new, before, after, copy.pages))
    if url in draft.packed:
        draft.packed[new] = draft.packed[url]
    return made


def _packed(draft: Draft, lighter: Capture, pages_of: Mapping[str, frozenset[str]]) -> Iterator[Exchange]:
    """The texts that are packed ahead of time, as they are after all else."""
    for url, change in sorted(draft.packed.items()):
        exchange = lighter.exchanges[url]
        outcome = draft.work_cache.outcome(exchange.digest, PackText())
        before = lighter.sent_size(exchange)
        if outcome.refused or outcome.size >= before:
            continue
        draft.work_cache.hand_over(outcome)
        draft.journal.write(Edited(change, url, before, outcome.size, pages_of.get(url, frozenset())))
        yield replace(exchange, encoding="packed", packed=outcome.digest, packed_size=outcome.size)


def _linked(
    draft: Draft, page: Exchange, pending: Pending, copies: Mapping[str, Exchange], made: Mapping[str, Exchange]
) -> Pending:
    """An edit with its parts put together: addresses of files as this page names them, and their texts."""
    edit = pending.edit
    if not isinstance(edit, LinkedEdit):
        return pending

    def mine(url: str) -> Exchange:
        copied = copies.get(url)
        if copied is not None and draft.path(page) in draft.edits.copies[url].pages:
            return copied
        return made[url] if url in made and url not in copies else draft.capture.exchanges[url]

    def written(part: Part) -> str:
        if isinstance(part, AddressOf):
            return html.escape(link_to(mine(part.url).url, draft.texts.base(page)))
        if isinstance(part, ContentsOf):
            return decode(draft.capture.store.get(mine(part.url).digest)).chars.strip()
        return part

    text = "".join(map(written, edit.parts))
    return replace(pending, edit=Edit(edit.start, edit.end, text, edit.slot, edit.adds))


def _edited(draft: Draft, url: str, copies: Mapping[str, Exchange], made: Mapping[str, Exchange]) -> Exchange | None:
    exchange = draft.capture.exchanges[url]
    text = draft.texts.text(exchange)
    pending = tuple(_linked(draft, exchange, entry, copies, made) for entry in draft.edits.pending.get(url, ()))
    transforms = tuple(draft.edits.transforms.get(url, ()))
    if text is None or not (pending or transforms):
        return None
    result = made_text(text, exchange.media_type, exchange.encoding, pending, transforms, trial=draft.trial)
    for change, reason in result.refused:
        draft.notice(draft.path(exchange), f"{reason}; left without “{change}”")
    for number, (change, before, after) in enumerate(result.steps):
        # What somebody else packed ahead of time need not be as we would have packed it.
        first = draft.capture.sent_size(exchange) if number == 0 else before
        draft.journal.write(Edited(change, url, first, after))
    if not result.steps:
        return None
    digest = draft.capture.store.put(result.body)
    return replace(exchange, digest=digest, size=len(result.body), packed="", packed_size=0)
