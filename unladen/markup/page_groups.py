"""PageGroups of page: pages built alike, of which some can stand for all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import site_path
from unladen.markup.html import Document
from unladen.markup.site import texts_of

_ALIKE = 0.75  # of the ways of building that either of two pages has, those that both have
_ABOVE = 2  # ancestors that count
_CLASSES = 2


@dataclass(frozen=True, slots=True)
class PageGroup:
    """Pages of one structure with the same style sheets and scripts, in the order of the capture; the first stands
    for all.
    """

    pages: tuple[Exchange, ...]


@dataclass(frozen=True, slots=True)
class _Built:
    files: frozenset[str]
    ways: frozenset[tuple[str, ...]]

    def is_like(self, other: _Built) -> bool:
        """Jaccard's index of the ways in which elements stand in one another."""
        both, either = len(self.ways & other.ways), len(self.ways | other.ways)
        return self.files == other.files and (either == 0 or both >= _ALIKE * either)


def page_kinds(capture: Capture) -> list[PageGroup]:
    """All kinds, in the order in which their first pages come. A page that cannot be read is a kind of its own."""
    texts, kinds = texts_of(capture), PageGroups()
    page_kinds: dict[int, list[Exchange]] = {}
    for page in capture.pages():
        page_kinds.setdefault(kinds.number(texts.document(page)), []).append(page)
    return [PageGroup(tuple(pages)) for pages in page_kinds.values()]


class PageGroups:
    """PageGroups as pages come in."""

    def __init__(self) -> None:
        self._first: list[_Built | None] = []
        self._by_files: dict[frozenset[str], list[int]] = {}

    def number(self, document: Document | None) -> int:
        """The number of a page's kind, which is a new one where none before it was built so."""
        result = self.known(document)
        if result is None:
            built = _built(document) if document else None
            result = len(self._first)
            self._first.append(built)
            if built:
                self._by_files.setdefault(built.files, []).append(result)
        return result

    def known(self, document: Document | None) -> int | None:
        """The number of the kind that a page is of; None for one of which there was none yet."""
        built = _built(document) if document else None
        for number in self._by_files.get(built.files, ()) if built else ():
            first = self._first[number]
            if built and first and first.is_like(built):
                return number
        return None


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


def standing_for_all(
    capture: Capture, most: int, among: Sequence[Exchange] | None = None
) -> tuple[list[Exchange], dict[str, str]]:
    """At most so many pages that show all kinds of these (of all), and for each other one, by path, which stands for
    it.

    Where there are too many kinds, those of most pages go first, after the site's first page, and nobody stands for
    the rest; where there are few, the largest have a second page looked at, and so on.
    """
    pages = capture.pages() if among is None else list(among)
    if len(pages) <= most:
        return pages, {}
    wanted = {page.url for page in pages}
    mine = (tuple(page for page in kind.pages if page.url in wanted) for kind in page_kinds(capture))
    kinds = [some for some in mine if some]
    order = sorted(kinds, key=lambda kind: (pages[0] not in kind, -len(kind)))
    chosen: list[Exchange] = []
    for turn in range(max(map(len, kinds))):
        chosen += [kind[turn] for kind in order if turn < len(kind)][: most - len(chosen)]
        if len(chosen) >= most:
            break
    urls = {page.url for page in chosen}
    kin: dict[str, str] = {}
    for kind in kinds:
        first = next((site_path(capture.base_url, page.url) for page in kind if page.url in urls), None)
        if first is not None:
            kin |= {site_path(capture.base_url, page.url): first for page in kind if page.url not in urls}
    return [page for page in pages if page.url in urls], kin
