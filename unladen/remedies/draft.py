"""A capture in the course of being changed. Remedies see and change the site through it alone."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field, replace

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import path_of_url, site_path, url_of_path
from unladen.capture.mediatypes import is_page, media_type_of
from unladen.capture.model import sent_body
from unladen.errors import Notice
from unladen.markup.css import css_urls
from unladen.markup.edits import Edit, apply_edits
from unladen.markup.html import Document, MarkupBroken, edit_html
from unladen.markup.references import Reference, css_references, html_references, parse_document, repoint
from unladen.markup.text import Text, Undecodable, decode
from unladen.memo import Encoded, Memo
from unladen.plan import Change
from unladen.remedies.journal import Journal, Stage

_EXTENSIONS = {"JPEG": ".jpg", "PNG": ".png", "WEBP": ".webp"}


@dataclass(frozen=True, slots=True)
class Version:
    """An image as some pages see it now: its exchange and the width in px it was shrunk to (0: not)."""

    exchange: Exchange
    width: int = 0


@dataclass(slots=True)
class _Pending:
    change: str
    edit: Edit
    attribute: str


@dataclass(slots=True)
class Draft:
    """Collects edits of texts and new versions of images; `finish` makes the lightened capture of them."""

    capture: Capture
    memo: Memo
    journal: Journal = field(default_factory=Journal)
    _pending: dict[str, list[_Pending]] = field(default_factory=lambda: defaultdict(list))
    _versions: dict[tuple[str, str], Version] = field(default_factory=dict)
    _added: dict[str, Exchange] = field(default_factory=dict)
    _texts: dict[str, Text | None] = field(default_factory=dict)
    _references: dict[str, list[Reference]] = field(default_factory=dict)
    _index: dict[str, dict[str, list[Reference]]] = field(default_factory=dict)
    _users: dict[str, set[str]] | None = None

    def exchange(self, path: str) -> Exchange | None:
        """The file as found, by its path from the root."""
        return self.capture.lookup(self.capture.base_url + path.lstrip("/"))

    def text(self, exchange: Exchange) -> Text | None:
        """A text as found, or None (with a notice in the journal) when it cannot be edited."""
        if exchange.url not in self._texts:
            try:
                self._texts[exchange.url] = decode(self.capture.body(exchange))
            except Undecodable as error:
                self._texts[exchange.url] = None
                self.notice(site_path(self.capture.base_url, exchange.url), str(error))
        return self._texts[exchange.url]

    def document(self, page: str) -> Document | None:
        """A parsed page, by its path."""
        exchange = self.exchange(page)
        text = self.text(exchange) if exchange else None
        return parse_document(text.chars) if text else None

    def references(self, exchange: Exchange) -> list[Reference]:
        """Where a page or style sheet refers to other files."""
        if exchange.url not in self._references:
            text = self.text(exchange)
            read = html_references if is_page(exchange.media_type) else css_references
            self._references[exchange.url] = read(text.chars, exchange.url) if text else []
        return self._references[exchange.url]

    def references_to(self, image: Exchange, text: Exchange) -> list[Reference]:
        """Where a page or style sheet refers to this file."""
        if text.url not in self._index:
            index: dict[str, list[Reference]] = defaultdict(list)
            for reference in self.references(text):
                if found := self.capture.lookup(reference.url):
                    index[found.url].append(reference)
            self._index[text.url] = dict(index)
        return self._index[text.url].get(image.url, [])

    def notice(self, name: str, reason: str) -> None:
        """Say in the journal that something was left alone."""
        found = Notice(name, reason)
        if found not in self.journal.notices:
            self.journal.notices.append(found)

    def edit(self, change: Change, exchange: Exchange, edit: Edit, attribute: str = "") -> None:
        """Plan an edit of a text as found; `attribute` names the HTML attribute that may differ by it."""
        self._pending[exchange.url].append(_Pending(change.id, edit, attribute))

    def style_users(self) -> dict[str, set[str]]:
        """For each style sheet the paths of all pages of the capture that use it, directly or by import."""
        if self._users is None:
            users: dict[str, set[str]] = defaultdict(set)
            for page in self.capture.pages():
                waiting = [page]
                while waiting:
                    for reference in self.references(waiting.pop()):
                        sheet = self.capture.lookup(reference.url)
                        if sheet is None or reference.via not in ("stylesheet", "import"):
                            continue
                        if sheet.media_type == "text/css":
                            path = site_path(self.capture.base_url, page.url)
                            if path not in users[sheet.url]:
                                users[sheet.url].add(path)
                                waiting.append(sheet)
            self._users = dict(users)
        return self._users

    def versions(self, change: Change, image: Exchange) -> dict[Version, frozenset[str]]:
        """How the pages in a change's scope see an image now."""
        table: dict[Version, set[str]] = defaultdict(set)
        for page in change.pages:
            table[self._versions.get((image.url, page), Version(image))].add(page)
        return {version: frozenset(pages) for version, pages in table.items()}

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
        target = self._new_file(image, new, width)
        edited = False
        for exchange in self._texts_in_scope(pages):
            for reference in self.references_to(image, exchange):
                if reference.via not in via:
                    continue
                chars = self._texts[exchange.url]
                assert chars is not None
                attribute = "*" if reference.element is not None else ""
                self.edit(change, exchange, repoint(chars.chars, reference, target.url), attribute)
                edited = True
        if not edited:
            return False
        self._added[target.url] = target
        for page in pages:
            self._versions[(image.url, page)] = Version(target, width)
        sizes = old.exchange.size, target.size
        self.journal.stages.append(Stage(change.id, image.url, old.exchange.url, target.url, *sizes, pages))
        return True

    def _texts_in_scope(self, pages: frozenset[str]) -> list[Exchange]:
        found = [exchange for page in sorted(pages) if (exchange := self.exchange(page)) and self.text(exchange)]
        for url, users in sorted(self.style_users().items()):
            if users <= pages and self.text(self.capture.exchanges[url]):
                found.append(self.capture.exchanges[url])
        return found

    def _new_file(self, image: Exchange, new: Encoded, width: int) -> Exchange:
        folder, _, name = path_of_url(self.capture.base_url, image.url).rpartition("/")
        stem, _, extension = name.rpartition(".")
        size = f"-{width}w" if width else ""
        suffix = _EXTENSIONS[new.format] if new.format == "WEBP" else "." + extension
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
        changed = [edited for url in sorted(self._pending) if (edited := self._edited(url)) is not None]
        shown = {version.exchange.url for version in self._versions.values()}
        return self.capture.with_changes([*changed, *(e for url, e in sorted(self._added.items()) if url in shown)])

    def _edited(self, url: str) -> Exchange | None:
        exchange, text, pending = self.capture.exchanges[url], self._texts[url], self._pending[url]
        assert text is not None
        edits = [entry.edit for entry in pending]
        try:
            if is_page(exchange.media_type):
                attributes = {entry.attribute for entry in pending}
                final = edit_html(text.chars, edits, attributes | (_REPOINTED if "*" in attributes else set()))
            else:
                final = apply_edits(text.chars, edits)
                if len(list(css_urls(final))) != len(list(css_urls(text.chars))):
                    raise MarkupBroken("the style sheet would not read as before")
        except (MarkupBroken, ValueError) as error:
            self.notice(site_path(self.capture.base_url, url), f"{error}; left as found")
            return None
        self._journal_edits(exchange, text, pending)
        body = text.encode(final)
        return replace(exchange, digest=self.capture.store.put(body), size=len(body))

    def _journal_edits(self, exchange: Exchange, text: Text, pending: list[_Pending]) -> None:
        """One stage for each change, with the bytes as sent after it and those before it in the order of the plan."""
        before = self.capture.sent_size(exchange)
        for position, change in enumerate(order := list(dict.fromkeys(entry.change for entry in pending))):
            done = set(order[: position + 1])
            chars = apply_edits(text.chars, [entry.edit for entry in pending if entry.change in done])
            after = len(sent_body(text.encode(chars), exchange.encoding)[0])
            self.journal.stages.append(Stage(change, exchange.url, exchange.url, exchange.url, before, after))
            before = after


_REPOINTED = {
    "src", "srcset", "poster", "background", "style", "href", "imagesrcset", "xlink:href", "xlink href", "data",
}  # fmt: skip
