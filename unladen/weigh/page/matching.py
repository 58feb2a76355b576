"""Which rules of a page's style sheets something in the page can match: asked of the browser, at several moments."""

from __future__ import annotations

import asyncio
from functools import lru_cache

from playwright.async_api import Error as PlaywrightError
from playwright.async_api import Page

from unladen.capture import Capture
from unladen.capture.addresses import site_path
from unladen.markup.site import texts_of
from unladen.page_scripts import in_page
from unladen.styles.sheets import sheets_of
from unladen.styles.trim import selectors_in

_MATCHED = in_page("matched")
_WITHIN = 20.0  # s
_MOST = 60_000  # selectors of one page


class Matching:
    """Collects over several moments of one visit what matches.

    `whole` says whether the page has answered each time.
    """

    def __init__(self, selectors: tuple[str, ...]) -> None:
        self._open = list(selectors)
        self._matched: set[str] = set()
        self._names: set[str] = set()
        self._first: list[str] | None = None
        self.whole = len(selectors) <= _MOST

    async def ask(self, page: Page) -> None:
        """Once more, now."""
        try:
            result = await asyncio.wait_for(page.evaluate(_MATCHED, self._open[:_MOST]), _WITHIN)
        except (PlaywrightError, TimeoutError):
            self.whole = False
            return
        self._matched.update(result["matched"])
        self._names.update(result["names"])
        if self._first is None:
            self._first = result["first"]
        self._open = [selector for selector in self._open if selector not in self._matched]

    @property
    def matched(self) -> list[str]:
        """Relaxed selectors that matched, in order; all of them where the page has not answered."""
        return sorted(self._matched if self.whole else {*self._matched, *self._open})

    @property
    def first(self) -> list[str]:
        """Those that matched something of the first view the first time, in order; none where the page did not
        answer.
        """
        return sorted(self._first or ()) if self.whole else []

    @property
    def names(self) -> list[str]:
        """The names that were there."""
        return sorted(self._names)


@lru_cache(maxsize=64)
def selectors_of(capture: Capture, url: str) -> tuple[str, ...]:
    """The relaxed selectors of the style sheets of a page that are of its site, each once."""
    path = site_path(capture.base_url, url)
    selectors: dict[str, None] = {}
    for sheet in sheets_of(texts_of(capture)):
        if path in sheet.pages:
            selectors |= dict.fromkeys(asked.relaxed for asked in selectors_in(sheet.chars))
    return tuple(selectors)
