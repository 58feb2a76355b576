"""One excess, and one change, for all pages of a kind, where each page by itself would have one of its own."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from unladen.remedies import Change
from unladen.survey.findings import Finding
from unladen.survey.site_facts import SiteFacts


def gathered(found: Sequence[Finding], evidence: SiteFacts) -> list[Finding]:
    """The excess of single pages that nobody weighed joined with that of the page that stands for them.

    Figures stay those of the page that was weighed. Each stays by itself where one change could not be for both:
    where a file that it is about stands on the other page too and is left alone there.
    """
    kin = evidence.kin
    if not kin:
        return list(found)
    groups: dict[tuple[object, ...], list[Finding]] = {}
    for excess in found:
        alone = excess.pages[0] if len(excess.pages) == 1 else ""
        key = (excess.excess, kin.get(alone, alone), *(change.remedy for change in excess.changes))
        groups.setdefault(key if alone else (excess.id,), []).append(excess)
    named = _Named(evidence)
    joined: list[Finding] = []
    for group in groups.values():
        group.sort(key=lambda excess: excess.pages[0] in kin)
        joined += _joined(group, named, kin)
    order = {excess.id: number for number, excess in enumerate(found)}
    return sorted(joined, key=lambda excess: order[excess.id])


def _joined(group: Sequence[Finding], named: _Named, kin: Mapping[str, str]) -> Iterable[Finding]:
    first, rest, alike = group[0], [], 0
    changes = list(first.changes)
    for excess in group[1:]:
        new = _both(changes, excess.changes, named) if excess.pages[0] in kin else None
        if new is None:
            rest.append(excess)
        else:
            changes, alike = new, alike + 1
    if alike:
        pages = "one more page" if alike == 1 else f"{alike:,} more pages"
        why = f"{first.why} It also concerns {pages} of this page group that were not weighed."
        scope = tuple(dict.fromkeys(page for change in changes for page in change.pages))
        first = replace(first, why=why, changes=tuple(changes), pages=scope)
    return [first, *rest]


def _both(changes: Sequence[Change[Any]], others: Sequence[Change[Any]], named: _Named) -> list[Change[Any]] | None:
    """Changes that are for the pages of both; None where they would touch what either leaves alone."""
    if len(changes) != len(others):
        return None
    result = []
    for change, other in zip(changes, others, strict=True):
        params = change.params.joined(other.params)
        mine, theirs = set(change.targets), set(other.targets)
        apart = named.on(theirs - mine, change.pages) or named.on(mine - theirs, other.pages)
        if params is None or apart or change.on != other.on:
            return None
        targets = tuple(dict.fromkeys((*change.targets, *other.targets)))
        pages = tuple(dict.fromkeys((*change.pages, *other.pages)))
        result.append(replace(change, params=params, targets=targets, pages=pages))
    return result


class _Named:
    """Which pages have which files."""

    def __init__(self, evidence: SiteFacts) -> None:
        self._pages: dict[str, set[str]] = {}
        for use in evidence.images.values():
            self._pages.setdefault(use.path, set()).update(use.pages)
        for url, pages in evidence.texts.users().items():
            self._pages.setdefault(evidence.path(url), set()).update(pages)

    def on(self, paths: Iterable[str], pages: Iterable[str]) -> bool:
        """Whether any of these pages has any of these files."""
        scope = frozenset(pages)
        return any(not scope.isdisjoint(self._pages.get(path, ())) for path in paths)
