"""Kinds of page: pages built alike, of which some can stand for all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from unladen.capture import Capture, Exchange
from unladen.markup.html import Document
from unladen.markup.site import texts_of

_ALIKE = 0.75  # of the ways of building that either of two pages has, those that both have
_ABOVE = 2  # ancestors that count
_CLASSES = 2


@dataclass(frozen=True, slots=True)
class PageKind:
    """Pages of one structure with the same style sheets and scripts, in the order of the capture; the first stands for all."""

    pages: tuple[Exchange, ...]


@dataclass(frozen=True, slots=True)
class _Built:
    files: frozenset[str]
    ways: frozenset[tuple[str, ...]]

    def is_like(self, other: _Built) -> bool:
        """Jaccard's index of the ways in which elements stand in one another."""
        both, either = len(self.ways & other.ways), len(self.ways | other.ways)
        return self.files == other.files and (either == 0 or both >= _ALIKE * either)


def page_kinds(capture: Capture) -> list[PageKind]:
    """All kinds, in the order in which their first pages come. A page that cannot be read is a kind of its own."""
    texts = texts_of(capture)
    found: list[tuple[_Built | None, list[Exchange]]] = []
    by_files: dict[frozenset[str], list[int]] = {}
    for page in capture.pages():
        document = texts.document(page)
        built = _built(document) if document else None
        known = by_files.setdefault(built.files, []) if built else []
        like = next((n for n in known if built and (first := found[n][0]) and first.is_like(built)), None)
        if like is None:
            known.append(len(found))
            found.append((built, [page]))
        else:
            found[like][1].append(page)
    return [PageKind(tuple(pages)) for _, pages in found]


def _built(document: Document) -> _Built:
    files, ways = set(), set()
    for element in document.elements:
        if element.tag == "script" and "src" in element.attrs:
            files.add(element.attrs["src"].rsplit("/", 1)[-1])
        if element.tag == "link" and "stylesheet" in element.attrs.get("rel", "").lower().split():
            files.add(element.attrs.get("href", "").rsplit("/", 1)[-1])
        classes = sorted(element.attrs.get("class", "").split())[:_CLASSES]
        ways.add((*element.ancestors[-_ABOVE:], element.tag, *classes))
    return _Built(frozenset(files), frozenset(ways))


def standing_for_all(capture: Capture, most: int) -> tuple[list[Exchange], dict[str, int]]:
    """At most so many pages that show all kinds, and for each (by URL) how many it stands for, itself included.

    Where there are too many kinds, those of most pages go first, after the site's first page; where there are few, the largest
    have a second page looked at, and so on.
    """
    pages = capture.pages()
    if len(pages) <= most:
        return pages, dict.fromkeys((page.url for page in pages), 1)
    kinds = page_kinds(capture)
    order = sorted(kinds, key=lambda kind: (pages[0] not in kind.pages, -len(kind.pages)))
    chosen: list[Exchange] = []
    for turn in range(max(len(kind.pages) for kind in kinds)):
        for kind in order:
            if turn < len(kind.pages) and len(chosen) < most:
                chosen.append(kind.pages[turn])
        if len(chosen) >= most:
            break
    urls = {page.url for page in chosen}
    return [page for page in pages if page.url in urls], _counts(kinds, urls)


def _counts(kinds: Sequence[PageKind], urls: set[str]) -> dict[str, int]:
    """Pages by which one of a kind stands for them: the first of those that were chosen."""
    counts: dict[str, int] = {}
    for kind in kinds:
        of_it = [page.url for page in kind.pages if page.url in urls]
        for number, url in enumerate(of_it):
            counts[url] = 1 if number else len(kind.pages) - len(of_it) + 1
    return counts
