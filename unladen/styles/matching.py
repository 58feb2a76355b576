"""Which selectors something in the source of a page matches."""

from __future__ import annotations

import re
from collections.abc import Iterable

from unladen.markup.html import Document
from unladen.styles.naming import names_in_markup
from unladen.styles.selectors import Wanted

_NOSCRIPT = re.compile(r"(</?)noscript\b", re.I)


def matched_in_source(chars: str, selectors: Iterable[Wanted]) -> set[str]:
    """Relaxed selectors that something matches in a page as written, with what stands there for browsers without
    scripts.
    """
    document = Document(_NOSCRIPT.sub(r"\1div", chars))
    there = names_in_markup(chars).whole | {"div"}
    matches: set[str] = set()
    for wanted in selectors:
        # Most lack a name, and a name is looked up sooner than a selector.
        there_all = all(name[0] == "[" or name.lstrip(".#").lower() in there for name in wanted.names)
        if there_all and wanted.relaxed not in matches and _matches(document, wanted.relaxed):
            matches.add(wanted.relaxed)
    return matches


def _matches(document: Document, selector: str) -> bool:
    try:
        return bool(document.matching(selector))
    except ValueError:
        return True
