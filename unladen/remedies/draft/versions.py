"""Files that changes make, and which file a page shows in the place of another."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field, replace
from functools import lru_cache

from unladen.capture import Exchange
from unladen.capture.addresses import path_of_url, url_of_path
from unladen.capture.mediatypes import media_type_of
from unladen.raster.formats import extension_of
from unladen.remedies.draft.edits import TextEdits
from unladen.remedies.draft.site import AnyChange, SiteView
from unladen.remedies.journal import Added, Edited, Offered, Replaced, Spared
from unladen.work_cache import Outcome, WorkCache


@dataclass(frozen=True, slots=True)
class Version:
    """An image as some pages see it now: its exchange, the width in px it was shrunk to (0: not), and of which part
    it is.

    The part is left, top, width and height in px of the image as found; none for the whole.
    """

    exchange: Exchange
    width: int = 0
    part: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class Styled:
    """A file that styles name in the place of an image, where a media query holds ("": always).

    `chosen`: for browsers that read its format; they have another one besides.
    """

    media: str
    file: Exchange
    chosen: bool = False


def made_file(base_url: str, path: str, new: Outcome) -> Exchange:
    """The exchange of a file that a work has made, at a path below the root."""
    media_type = media_type_of(path)
    url = url_of_path(base_url, path)
    return Exchange(url, 200, (("content-type", media_type),), media_type, new.digest, new.size, "", path)


def beside(base_url: str, found: Exchange, digest: str, suffix: str) -> str:
    """The path of what is made of a file, in its folder and called by its content."""
    folder, _, name = path_of_url(base_url, found.url).rpartition("/")
    return f"{folder}/{name.rpartition('.')[0] or name}-{digest[:8]}{suffix}".lstrip("/")


@lru_cache(maxsize=256)
def _set_of(pages: tuple[str, ...]) -> frozenset[str]:
    return frozenset(pages)


@dataclass(slots=True)
class FileVersions:
    """New files of a draft, and how each page sees each image now.

    `styled`: by the URL of an image, what styles name beside or instead of it.
    """

    site: SiteView
    edits: TextEdits
    work_cache: WorkCache
    in_place: dict[str, Exchange] = field(default_factory=dict)
    styled: dict[str, list[Styled]] = field(default_factory=lambda: defaultdict(list))
    _versions: dict[str, dict[str, Version]] = field(default_factory=lambda: defaultdict(dict))
    _added: dict[str, Exchange] = field(default_factory=dict)
    _offered: set[str] = field(default_factory=set)

    def add(self, exchange: Exchange) -> None:
        """Add a file that takes the place of another for some pages."""
        self._added[exchange.url] = exchange
        self._offered.add(exchange.url)

    def version(self, image: Exchange, page: str) -> Version:
        """How a page (by path) sees an image now."""
        return self._versions[image.url].get(page) or Version(self.in_place.get(image.url, image))

    def versions(self, change: AnyChange, image: Exchange) -> dict[Version, frozenset[str]]:
        """How the pages in a change's scope see an image now."""
        if not self._versions[image.url]:  # by far the most, and there may be thousands
            return {self.version(image, ""): _set_of(change.pages)}
        table: dict[Version, set[str]] = defaultdict(set)
        for page in change.pages:
            table[self.version(image, page)].add(page)
        return {version: frozenset(pages) for version, pages in table.items()}

    def replace_in_place(self, change: AnyChange, image: Exchange, new: Outcome) -> bool:
        """Exchange what is in a file for all pages; whether all that show it are in the change's scope."""
        others = [
            self.site.path(page) for page in self.site.capture.pages() if self.site.path(page) not in change.pages
        ]
        seen = {
            path
            for use in self.edits.uses_of(image, self._every_page())
            for path in self.site.texts.pages_of(use.text)
        }
        if seen.intersection(others):
            self.site.notice(self.site.path(image), "is also shown on a page outside the scope")
            return False
        self.work_cache.hand_over(new)
        old = self.in_place.get(image.url, image)
        target = replace(old, digest=new.digest, size=new.size, packed="", packed_size=0)
        self.in_place[image.url] = target
        sizes = self.site.capture.sent_size(old), self.site.capture.sent_size(target)
        self.site.journal.write(Edited(change.id, image.url, *sizes, frozenset(change.pages)))
        return True

    def _every_page(self) -> frozenset[str]:
        return frozenset(self.site.path(page) for page in self.site.capture.pages())

    def replace_image(
        self,
        change: AnyChange,
        image: Exchange,
        old: Version,
        pages: frozenset[str],
        new: Outcome,
        made_of: tuple[int, tuple[int, ...]],
        via: set[str],
    ) -> bool:
        """Let these pages show another file in the place of an image; whether any reference could be rewritten.

        `made_of`: width and part, as of a version.
        """
        uses = self.edits.uses_of(image, pages, via)
        if not uses:
            return False
        target = self.new_file(image, new, made_of[0])
        for use in uses:
            self.edits.point(change, use, target.url)
        self._added[target.url] = target
        self._replaced(change, old.exchange, target, pages)
        self._versions[image.url] |= dict.fromkeys(pages, Version(target, *made_of))
        return True

    def _replaced(self, change: AnyChange, old: Exchange, target: Exchange, pages: frozenset[str]) -> None:
        sizes = self.site.capture.sent_size(old), self.site.capture.sent_size(target)
        self.site.journal.write(Replaced(change.id, old.url, target.url, *sizes, pages))

    def offer(
        self, change: AnyChange, old: Exchange, target: Exchange, pages: frozenset[str], *, measured: bool = False
    ) -> None:
        """Add a file that these pages may show beside `old`; `measured` as in the journal."""
        self.add(target)
        sizes = self.site.capture.sent_size(old), self.site.capture.sent_size(target)
        self.site.journal.write(Offered(change.id, old.url, target.url, *sizes, pages, measured))

    def make(self, change: AnyChange, target: Exchange, pages: frozenset[str]) -> None:
        """Add a file that takes the place of none."""
        self.add(target)
        self.site.journal.write(Added(change.id, target.url, self.site.capture.sent_size(target), pages))

    def added(self, url: str) -> Exchange:
        """A file that a change made."""
        return self._added[url]

    def added_files(self) -> list[Exchange]:
        """The files made that something shows or offers, by URL."""
        shown = {version.exchange.url for pages in self._versions.values() for version in pages.values()}
        return [exchange for url, exchange in sorted(self._added.items()) if url in shown | self._offered]

    def merge(self, change: AnyChange, kept: Exchange, other: Exchange) -> bool:
        """Let the pages in scope show `kept` where they show `other`, which has the same content."""
        uses = self.edits.uses_of(other, change.pages)
        pages: set[str] = set()
        for use in uses:
            if self.edits.point(change, use, kept.url):
                pages |= self.site.texts.pages_of(use.text)
        if not pages:
            return False
        self.edits.move_uses(kept, other, uses)
        self._replaced(change, other, kept, frozenset(pages))
        for page in sorted(pages):
            if not self.site.journal.spared_by(other.url, page):
                self.site.journal.write(Spared(change.id, other.url, page))
        return True

    def new_file(self, image: Exchange, new: Outcome, width: int) -> Exchange:
        """The exchange of a new file beside an image, under a name that is free."""
        self.work_cache.hand_over(new)
        folder, _, name = path_of_url(self.site.capture.base_url, image.url).rpartition("/")
        stem, _, extension = name.rpartition(".")
        size = f"-{width}w" if width else ""
        size += "-av1" if new.format == "AV1" else ""  # its extension is that of another format too
        suffix = extension_of(new.format)
        if media_type_of("x" + suffix) == media_type_of("x." + extension.lower()):
            suffix = "." + extension
        for extra in ("", "-" + new.digest[:8]):
            path = f"{folder}/{stem or name}{size}{extra}{suffix}".lstrip("/")
            url = url_of_path(self.site.capture.base_url, path)
            known = self.site.capture.exchanges.get(url) or self._added.get(url)
            if known is None or known.digest == new.digest:
                break
        return made_file(self.site.capture.base_url, path, new)
