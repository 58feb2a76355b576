"""Where a text refers to other files, and what it takes to make a reference point elsewhere."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from urllib.parse import quote, urljoin

from unladen.capture.addresses import canonical, without_query
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


@dataclass(frozen=True, slots=True)
class Reference:
    """A place in a text that names a file: the canonical URL, its raw span, and how it is meant.

    `via` is `img`, `srcset`, `picture`, `poster`, `preload`, `style`, `import`, `stylesheet` or `other`.
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
    found: list[Reference] = []
    for element in document.elements:
        for name in _IMAGE_ATTRIBUTES.get(element.tag, ()):
            if name in element.spans:
                found += _attribute(document, element, name, base)
        if "style" in element.spans and (span := document.value_span(element, "style")):
            found += _css(element.attrs["style"], base, span[0], element)
        if element.tag == "style":
            found += _css(chars[element.end : element.inner_end], base, element.end, element)
    return found


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
    via = {"img": "img", "video": "poster", "input": "img"}.get(element.tag, "other")
    if element.tag == "img" and ("picture" in element.ancestors or "srcset" in element.attrs):
        via = "picture" if "picture" in element.ancestors else "srcset"
    if element.tag == "link":
        rel = element.attrs.get("rel", "").lower().split()
        if "stylesheet" in rel:
            via = "stylesheet"
        elif "preload" in rel and element.attrs.get("as") == "image":
            via = "preload"
        else:
            return
    if url := resolve(base, value):
        start = span[0] + len(value) - len(value.lstrip())
        yield Reference(url, start, start + len(value.strip()), via, element)


def css_references(chars: str, css_url: str) -> list[Reference]:
    """References of a style sheet."""
    return list(_css(chars, css_url, 0, None))


def _css(chars: str, base: str, shift: int, element: Element | None) -> Iterator[Reference]:
    for found in css_urls(chars):
        if url := resolve(base, found.value):
            yield Reference(
                url, shift + found.start, shift + found.end, "import" if found.imported else "style", element
            )


def repoint(chars: str, reference: Reference, new_url: str) -> Edit:
    """The edit that exchanges the file's name in a reference; the folder part stays as its author wrote it.

    The new file must lie in the same folder as the old one.
    """
    raw = chars[reference.start : reference.end]
    path_end = min((i for i in (raw.find("?"), raw.find("#")) if i >= 0), default=len(raw))
    name_start = raw.rfind("/", 0, path_end) + 1
    name = without_query(new_url).rsplit("/", 1)[-1]
    return Edit(reference.start + name_start, reference.start + path_end, quote(name, safe="%-._~!$&*+,;=:@"))
