"""Several files for one image, of which the browser takes one: `picture` and `srcset` in pages, `image-set` in styles.

HTML Standard, 4.8.1 "The picture element" and 4.8.4.3 "srcset and sizes"; CSS Images Level 4, 2.4 "image-set()".
"""

from __future__ import annotations

import html
from collections.abc import Sequence
from dataclasses import dataclass, field

from unladen.capture import Exchange
from unladen.markup.css import css_declaration
from unladen.markup.edits import Edit
from unladen.markup.html import Element
from unladen.markup.references import link_to
from unladen.markup.site import Use
from unladen.remedies.draft import AnyChange, Draft

_NO_WRAPPING_IN = {"table", "thead", "tbody", "tfoot", "tr", "picture"}
# It has no box of its own, so that the image stays what it was among its neighbours, such as in a flex container.
_PICTURE = '<picture style="display:contents">'
_BEST_FIRST = ("image/avif", "image/webp")


Named = tuple[str, str]  # a link and the media type of what it names


@dataclass(slots=True)
class Sources:
    """The `source` elements that go before one `img`: by media type the files with their widths (0: not stated)."""

    sources: dict[str, dict[str, int]] = field(default_factory=dict)
    sizes: str = ""

    def markup(self, link: str, base: str) -> str:
        """The text to go before the image."""
        out = [_PICTURE]
        for media_type in _BEST_FIRST:
            if files := self.sources.get(media_type):
                out.append(f'<source type="{media_type}" srcset="{srcset_of(files, base, link)}"')
                out.append(f' sizes="{html.escape(self.sizes)}">' if self.sizes and len(files) > 1 else ">")
        return "".join(out)


def srcset_of(files: dict[str, int], base: str, like: str) -> str:
    """The value of a `srcset` attribute for files by URL with their widths in px, the narrowest first."""
    ordered = sorted(files.items(), key=lambda item: item[1])
    if len(ordered) == 1:
        return html.escape(_link(ordered[0][0], base, like))
    return html.escape(", ".join(f"{_link(url, base, like)} {width}w" for url, width in ordered))


def _link(url: str, base: str, like: str) -> str:
    return link_to(url, base, like).replace(",", "%2C")  # a comma at its end would part candidates


def can_be_wrapped(element: Element | None) -> bool:
    """Whether a `picture` may go around an element."""
    if element is None or element.tag != "img" or element.inert or "srcset" in element.attrs:
        return False
    return not element.ancestors or (
        "picture" not in element.ancestors and element.ancestors[0] not in _NO_WRAPPING_IN
    )


def sources_at(draft: Draft, use: Use) -> Sources | None:
    """What is offered beside the image of a reference so far."""
    element = use.reference.element
    return draft.notes.get((use.text.url, element.start)) if element else None


def offer_source(
    change: AnyChange, draft: Draft, use: Use, target: Exchange, width: int = 0, sizes: str = ""
) -> bool:
    """Put a `source` for another format before an `img`, with a `picture` around both; whether it may be done."""
    element = use.reference.element
    text = draft.texts.text(use.text)
    if element is None or text is None:
        return False
    sources: Sources = draft.notes.setdefault((use.text.url, element.start), Sources())
    sources.sources.setdefault(target.media_type, {})[target.url] = width
    sources.sizes = sizes or sources.sizes
    before = sources.markup(element.attrs.get("src", ""), draft.texts.base(use.text))
    # Where one image follows another, what closes the first comes before what opens the second.
    opening = Edit(element.start, element.start, before, slot="picture 2", adds=True)
    closing = Edit(element.end, element.end, "</picture>", slot="picture 1", adds=True)
    return draft.edits.edit(change, use.text, opening) and draft.edits.edit(change, use.text, closing)


def offer_in_style(change: AnyChange, draft: Draft, use: Use, shown: Exchange, target: Exchange) -> bool:
    """Follow a declaration by one with an `image-set`, for browsers that read it; whether it could be done.

    `shown` is what the declaration names by now, which stands last.
    """
    text = draft.texts.text(use.text)
    place = styles_around(text.chars, use) if text else None
    if text is None or place is None:
        return False
    styles, shift, quote = place
    span = css_declaration(styles, use.reference.start - shift)
    if span is None:
        return False
    start, end = span[0] + shift, span[1] + shift
    parts: dict[tuple[int, int], list[Named]] = draft.notes.setdefault((use.text.url, start), {})
    raw = text.chars[use.reference.start : use.reference.end]
    opening = text.chars.rfind("url(", start, use.reference.start)
    closing = text.chars.find(")", use.reference.end)
    if opening < 0 or closing < 0 or closing > end or "image-set" in text.chars[start:end].lower():
        return False
    link = link_to(shown.url, use.text.url, raw)
    files = parts.setdefault((opening, closing + 1), [(link, shown.media_type)])
    files.insert(0, (link_to(target.url, use.text.url, raw), target.media_type))
    copy, position = "", start
    for (begin, finish), named in sorted(parts.items()):
        copy += text.chars[position:begin] + image_set(named, quote)
        position = finish
    copy += text.chars[position:end]
    attribute = "style" if use.reference.element is not None and use.reference.element.tag != "style" else ""
    return draft.edits.edit(change, use.text, Edit(end, end, ";" + copy, slot="image-set", adds=True), attribute)


def image_set(files: Sequence[Named], quote: str = '"') -> str:
    """A choice among files, the best one first, for browsers to take the first whose format they read."""
    named = (f"url({quote}{link}{quote}) type({quote}{media_type}{quote})" for link, media_type in files)
    return f"image-set({','.join(named)})"


def styles_around(chars: str, use: Use) -> tuple[str, int, str] | None:
    """The styles that hold a reference, by how much what stands in them lies further on in the text, and a quote for
    them.

    None where they cannot be read as they stand.
    """
    element = use.reference.element
    if element is None:
        return chars, 0, '"'
    if element.tag == "style":
        return chars[element.end : element.inner_end], element.end, '"'
    span = element.spans.get("style")
    if span is None or not span[0] <= use.reference.start < span[1]:
        return None
    attribute = chars[span[0] : span[1]]
    quote = attribute[-1]
    begin = attribute.find(quote) + 1
    if quote not in "\"'" or begin == len(attribute) or "&" in attribute:
        return None
    return "a{" + attribute[begin:-1] + "}", span[0] + begin - 2, "'" if quote == '"' else '"'
