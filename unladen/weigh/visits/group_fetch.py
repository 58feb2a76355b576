"""Pages built like one that a browser has visited: fetched with what they name, without a visit of their own."""

from __future__ import annotations

from urllib.parse import urldefrag, urljoin

from unladen.capture.addresses import canonical
from unladen.capture.mediatypes import is_page
from unladen.capture.recorded import Response
from unladen.markup.html import Document
from unladen.markup.page_groups import PageGroups
from unladen.markup.references import html_references, parse_document
from unladen.markup.text import Undecodable, decode
from unladen.replay.live import LiveServer

_REDIRECTS = (301, 302, 303, 307, 308)
_MOST_REDIRECTS = 5


class VisitedGroups:
    """The kinds of the pages that were visited; a page of one of these need not be."""

    def __init__(self, server: LiveServer) -> None:
        self.server = server
        self._kinds = PageGroups()

    def visited(self, url: str) -> None:
        """Remember the kind of a page that a browser has seen."""
        response = self.server.responses.get((url, "GET"))
        document = _document(response) if response else None
        if document is not None:
            self._kinds.number(document)

    def take(self, url: str) -> tuple[str, list[str]] | None:
        """Where a page is in the end, and its links, once it and what it names is recorded.

        None for one that wants a visit: of a kind of its own, or no page at all.
        """
        final, response = self._followed(url)
        document = _document(response) if response else None
        if response is None or document is None or self._kinds.known(document) is None:
            return None
        text = document.chars
        self.server.take_all(reference.url for reference in html_references(text, final))
        base, links = urljoin(final, document.base), []
        for element in document.elements:
            if element.tag == "a" and element.attrs.get("href"):
                try:
                    links.append(canonical(urldefrag(urljoin(base, element.attrs["href"])).url))
                except ValueError:
                    continue
        return final, links

    def _followed(self, url: str) -> tuple[str, Response | None]:
        response = self.server.take(url)
        for _ in range(_MOST_REDIRECTS):
            if response is None or response.status not in _REDIRECTS:
                break
            location = dict(response.headers).get("location", "")
            try:
                url = canonical(urljoin(url, location))
            except ValueError:
                return url, None
            response = self.server.take(url)
        return url, response


def _document(response: Response) -> Document | None:
    """The page that was answered with; None for anything else."""
    media_type = dict(response.headers).get("content-type", "text/html").partition(";")[0].strip().lower()
    if response.status != 200 or not is_page(media_type):
        return None
    try:
        return parse_document(decode(response.body).chars)
    except Undecodable:
        return None
