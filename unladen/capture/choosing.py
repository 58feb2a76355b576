"""Some pages of a site, chosen by path, by pattern or by its sitemap."""

from __future__ import annotations

import re
from collections.abc import Iterable
from functools import lru_cache

from unladen.capture.addresses import site_path
from unladen.capture.model import Capture, Exchange
from unladen.capture.sitemaps import sitemap_of
from unladen.errors import BadInput

SITEMAP = "sitemap"


@lru_cache(maxsize=256)
def _pattern(text: str) -> re.Pattern[str]:
    parts = (".*" if part == "*" else re.escape(part) for part in re.split(r"(\*)", text))
    return re.compile("".join(parts), re.S)


def matches(pattern: str, path: str) -> bool:
    """Whether a path such as `/blog/a.html` fits a pattern such as `/blog/*`, in which `*` stands for anything."""
    return _pattern(pattern).fullmatch(path) is not None


def chosen_pages(capture: Capture, wanted: Iterable[str]) -> list[Exchange]:
    """The pages at these paths, those that fit patterns, and for the word `sitemap` those that the site's own sitemap
    names.

    In the order of the capture, all where nothing is said. Raises `BadInput` naming the first that leads to no page.
    """
    pages = capture.pages()
    paths = {page.url: site_path(capture.base_url, page.url) for page in pages}
    chosen: set[str] = set()
    for entry in wanted:
        entry = entry.strip()
        if not entry:
            continue
        if entry == SITEMAP:
            named = (capture.lookup(url) for url in sitemap_of(capture).pages)
            exchanges = {page.url for page in named if page} & paths.keys()
            if not exchanges:
                raise BadInput(SITEMAP, "does not name a page of this site")
        elif "*" in entry:
            exchanges = {url for url, path in paths.items() if matches(entry, path)}
            if not exchanges:
                raise BadInput(entry, "matches no page of the site")
        else:
            exchanges = {capture.page(entry).url}
        chosen |= exchanges
    known = [page for page in pages if page.url in chosen]
    # A page may be named that is none of those that are weighed by themselves.
    extra = [capture.exchanges[url] for url in sorted(chosen - paths.keys())]
    return [*known, *extra] if chosen else pages
