"""A capture in the course of being changed. Remedies see and change the site through it alone."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Any

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import path_of_url, site_path, url_of_path
from unladen.capture.mediatypes import media_type_of
from unladen.errors import Notice
from unladen.markup.edits import Edit
from unladen.markup.html import Document, Element, MarkupBroken
from unladen.markup.references import repoint
from unladen.markup.site import SiteTexts, Use, texts_of
from unladen.memo import Encoded, Memo
from unladen.plan import Change, ImageSettings
from unladen.remedies.finishing import Pending, edited_text
from unladen.remedies.journal import Journal, Stage

EXTENSIONS = {"JPEG": ".jpg", "PNG": ".png", "WEBP": ".webp", "AVIF": ".avif", "AV1": ".mp4", "H264": ".mp4"}
_SAME_NAMES = "would need another name or an edit of a page, and only files of the same name are wanted"


@dataclass(frozen=True, slots=True)
class Version:
    """An image as some pages see it now: its exchange and the width in px it was shrunk to (0: not)."""

    exchange: Exchange
    width: int = 0


@lru_cache(maxsize=256)
def _set_of(pages: tuple[str, ...]) -> frozenset[str]:
    return frozenset(pages)


@dataclass(slots=True)
class Draft:
    """Collects edits of texts and new versions of images; `finish` makes the lightened capture of them.

    `offers` is room for what remedies know of one place in a text, by its URL and position.
    """

    capture: Capture
    memo: Memo
    settings: ImageSettings = field(default_factory=ImageSettings)
    journal: Journal = field(default_factory=Journal)
    _pending: dict[str, list[Pending]] = field(default_factory=lambda: defaultdict(list))
    _versions: dict[str, dict[str, Version]] = field(default_factory=lambda: defaultdict(dict))
    _added: dict[str, Exchange] = field(default_factory=dict)
    _in_place: dict[str, Exchange] = field(default_factory=dict)
    _offered: set[str] = field(default_factory=set)
    _taken: dict[str, list[tuple[int, int]]] = field(default_factory=lambda: defaultdict(list))
    offers: dict[tuple[str, int], Any] = field(default_factory=dict)
    _moved: dict[str, list[Use]] = field(default_factory=dict)
    texts: SiteTexts = field(init=False)

    def __post_init__(self) -> None:
        self.texts = texts_of(self.capture)

    def exchange(self, path: str) -> Exchange | None:
        """The file as found, by its path from the root."""
        return self.capture.lookup(self.capture.base_url + path.lstrip("/"))

    def path(self, exchange: Exchange) -> str:
        """A file's path from the root."""
        return site_path(self.capture.base_url, exchange.url)

    def targets(self, change: Change) -> Iterator[tuple[str, Exchange]]:
        """The files that a change is for, each with its path; what is not there any more is noticed."""
        for path in change.targets:
            if image := self.exchange(path):
                yield path, image
            else:
                self.notice(path, "is not in the site any more")

    def page(self, path: str) -> tuple[Exchange, Document] | None:
        """A page as found and parsed, by its path; None when it cannot be edited."""
        exchange = self.exchange(path)
        document = self.texts.document(exchange) if exchange else None
        return (exchange, document) if exchange and document else None

    def uses_of(self, image: Exchange, pages: Iterable[str], via: Iterable[str] | None = None) -> list[Use]:
        """Where the texts that only these pages use name an image; `via` says how they may."""
        uses = self._moved.get(image.url)
        return self.texts.within(self.texts.all_uses().get(image.url, []) if uses is None else uses, pages, via)

    def notice(self, name: str, reason: str) -> None:
        """Say in the journal that something was left alone."""
        found = Notice(name, reason)
        if found not in self.journal.notices:
            self.journal.notices.append(found)

    def edit(self, change: Change, exchange: Exchange, edit: Edit, attribute: str = "") -> bool:
        """Plan an edit of a text as found; `attribute` names the HTML attribute that may differ by it.

        Says whether it may be done: not where only files of the same name are wanted.
        """
        if self.settings.same_names:
            self.notice(self.path(exchange), _SAME_NAMES)
            return False
        if any(start < edit.end and edit.start < end for start, end in self._taken[exchange.url]):
            return False  # the tag is another's by now
        self._pending[exchange.url].append(Pending(change.id, edit, attribute))
        return True

    def take(self, change: Change, exchange: Exchange, element: Element, edit: Edit) -> bool:
        """Plan an edit that exchanges a whole tag; from then on no other change may edit it. Whether it may be done."""
        if any(p.edit.start < element.end and p.edit.end > element.start for p in self._pending[exchange.url]):
            self.notice(self.path(exchange), f"has a <{element.tag}> that two changes want to exchange")
            return False
        if not self.edit(change, exchange, edit):
            return False
        self._taken[exchange.url].append((element.start, element.end))
        return True

    def version(self, image: Exchange, page: str) -> Version:
        """How a page (by path) sees an image now."""
        return self._versions[image.url].get(page) or Version(self._in_place.get(image.url, image))

    def versions(self, change: Change, image: Exchange) -> dict[Version, frozenset[str]]:
        """How the pages in a change's scope see an image now."""
        if not self._versions[image.url]:  # by far the most, and there may be thousands
            return {self.version(image, ""): _set_of(change.pages)}
        table: dict[Version, set[str]] = defaultdict(set)
        for page in change.pages:
            table[self.version(image, page)].add(page)
        return {version: frozenset(pages) for version, pages in table.items()}

    def replace_in_place(self, change: Change, image: Exchange, new: Encoded) -> bool:
        """Exchange what is in a file for all pages; whether all that show it are in the change's scope."""
        others = [self.path(page) for page in self.capture.pages() if self.path(page) not in change.pages]
        seen = {path for use in self.uses_of(image, self._every_page()) for path in self.texts.pages_of(use.text)}
        if seen.intersection(others):
            self.notice(self.path(image), "is also shown on a page that stays as it is")
            return False
        old = self._in_place.get(image.url, image)
        target = replace(old, digest=new.digest, size=new.size)
        self._in_place[image.url] = target
        sizes = self.capture.sent_size(old), self.capture.sent_size(target)
        self.journal.stages.append(Stage(change.id, image.url, image.url, *sizes, frozenset(change.pages)))
        return True

    def _every_page(self) -> frozenset[str]:
        return frozenset(self.path(page) for page in self.capture.pages())

    def replace_image(
        self,
        change: Change,
        image: Exchange,
        old: Version,
        pages: frozenset[str],
        new: Encoded,
        width: int,
        via: set[str],
    ) -> bool:
        """Let these pages show another file in the place of an image; whether any reference could be rewritten."""
        uses = self.uses_of(image, pages, via)
        if not uses:
            return False
        target = self.new_file(image, new, width)
        for use in uses:
            self.point(change, use, target.url)
        self._added[target.url] = target
        self.show(change, old.exchange, target, pages)
        self._versions[image.url] |= dict.fromkeys(pages, Version(target, width))
        return True

    def point(self, change: Change, use: Use, url: str) -> bool:
        """Let a reference name another file; whether it may be done."""
        text = self.texts.text(use.text)
        assert text is not None
        element = use.reference.element
        # A reference within the text of a script or style is guarded by the text around it, not by an attribute.
        attribute = "*" if element is not None and use.reference.via != "data" else ""
        if use.reference.via == "data" and element is not None:
            attribute = next(n for n, (start, end) in element.spans.items() if start <= use.reference.start < end)
        return self.edit(
            change, use.text, repoint(text.chars, use.reference, url, self.texts.base(use.text)), attribute
        )

    def show(
        self, change: Change, old: Exchange, target: Exchange, pages: frozenset[str], *, measured: bool = False
    ) -> None:
        """Write down that these pages may ask for `target` where they asked for `old`."""
        sizes = self.capture.sent_size(old), self.capture.sent_size(target)
        self.journal.stages.append(Stage(change.id, old.url, target.url, *sizes, pages, measured))

    def offer(
        self, change: Change, old: Exchange, target: Exchange, pages: frozenset[str], *, measured: bool = False
    ) -> None:
        """Add a file that these pages may show beside `old`; `measured` as for a `Stage`."""
        self._added[target.url] = target
        self._offered.add(target.url)
        self.show(change, old, target, pages, measured=measured)

    def make(self, change: Change, target: Exchange, pages: frozenset[str]) -> None:
        """Add a file that takes the place of none."""
        self._added[target.url] = target
        self._offered.add(target.url)
        size = self.capture.sent_size(target)
        self.journal.stages.append(Stage(change.id, target.url, target.url, 0, size, pages))

    def added(self, url: str) -> Exchange:
        """A file that a change made."""
        return self._added[url]

    def merge(self, change: Change, kept: Exchange, other: Exchange) -> bool:
        """Let the pages in scope show `kept` where they show `other`, which has the same content."""
        uses = self.uses_of(other, change.pages)
        pages: set[str] = set()
        for use in uses:
            if self.point(change, use, kept.url):
                pages |= self.texts.pages_of(use.text)
        if not pages:
            return False
        known = self.texts.all_uses()
        self._moved[kept.url] = [*self._moved.get(kept.url, known.get(kept.url, [])), *uses]
        self._moved[other.url] = [use for use in known[other.url] if use not in uses]
        self.show(change, other, kept, frozenset(pages))
        for page in pages:
            self.journal.spared.setdefault((other.url, page), change.id)
        return True

    def new_file(self, image: Exchange, new: Encoded, width: int) -> Exchange:
        """The exchange of a new file beside an image, under a name that is free."""
        folder, _, name = path_of_url(self.capture.base_url, image.url).rpartition("/")
        stem, _, extension = name.rpartition(".")
        size = f"-{width}w" if width else ""
        size += "-av1" if new.format == "AV1" else ""  # its extension is that of another format too
        suffix = EXTENSIONS[new.format]
        if media_type_of("x" + suffix) == media_type_of("x." + extension.lower()):
            suffix = "." + extension
        for extra in ("", "-" + new.digest[:8]):
            path = f"{folder}/{stem or name}{size}{extra}{suffix}".lstrip("/")
            url = url_of_path(self.capture.base_url, path)
            known = self.capture.exchanges.get(url) or self._added.get(url)
            if known is None or known.digest == new.digest:
                break
        media_type = media_type_of(path)
        return Exchange(url, 200, (("content-type", media_type),), media_type, new.digest, new.size, "", path)

    def finish(self) -> Capture:
        """The lightened capture. A page that would not parse as before is left as found, with a notice."""
        for notice in self.texts.notices:
            self.notice(notice.name, notice.reason)
        changed = [edited for url in sorted(self._pending) if (edited := self._edited(url)) is not None]
        shown = {
            version.exchange.url for pages in self._versions.values() for version in pages.values()
        } | self._offered
        added = [exchange for url, exchange in sorted(self._added.items()) if url in shown]
        return self.capture.with_changes([*changed, *self._in_place.values(), *added])

    def _edited(self, url: str) -> Exchange | None:
        exchange = self.capture.exchanges[url]
        text = self.texts.text(exchange)
        assert text is not None
        try:
            found = edited_text(text, exchange.media_type, exchange.encoding, tuple(self._pending[url]))
        except (MarkupBroken, ValueError) as error:
            self.notice(self.path(exchange), f"{error}; left as found")
            return None
        for change, before, after in found.steps:
            self.journal.stages.append(Stage(change, url, url, before, after))
        return replace(exchange, digest=self.capture.store.put(found.body), size=len(found.body))
