"""The style sheets of a site: its files, and what stands in `style` elements of its pages."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import lru_cache

from unladen.capture import Exchange
from unladen.capture.mediatypes import is_page
from unladen.markup.css import css_urls
from unladen.markup.html import Document, Element
from unladen.markup.references import resolve
from unladen.markup.site import SiteTexts
from unladen.markup.text import Undecodable, decode
from unladen.styles.naming import Names, names_in_script, names_of
from unladen.styles.trim import defined_names

_CSS = "text/css"
_ONE_WORD = re.compile(r"(?:--)?[A-Za-z_][\w-]*")


@dataclass(frozen=True, slots=True)
class Sheet:
    """A style sheet: the file or page that it stands in, its text, and the paths of all pages that use it.

    `start` is where it begins in a page, -1 for a file.
    """

    exchange: Exchange
    chars: str
    pages: frozenset[str]
    start: int = -1


@lru_cache(maxsize=4)
def sheets_of(texts: SiteTexts) -> tuple[Sheet, ...]:
    """All of them that can be read, files first."""
    return tuple(_sheets(texts))


def addresses_of(texts: SiteTexts, sheet: Sheet, file: Exchange) -> frozenset[str]:
    """The addresses by which a sheet names a file, with queries or without."""
    base = texts.base(sheet.exchange)
    urls = {url for result in css_urls(sheet.chars) if (url := resolve(base, result.value))}
    return frozenset(url for url in urls if (known := texts.capture.lookup(url)) and known.url == file.url)


def is_sheet(element: Element) -> bool:
    """Whether it is a style element that counts."""
    return (
        element.tag == "style"
        and element.attrs.get("type", "text/css").lower() in ("", "text/css")
        and not element.inert
    )


def _sheets(texts: SiteTexts) -> Iterator[Sheet]:
    for url, pages in sorted(texts.users().items()):
        exchange = texts.capture.exchanges[url]
        text = texts.text(exchange) if exchange.media_type == _CSS else None
        if text is not None:
            yield Sheet(exchange, text.chars, frozenset(pages))
    for page in texts.capture.pages():
        document = texts.document(page)
        text = texts.text(page)
        if document is None or text is None:
            continue
        for element in document.elements:
            if is_sheet(element):
                yield Sheet(
                    page, text.chars[element.end : element.inner_end], frozenset({texts.path(page)}), element.end
                )


@lru_cache(maxsize=4)
def words_of(texts: SiteTexts) -> Counter[str]:
    """In how many texts of the recording, of whatever host, each word stands (see `names_in_script`)."""
    words: Counter[str] = Counter()
    for exchange in texts.capture:
        words.update(names_in_script(_chars(texts, exchange)).whole)
    return words


@lru_cache(maxsize=2_000)
def named_elsewhere(texts: SiteTexts, sheet: Sheet) -> frozenset[str]:
    """Of the names that a sheet defines (see `defined_names`), those that another text of the recording has in it."""
    whole = _chars(texts, sheet.exchange)
    own = names_in_script(whole).whole
    beside = whole[: sheet.start] + whole[sheet.start + len(sheet.chars) :] if sheet.start >= 0 else ""
    words = names_in_script(beside).whole
    result = set()
    for name in defined_names(sheet.chars):
        if not _ONE_WORD.fullmatch(name):
            others = (_chars(texts, e) for e in texts.capture if e.url != sheet.exchange.url)
            if name in beside.lower() or any(name in chars.lower() for chars in others):
                result.add(name)
        elif name in words or words_of(texts)[name] > (name in own):
            result.add(name)
    return frozenset(result)


def names_in_scripts(texts: SiteTexts, urls: Iterable[str]) -> Names:
    """The names in these scripts and data, and in the scripts that stand in these pages."""
    names_in_scripts = []
    for url in urls:
        exchange = texts.capture.lookup(url)
        if exchange is None or exchange.media_type == _CSS:
            continue
        if not is_page(exchange.media_type):
            names_in_scripts.append(names_in_script(_chars(texts, exchange)))
        elif (document := texts.document(exchange)) is not None:
            names_in_scripts.append(names_in_script("\n".join(_scripts(document))))
    return names_of(names_in_scripts)


def _scripts(document: Document) -> Iterator[str]:
    for element in document.elements:
        if element.tag == "script":
            yield document.chars[element.end : element.inner_end]
        for name, value in element.attrs.items():
            if name.startswith(("on", "data-", "x-", "v-", ":", "@")):
                yield value


def _chars(texts: SiteTexts, exchange: Exchange) -> str:
    """The text of a file of any host, "" for what is none, or only tells of another file's source."""
    if exchange.url.partition("?")[0].endswith(".map"):
        return ""
    if not exchange.media_type.startswith("text/") and not exchange.media_type.endswith(("script", "json", "xml")):
        return ""
    try:
        return decode(texts.capture.body(exchange)).chars
    except Undecodable:
        return ""
