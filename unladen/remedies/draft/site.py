"""A site as found, for remedies: files and pages by path, and the journal of a draft."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import site_path, url_of_site_path
from unladen.errors import Notice
from unladen.markup.html import Document
from unladen.markup.site import SiteTexts, texts_of
from unladen.remedies.change import Change
from unladen.remedies.journal import Journal

AnyChange = Change[Any]


@dataclass(slots=True)
class SiteView:
    """The site as found, its texts, and the journal of what changes do to it."""

    capture: Capture
    journal: Journal = field(default_factory=Journal, kw_only=True)
    texts: SiteTexts = field(init=False)

    def __post_init__(self) -> None:
        self.texts = texts_of(self.capture)

    def exchange(self, path: str) -> Exchange | None:
        """The file as found, by its path from the root, or of another host by its address."""
        return self.capture.lookup(url_of_site_path(self.capture.base_url, path))

    def path(self, exchange: Exchange) -> str:
        """A file's path from the root."""
        return site_path(self.capture.base_url, exchange.url)

    def targets(self, change: AnyChange) -> Iterator[tuple[str, Exchange]]:
        """The files that a change is for, each with its path; targets that are gone are noticed."""
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
        """The pages in a change's scope as found and parsed, each with its path, without pages that cannot be
        edited.
        """
        for path in change.pages:
            if (page := self.page(path)) is not None:
                yield path, *page

    def target_pages(self, change: AnyChange) -> Iterator[tuple[str, Exchange, Document]]:
        """The pages in a change's scope that are its targets, as found and parsed; targets that are gone are
        noticed.
        """
        there = {path for path, _ in self.targets(change)}
        return (entry for entry in self.pages(change) if entry[0] in there)

    def notice(self, name: str, reason: str) -> None:
        """Note in the journal, once, why something stays as it is."""
        notice = Notice(name, reason)
        if notice not in self.journal.notices:
            self.journal.notices.append(notice)
