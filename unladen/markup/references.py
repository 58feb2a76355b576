"""Where a text refers to other files, and what it takes to make a reference point elsewhere."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from urllib.parse import urljoin, urlsplit

from unladen.capture.addresses import canonical, recoded, without_query
from unladen.markup.css import css_urls
from unladen.markup.edits import Edit
from unladen.markup.html import Document, Element
from unladen.markup.srcset import parse_srcset

# Attributes that make a browser fetch an image.
_IMAGE_ATTRIBUTES = {
    "img": ("src", "srcset"), "source": ("srcset",), "input": ("src",), "video": ("poster",),
    "body": ("background",), "table": ("background",), "td": ("background",), "th": ("background",),
    "image": ("href", "xlink:href"), "link": ("href", "imagesrcset"),
}  # fmt: skip

_SAFE = "/-._~!$&*+,;=:@"  # of a path in a link
_IMAGE_NAME = re.compile(r"[^\s\"'`<>\\{}$|^]{1,500}\.(?:jpe?g|png|gif|webp|avif|svg)(?:[?#][^\s\"'`<>\\]*)?", re.I)
_STRING = re.compile(r"([\"'`])(" + _IMAGE_NAME.pattern + r")\1", re.I)
_SCRIPT_TYPES = {"", "text/javascript", "application/javascript", "module"}


@dataclass(frozen=True, slots=True)
class Reference:
    """A place in a text that names a file: the canonical URL, its raw span, and how it is meant.

    `via` is `img`, `srcset`, `picture`, `poster`, `preload`, `icon`, `style`, `import`, `stylesheet`, `script` (the
    file of one), `data` (an attribute that some script reads), `named` (a string in a script) or `other`.
    """

    url: str
    start: int
    end: int
    via: str
    element: Element | None = None


@lru_cache(maxsize=128)
def parse_document(chars: str) -> Document:
    """A parsed page; the same text is parsed once."""
    return Document(chars)


def resolve(base: str, value: str) -> str | None:
    """The canonical absolute http(s) URL of a reference; None for data, fragments and what cannot be parsed."""
    try:
        url = urljoin(base, value.strip())
        return canonical(url) if url.startswith(("http://", "https://")) else None
    except ValueError:
        return None


def html_references(chars: str, page_url: str) -> list[Reference]:
    """References of a page to images and style sheets, also those in its styles."""
    document = parse_document(chars)
    base = urljoin(page_url, document.base)
    references: list[Reference] = []
    for element in document.elements:
        for name in _IMAGE_ATTRIBUTES.get(element.tag, ()):
            if name in element.spans:
                references += _attribute(document, element, name, base)
        if "style" in element.spans and (span := document.value_span(element, "style")):
            references += _css(element.attrs["style"], base, span[0], element)
        references += _data(document, element, base)
        if element.tag == "script":
            if "src" in element.spans:
                references += _attribute(document, element, "src", base)
            elif element.attrs.get("type", "").lower() in _SCRIPT_TYPES:
                references += _named(chars[element.end : element.inner_end], base, element.end, element)
        if element.tag == "style":
            references += _css(chars[element.end : element.inner_end], base, element.end, element)
    return references


def _attribute(document: Document, element: Element, name: str, base: str) -> Iterator[Reference]:
    span = document.value_span(element, name)
    if span is None or (element.inert and element.tag != "image"):
        return
    value = element.attrs[name]
    if name in ("srcset", "imagesrcset"):
        via = "picture" if element.tag == "source" or "picture" in element.ancestors else "srcset"
        for candidate in parse_srcset(value):
            if url := resolve(base, candidate.url):
                yield Reference(url, span[0] + candidate.start, span[0] + candidate.end, via, element)
        return
    via = {"img": "img", "video": "poster", "input": "img", "script": "script"}.get(element.tag, "other")
    if element.tag == "img" and ("picture" in element.ancestors or "srcset" in element.attrs):
        via = "picture" if "picture" in element.ancestors else "srcset"
    if element.tag == "link":
        rel = element.attrs.get("rel", "").lower().split()
        if "stylesheet" in rel:
            via = "stylesheet"
        elif "preload" in rel and element.attrs.get("as") == "image":
            via = "preload"
        elif "icon" in rel or "apple-touch-icon" in rel:
            via = "icon"
        else:
            return
    if url := resolve(base, value):
        start = span[0] + len(value) - len(value.lstrip())
        yield Reference(url, start, start + len(value.strip()), via, element)


def _data(document: Document, element: Element, base: str) -> Iterator[Reference]:
    """Attributes of the page's own that hold nothing but the name of an image."""
    for name in element.attrs:
        if not name.startswith("data-") or name not in element.spans or element.inert:
            continue
        value = element.attrs[name]
        span = document.value_span(element, name) if _IMAGE_NAME.fullmatch(value.strip()) else None
        if span and (url := resolve(base, value)):
            start = span[0] + len(value) - len(value.lstrip())
            yield Reference(url, start, start + len(value.strip()), "data", element)


def script_references(chars: str, bases: Sequence[str]) -> list[Reference]:
    """Strings of a script that name an image file. They count from the pages that use it, given as `bases`.

    A string that means different files on different pages is left out.
    """
    references = [list(_named(chars, base, 0, None)) for base in bases]
    return [same[0] for same in zip(*references, strict=False) if len({reference.url for reference in same}) == 1]


def _named(chars: str, base: str, shift: int, element: Element | None) -> Iterator[Reference]:
    for match in _STRING.finditer(chars):
        if url := resolve(base, match[2]):
            yield Reference(url, shift + match.start(2), shift + match.end(2), "named", element)


def css_references(chars: str, css_url: str) -> list[Reference]:
    """References of a style sheet."""
    return list(_css(chars, css_url, 0, None))


def _css(chars: str, base: str, shift: int, element: Element | None) -> Iterator[Reference]:
    for references in css_urls(chars):
        if url := resolve(base, references.value):
            yield Reference(
                url,
                shift + references.start,
                shift + references.end,
                "import" if references.imported else "style",
                element,
            )


def repoint(chars: str, reference: Reference, new_url: str, base: str) -> Edit:
    """The edit that makes a reference name another file of the site, written as its author wrote the old one.

    In the same folder only the name changes; otherwise the way to it is from `base`, the URL that the text counts from.
    """
    raw = chars[reference.start : reference.end]
    path_end = min((i for i in (raw.find("?"), raw.find("#")) if i >= 0), default=len(raw))
    folder, _, name = without_query(new_url).rpartition("/")
    name = recoded(name, _SAFE)
    if folder == without_query(reference.url).rpartition("/")[0]:
        start = raw.rfind("/", 0, path_end) + 1
        return Edit(reference.start + start, reference.start + path_end, name)
    return Edit(reference.start, reference.start + path_end, link_to(new_url, base, raw))


def link_to(url: str, base: str, like: str = "") -> str:
    """A link to a file of the same site: whole, from the root or relative to `base`, as `like` is written."""
    target, here = urlsplit(url), urlsplit(base)
    if like.startswith(("http:", "https:", "//")) or target.netloc != here.netloc:
        return url
    path, start = recoded(target.path, _SAFE), recoded(here.path, _SAFE)
    if path.startswith("//"):
        return url
    if like.startswith("/") or "//" in path + " " + start:
        return path
    link = posixpath.relpath(path, posixpath.dirname(start) or "/")
    return f"./{link}" if ":" in link.partition("/")[0] else link


def base_of(chars: str, url: str) -> str:
    """The URL that a page's references count from."""
    return urljoin(url, parse_document(chars).base)
