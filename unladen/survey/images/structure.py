"""Pages whose styles or scripts go by what stands around a picture, so that nothing may be put around it."""

from __future__ import annotations

import re
from collections.abc import Iterable

from unladen.survey.site_facts import SiteFacts

_SIBLING = r"(?:>|\+|~)\s*img\b|\bimg(?:[.#\[:][^\s,>+~]*)?\s*[+~]|\bimg[^\s,>+~]*:(?:first|last|only|nth)-"
_IN_SELECTORS = re.compile(_SIBLING, re.I)
# In scripts such selectors stand in quotes.
_IN_SCRIPTS = re.compile(rf"""["'`][^"'`\n]{{0,120}}?(?:{_SIBLING})|children\(\s*["'`]\s*img""", re.I)


class Structure:
    """What is known of a site's pages (by path), each read once."""

    def __init__(self, evidence: SiteFacts) -> None:
        self.evidence = evidence
        self._known: dict[str, bool] = {}

    def counts_on(self, pages: Iterable[str]) -> bool:
        """Whether a rule that matches something on one of these pages, or a script of theirs, asks for an `img` by
        its parent or its neighbours.
        """
        for page in pages:
            if page not in self._known:
                self._known[page] = _asks(self.evidence, page)
            if self._known[page]:
                return True
        return False


def _asks(evidence: SiteFacts, page: str) -> bool:
    weigh_ins = evidence.on(page)
    if any(_IN_SELECTORS.search(selector) for w in weigh_ins for selector in w.facts.matched):
        return True
    for url, asking in evidence.asked_for("scripts").items():
        exchange = evidence.capture.lookup(url)
        text = evidence.texts.text(exchange) if exchange and page in asking else None
        if text and _IN_SCRIPTS.search(text.chars):
            return True
    own = evidence.file(page)
    document = evidence.texts.document(own) if own else None
    text = evidence.texts.text(own) if own else None
    if document is None or text is None:
        return False
    scripts = (element for element in document.elements if element.tag == "script")
    return any(_IN_SCRIPTS.search(text.chars[element.end : element.inner_end]) for element in scripts)
