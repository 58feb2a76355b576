"""All texts of a capture, and where each names other files."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from functools import lru_cache
from typing import NamedTuple

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import site_path
from unladen.capture.mediatypes import is_page
from unladen.errors import Notice
from unladen.markup.html import Document
from unladen.markup.references import (
    Reference,
    base_of,
    css_references,
    html_references,
    parse_document,
    script_references,
)
from unladen.markup.text import Text, Undecodable, decode

_CSS = "text/css"


class Use(NamedTuple):
    """A place in a text that names a file."""

    text: Exchange
    reference: Reference


class SiteTexts:
    """Texts and references of a capture, each read once. `notices` says what could not be read."""

    def __init__(self, capture: Capture) -> None:
        self.capture = capture
        self.notices: list[Notice] = []
        self._texts: dict[str, Text | None] = {}
        self._references: dict[str, list[Reference]] = {}
        self._uses: dict[str, list[Use]] | None = None
        self._users: dict[str, set[str]] | None = None
        self._pinned: frozenset[str] | None = None

    def path(self, exchange: Exchange) -> str:
        """A file's path from the root."""
        return site_path(self.capture.base_url, exchange.url)

    def text(self, exchange: Exchange) -> Text | None:
        """A text as found, or None (with a notice) when it cannot be edited."""
        if exchange.url not in self._texts:
            try:
                self._texts[exchange.url] = decode(self.capture.body(exchange))
            except Undecodable as error:
                self._texts[exchange.url] = None
                self.notices.append(Notice(self.path(exchange), str(error)))
        return self._texts[exchange.url]

    def document(self, page: Exchange) -> Document | None:
        """A parsed page."""
        text = self.text(page)
        return parse_document(text.chars) if text else None

    def base(self, exchange: Exchange) -> str:
        """The URL that the references of a page or style sheet count from."""
        text = self.text(exchange)
        return base_of(text.chars, exchange.url) if text and is_page(exchange.media_type) else exchange.url

    def references(self, exchange: Exchange) -> list[Reference]:
        """Where a page, style sheet or script refers to other files."""
        if exchange.url not in self._references:
            text = self.text(exchange)
            references: list[Reference] = []
            if text and is_page(exchange.media_type):
                references = html_references(text.chars, exchange.url)
            elif text and exchange.media_type == _CSS:
                references = css_references(text.chars, exchange.url)
            elif text:
                pages = [self.capture.page(path) for path in sorted(self.users()[exchange.url])]
                references = script_references(text.chars, [self.base(page) for page in pages])
            self._references[exchange.url] = references
        return self._references[exchange.url]

    def users(self) -> dict[str, set[str]]:
        """For each style sheet and script the paths of all pages of the capture that use it, directly or by import."""
        if self._users is None:
            users: dict[str, set[str]] = defaultdict(set)
            for page in self.capture.pages():
                path, waiting = self.path(page), [page]
                while waiting:
                    for reference in self.references(waiting.pop()):
                        if reference.via not in ("stylesheet", "import", "script"):
                            continue
                        file = self.capture.lookup(reference.url)
                        if file is None or not self.capture.owns(file.url) or path in users[file.url]:
                            continue
                        users[file.url].add(path)
                        if file.media_type == _CSS:
                            waiting.append(file)
            self._users = {url: pages for url, pages in users.items() if pages}
        return self._users

    def pinned(self) -> frozenset[str]:
        """The URLs of scripts and style sheets that some page takes as they are or not at all (Subresource
        Integrity).
        """
        if self._pinned is None:
            self._pinned = frozenset(
                exchange.url
                for page in self.capture.pages()
                for reference in self.references(page)
                if reference.element is not None and reference.element.attrs.get("integrity", "").strip()
                if (exchange := self.capture.lookup(reference.url))
            )
        return self._pinned

    def pages_of(self, text: Exchange) -> set[str]:
        """The pages that use a text; a page uses itself."""
        return {self.path(text)} if is_page(text.media_type) else self.users().get(text.url, set())

    def all_uses(self) -> dict[str, list[Use]]:
        """For each file by URL where the texts of the site name it."""
        if self._uses is None:
            uses: dict[str, list[Use]] = defaultdict(list)
            for text in self._all_texts():
                for reference in self.references(text):
                    if exchange := self.capture.lookup(reference.url):
                        uses[exchange.url].append(Use(text, reference))
            self._uses = dict(uses)
        return self._uses

    def within(self, uses: Iterable[Use], pages: Iterable[str], via: Iterable[str] | None = None) -> list[Use]:
        """Those in texts that only these pages use; `via` says how they may name the file."""
        scope = pages if isinstance(pages, frozenset) else frozenset(pages)
        wanted = None if via is None else frozenset(via)
        return [
            use
            for use in uses
            if (wanted is None or use.reference.via in wanted) and self.pages_of(use.text) <= scope
        ]

    def _all_texts(self) -> Iterator[Exchange]:
        yield from self.capture.pages()
        for url in sorted(self.users()):
            if self.text(self.capture.exchanges[url]):
                yield self.capture.exchanges[url]


@lru_cache(maxsize=4)
def texts_of(capture: Capture) -> SiteTexts:
    """The texts of a capture, which never changes; read once for all builds of it."""
    return SiteTexts(capture)
