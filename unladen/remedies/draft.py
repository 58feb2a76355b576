"""A capture in the course of being changed. Remedies see and change the site through it alone."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Collection, Iterable, Iterator
from dataclasses import dataclass, field, replace
from enum import IntEnum
from functools import lru_cache
from typing import Any

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import path_of_url, site_path, url_of_path, url_of_site_path
from unladen.capture.mediatypes import is_page, media_type_of
from unladen.errors import Notice
from unladen.markup.edits import Edit
from unladen.markup.html import Document, Element
from unladen.markup.references import repoint
from unladen.markup.site import SiteTexts, Use, texts_of
from unladen.raster.formats import extension_of
from unladen.remedies.change import Change
from unladen.remedies.journal import Added, Edited, Journal, Offered, Replaced, Spared
from unladen.remedies.settings import Delivery, ImageSettings
from unladen.work_cache import Outcome, WorkCache

NO_EDITS = "needs a new name or an edited page, but the setting allows files of the same name only"
SHARED = "is also used by a page outside the scope"
PINNED = "is protected by an integrity attribute of a page"
AnyChange = Change[Any]


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
class Pending:
    """An edit that a change wants. `attribute` may differ by it; "*" stands for all that name images, "" for none."""

    change: str
    edit: Edit
    attribute: str


class Stage(IntEnum):
    """When a transform has its turn: what goes, before what is written shorter."""

    IMPORTS = 5
    TRIM = 10
    FACES = 12
    BODIES = 15
    FONTS = 20
    MINIFY = 90


@dataclass(frozen=True, slots=True)
class Transform:
    """What a change makes of a whole text, after all edits by position. Lower stages come first. `names`: addresses
    that a style sheet may name by it and did not before.

    `make` is a pure function of the text that raises `ValueError` with the reason when it cannot do its work; it must
    be hashable, so that the same work on the same text is done once.
    """

    change: str
    stage: Stage
    make: Callable[[str], str]
    names: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Copy:
    """A text that some pages get for themselves, since others that name it stay as they are: `change` came first."""

    change: AnyChange
    pages: frozenset[str]
    transforms: list[Transform] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Styled:
    """A file that styles name in the place of an image, where a media query holds ("": always).

    `chosen`: for browsers that read its format; they have another one besides.
    """

    media: str
    file: Exchange
    chosen: bool = False


def named(url: str) -> str:
    """What stands in the text of an edit for a link to a file as found, whatever it is called for the page in the
    end.
    """
    return f"\0{url}\0"


def text_of(url: str) -> str:
    """What stands in the text of an edit for the text of a file as found, whatever becomes of that for the page in
    the end.
    """
    return f"\1{url}\1"


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
class Draft:
    """Collects edits and transforms of texts and new versions of files; the build makes a capture of them.

    `kept` gives the selectors of elements that a remedy must not edit, by its name. `notes` is room for what remedies
    know of one place in a text, by its URL and position. `packed` are the URLs of texts to be packed ahead of time
    once they are as they will be, each with the change that wants it. `copies` are of the texts of these URLs.
    `lifetimes`: for how many s browsers may keep files, by URL. `trial`: what comes of it is only looked at.
    `styled`: by the URL of an image what styles name beside or instead of it.
    """

    capture: Capture
    work_cache: WorkCache
    images: ImageSettings = field(default_factory=ImageSettings)
    delivery: Delivery = field(default_factory=Delivery)
    kept: Callable[[str], Collection[str]] = lambda _: ()
    trial: bool = False
    journal: Journal = field(default_factory=Journal)
    pending: dict[str, list[Pending]] = field(default_factory=lambda: defaultdict(list))
    transforms: dict[str, list[Transform]] = field(default_factory=lambda: defaultdict(list))
    copies: dict[str, Copy] = field(default_factory=dict)
    packed: dict[str, str] = field(default_factory=dict)
    lifetimes: dict[str, int] = field(default_factory=dict)
    in_place: dict[str, Exchange] = field(default_factory=dict)
    notes: dict[tuple[str, int], Any] = field(default_factory=dict)
    texts: SiteTexts = field(init=False)
    styled: dict[str, list[Styled]] = field(default_factory=lambda: defaultdict(list))
    _versions: dict[str, dict[str, Version]] = field(default_factory=lambda: defaultdict(dict))
    _added: dict[str, Exchange] = field(default_factory=dict)
    _offered: set[str] = field(default_factory=set)
    _taken: dict[str, list[tuple[int, int]]] = field(default_factory=lambda: defaultdict(list))
    _moved: dict[str, list[Use]] = field(default_factory=dict)
    _spans: dict[tuple[str, tuple[str, ...]], list[tuple[int, int]]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.texts = texts_of(self.capture)

    def exchange(self, path: str) -> Exchange | None:
        """The file as found, by its path from the root, or of another host by its address."""
        return self.capture.lookup(url_of_site_path(self.capture.base_url, path))

    def path(self, exchange: Exchange) -> str:
        """A file's path from the root."""
        return site_path(self.capture.base_url, exchange.url)

    def targets(self, change: AnyChange) -> Iterator[tuple[str, Exchange]]:
        """The files that a change is for, each with its path; what is not there any more is noticed."""
        for path in change.targets:
            if image := self.exchange(path):
                yield path, image
            else:
                self.notice(path, "is no longer in the site")

    def page(self, path: str) -> tuple[Exchange, Document] | None:
        """A page as found and parsed, by its path; None when it cannot be edited."""
        exchange = self.exchange(path)
        document = self.texts.document(exchange) if exchange else None
        return (exchange, document) if exchange and document else None

    def pages(self, change: AnyChange) -> Iterator[tuple[str, Exchange, Document]]:
        """The pages in a change's scope as found and parsed, each with its path; those that cannot be edited are left
        out.
        """
        for path in change.pages:
            if (found := self.page(path)) is not None:
                yield path, *found

    def target_pages(self, change: AnyChange) -> Iterator[tuple[str, Exchange, Document]]:
        """The same of those among them that are its targets; what is not there any more is noticed."""
        there = {path for path, _ in self.targets(change)}
        return (entry for entry in self.pages(change) if entry[0] in there)

    def uses_of(self, image: Exchange, pages: Iterable[str], via: Iterable[str] | None = None) -> list[Use]:
        """Where the texts that only these pages use name an image; `via` says how they may."""
        uses = self._moved.get(image.url)
        return self.texts.within(self.texts.all_uses().get(image.url, []) if uses is None else uses, pages, via)

    def notice(self, name: str, reason: str) -> None:
        """Say in the journal that something was left alone."""
        found = Notice(name, reason)
        if found not in self.journal.notices:
            self.journal.notices.append(found)

    def edit(self, change: AnyChange, exchange: Exchange, edit: Edit, attribute: str = "") -> bool:
        """Plan an edit of a text as found; `attribute` names the HTML attribute that may differ by it.

        Says whether it may be done: not to a page where only files of the same name are wanted.
        """
        if self.delivery.same_names and is_page(exchange.media_type):
            self.notice(self.path(exchange), NO_EDITS)
            return False
        if any(start < edit.end and edit.start < end for start, end in self._taken[exchange.url]):
            return False  # the tag is another's by now
        if self._is_kept(change, exchange, edit):
            self.notice(self.path(exchange), "has a part on the keep list")
            return False
        self.pending[exchange.url].append(Pending(change.id, edit, attribute))
        return True

    def _is_kept(self, change: AnyChange, exchange: Exchange, edit: Edit) -> bool:
        """Whether an edit lies within an element that is kept as it is."""
        selectors = self.kept(change.remedy)
        if not selectors or not is_page(exchange.media_type):
            return False
        key = (exchange.url, tuple(selectors))
        if key not in self._spans:
            document = self.texts.document(exchange)
            found = [e for selector in selectors for e in document.matching(selector)] if document else []
            self._spans[key] = [(e.start, max(e.end, e.inner_end)) for e in found]
        return any(start <= edit.start and edit.end <= end for start, end in self._spans[key])

    def transform(
        self,
        change: AnyChange,
        exchange: Exchange,
        stage: Stage,
        make: Callable[[str], str],
        names: tuple[str, ...] = (),
    ) -> bool:
        """Plan a transform of a whole text (see `Transform`); whether it may be done, as for an edit.

        Where pages that stay as they are use the text too, those in scope get a copy of their own.
        """
        if self.delivery.same_names and is_page(exchange.media_type):
            self.notice(self.path(exchange), NO_EDITS)
            return False
        if exchange.url in self.texts.pinned():
            self.notice(self.path(exchange), PINNED)
            return False
        transform = Transform(change.id, stage, make, names)
        users = self.texts.users().get(exchange.url, set())
        if users <= set(change.pages):
            self.transforms[exchange.url].append(transform)
            return True
        copy = self._copy_for(change, exchange, frozenset(users.intersection(change.pages)))
        if copy is None:
            self.notice(self.path(exchange), SHARED)
            return False
        copy.transforms.append(transform)
        return True

    def _copy_for(self, change: AnyChange, exchange: Exchange, pages: frozenset[str]) -> Copy | None:
        """The copy of a text for these pages; None where they do not name it by themselves, or have none of their
        own.
        """
        known = self.copies.get(exchange.url)
        if known is not None:
            return known if known.pages == pages else None
        named = {self.path(use.text) for use in self.naming(exchange, pages) if is_page(use.text.media_type)}
        if self.delivery.same_names or not pages or named != pages:
            return None
        return self.copies.setdefault(exchange.url, Copy(change, pages))

    def naming(self, exchange: Exchange, pages: Iterable[str]) -> list[Use]:
        """Where texts that only these pages use ask for a style sheet or script."""
        return self.uses_of(exchange, pages, ("stylesheet", "import", "script"))

    def add(self, exchange: Exchange) -> None:
        """Add a file that takes the place of another for some pages."""
        self._added[exchange.url] = exchange
        self._offered.add(exchange.url)

    def take(self, change: AnyChange, exchange: Exchange, element: Element, edit: Edit) -> bool:
        """Plan an edit that exchanges a whole tag; from then on no other change may edit it. Whether it may be done."""
        if any(p.edit.start < element.end and p.edit.end > element.start for p in self.pending[exchange.url]):
            self.notice(self.path(exchange), f"has a <{element.tag}> that two changes want to exchange")
            return False
        if not self.edit(change, exchange, edit):
            return False
        self._taken[exchange.url].append((element.start, element.end))
        return True

    def is_held(self, exchange: Exchange, element: Element) -> bool:
        """Whether a change before this one has seen to it that a script of a page does not run by itself."""
        return any(
            p.attribute == "type" and element.start < p.edit.end <= element.end for p in self.pending[exchange.url]
        )

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
        others = [self.path(page) for page in self.capture.pages() if self.path(page) not in change.pages]
        seen = {path for use in self.uses_of(image, self._every_page()) for path in self.texts.pages_of(use.text)}
        if seen.intersection(others):
            self.notice(self.path(image), "is also shown on a page outside the scope")
            return False
        self.work_cache.hand_over(new)
        old = self.in_place.get(image.url, image)
        target = replace(old, digest=new.digest, size=new.size, packed="", packed_size=0)
        self.in_place[image.url] = target
        sizes = self.capture.sent_size(old), self.capture.sent_size(target)
        self.journal.write(Edited(change.id, image.url, *sizes, frozenset(change.pages)))
        return True

    def _every_page(self) -> frozenset[str]:
        return frozenset(self.path(page) for page in self.capture.pages())

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
        uses = self.uses_of(image, pages, via)
        if not uses:
            return False
        target = self.new_file(image, new, made_of[0])
        for use in uses:
            self.point(change, use, target.url)
        self._added[target.url] = target
        self._replaced(change, old.exchange, target, pages)
        self._versions[image.url] |= dict.fromkeys(pages, Version(target, *made_of))
        return True

    def point(self, change: AnyChange, use: Use, url: str) -> bool:
        """Let a reference name another file; whether it may be done."""
        text = self.texts.text(use.text)
        assert text is not None
        element = use.reference.element
        # A reference within the text of a script or style is guarded by the text around it, not by an attribute.
        attribute = "*" if element is not None and use.reference.via != "data" else ""
        if use.reference.via == "data" and element is not None:
            attribute = next(n for n, (start, end) in element.spans.items() if start <= use.reference.start < end)
        edit = repoint(text.chars, use.reference, url, self.texts.base(use.text))
        return self.edit(change, use.text, edit, attribute)

    def _replaced(self, change: AnyChange, old: Exchange, target: Exchange, pages: frozenset[str]) -> None:
        sizes = self.capture.sent_size(old), self.capture.sent_size(target)
        self.journal.write(Replaced(change.id, old.url, target.url, *sizes, pages))

    def offer(
        self, change: AnyChange, old: Exchange, target: Exchange, pages: frozenset[str], *, measured: bool = False
    ) -> None:
        """Add a file that these pages may show beside `old`; `measured` as in the journal."""
        self.add(target)
        sizes = self.capture.sent_size(old), self.capture.sent_size(target)
        self.journal.write(Offered(change.id, old.url, target.url, *sizes, pages, measured))

    def make(self, change: AnyChange, target: Exchange, pages: frozenset[str]) -> None:
        """Add a file that takes the place of none."""
        self.add(target)
        self.journal.write(Added(change.id, target.url, self.capture.sent_size(target), pages))

    def added(self, url: str) -> Exchange:
        """A file that a change made."""
        return self._added[url]

    def added_files(self) -> list[Exchange]:
        """The files made that something shows or offers, by URL."""
        shown = {version.exchange.url for pages in self._versions.values() for version in pages.values()}
        return [exchange for url, exchange in sorted(self._added.items()) if url in shown | self._offered]

    def merge(self, change: AnyChange, kept: Exchange, other: Exchange) -> bool:
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
        self._replaced(change, other, kept, frozenset(pages))
        for page in sorted(pages):
            if not self.journal.spared_by(other.url, page):
                self.journal.write(Spared(change.id, other.url, page))
        return True

    def new_file(self, image: Exchange, new: Outcome, width: int) -> Exchange:
        """The exchange of a new file beside an image, under a name that is free."""
        self.work_cache.hand_over(new)
        folder, _, name = path_of_url(self.capture.base_url, image.url).rpartition("/")
        stem, _, extension = name.rpartition(".")
        size = f"-{width}w" if width else ""
        size += "-av1" if new.format == "AV1" else ""  # its extension is that of another format too
        suffix = extension_of(new.format)
        if media_type_of("x" + suffix) == media_type_of("x." + extension.lower()):
            suffix = "." + extension
        for extra in ("", "-" + new.digest[:8]):
            path = f"{folder}/{stem or name}{size}{extra}{suffix}".lstrip("/")
            url = url_of_path(self.capture.base_url, path)
            known = self.capture.exchanges.get(url) or self._added.get(url)
            if known is None or known.digest == new.digest:
                break
        return made_file(self.capture.base_url, path, new)
