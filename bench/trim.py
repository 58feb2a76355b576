"""How long it takes to trim 1.5 MB of style sheets over fourteen pages, beside matching one selector after the other
with cssselect2.
"""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

import cssselect2  # type: ignore[import-untyped]
import html5lib
import tinycss2

from tests.sites import registry_package
from unladen.capture import BodyStore, Capture
from unladen.capture.files import read_folder
from unladen.markup.html import Document
from unladen.markup.site import texts_of
from unladen.styles.matching import matched_in_source
from unladen.styles.naming import names_in_markup, names_of
from unladen.styles.sheets import names_in_scripts
from unladen.styles.trim import Dead, selectors_in, trimmed

WITHIN, SHARE = 5.0, 0.2  # s for all; of the plain loop's time for a part of it
SIZE = 1_500_000
_SOURCES = (("admin-lte", "4.10.0"), ("bulma", "1.0.2"), ("materialize-css", "1.0.0"), ("bootstrap", "5.3.3"))
_PLAIN = 400  # selectors that the plain loop is given, on one page


def _sheet() -> str:
    sheets = (path.read_text() for name in _SOURCES for path in sorted(registry_package(*name).rglob("*.css")))
    whole = ""
    for sheet in sheets:
        whole += sheet
        if len(whole) >= SIZE:
            break
    return whole


def _trim(chars: str, capture: Capture) -> tuple[float, int]:
    """Seconds to find out what is dead and to take it out, and what is left in bytes."""
    begin = time.perf_counter()
    asked = list(dict.fromkeys(selectors_in(chars)))
    texts = [found.chars for page in capture.pages() if (found := texts_of(capture).text(page))]
    alive: set[str] = set()
    for text in texts:
        alive |= matched_in_source(text, (wanted for wanted in asked if wanted.relaxed not in alive))
    markup = names_of(names_in_markup(text) for text in texts)
    scripts = names_in_scripts(
        texts_of(capture), [*texts_of(capture).users(), *(page.url for page in capture.pages())]
    )
    names = {name.lower() for wanted in asked if wanted.relaxed not in alive for name in wanted.names}
    absent = frozenset(name for name in names if not markup.may_name(name) and not scripts.may_name(name))
    left = trimmed(chars, Dead(absent), lambda name: scripts.may_name(name)).chars
    return time.perf_counter() - begin, len(left)


def _one_by_one(chars: str, page: str) -> tuple[float, float]:
    """Seconds for some selectors on one page with cssselect2, and with our own matcher."""
    asked = [wanted.relaxed for wanted in dict.fromkeys(selectors_in(chars))][:_PLAIN]
    begin = time.perf_counter()
    tree = html5lib.parse(page, namespaceHTMLElements=False)
    root = cssselect2.ElementWrapper.from_html_root(tree)
    for selector in asked:
        compiled = cssselect2.compile_selector_list(tinycss2.parse_component_value_list(selector))
        any(each.test(element) for element in root.iter_subtree() for each in compiled)
    plain = time.perf_counter() - begin
    begin = time.perf_counter()
    document = Document(page)
    for selector in asked:
        document.matching(selector)
    return plain, time.perf_counter() - begin


def measure() -> tuple[str, str, bool]:
    """All pages of a real administration theme."""
    chars = _sheet()
    with tempfile.TemporaryDirectory() as folder:
        capture = read_folder(
            registry_package("startbootstrap-sb-admin-2", "4.1.4"), BodyStore(Path(folder) / "bodies")
        )
        seconds, left = _trim(chars, capture)
        first = texts_of(capture).text(capture.pages()[0])
        assert first is not None
        plain, own = _one_by_one(chars, first.chars)
        pages = len(capture.pages())
    told = (
        f"{len(chars) / 1e6:.1f} MB over {pages} pages in {seconds:.1f} s, {left / len(chars):.0%} left; "
        f"{_PLAIN} selectors on one page in {own / plain:.3f} of the time of cssselect2"
    )
    return told, f"under {WITHIN:.0f} s and {SHARE}", seconds < WITHIN and own / plain < SHARE
