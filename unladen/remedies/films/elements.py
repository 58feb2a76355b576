"""What the remedies for films share: the `video` elements of a page, and the sources that stand in them."""

from __future__ import annotations

import html
from collections.abc import Iterator
from dataclasses import dataclass, field

from unladen.capture import Exchange
from unladen.markup.edits import Edit
from unladen.markup.html import Document, Element
from unladen.markup.references import link_to, resolve
from unladen.raster.recode import Recipe
from unladen.remedies.draft import AnyChange, Draft
from unladen.video.encode import VideoRecipe

POSTER_SIMILARITY = 0.95  # of what soon moves
# What a browser needs to know to take a source or leave it (RFC 6381; AV1 Codec ISO Media File Format Binding, 5).
TYPES = {"AV1": 'video/mp4; codecs="av01.0.08M.08"', "H264": "video/mp4"}


@dataclass(slots=True)
class FilmSources:
    """What is to stand in one `video`: files with their types, best first, and the window below which none counts."""

    made: list[tuple[str, str]] = field(default_factory=list)
    below: int = 0
    keeps_own: bool = True


@dataclass(frozen=True, slots=True)
class FilmTag:
    """A `video` element that shows a film, by its own `src` or by `source` elements in it."""

    page: Exchange
    document: Document
    element: Element
    sources: tuple[Element, ...]


def tags_of(draft: Draft, change: AnyChange, film: Exchange) -> Iterator[FilmTag]:
    """The elements that show a film on the pages in scope."""
    for path in change.pages:
        if not (parsed := draft.page(path)):
            continue
        page, document = parsed
        base = draft.texts.base(page)

        def shows(element: Element, base: str = base) -> bool:
            url = resolve(base, element.attrs.get("src", ""))
            exchange = draft.capture.lookup(url) if url and element.attrs.get("src") else None
            return exchange is not None and exchange.url == film.url

        for video in document.elements:
            if video.tag != "video" or video.inert:
                continue
            inside = [e for e in document.elements if e.tag == "source" and video.end <= e.start < video.inner_end]
            if shows(video) or any(shows(source) for source in inside):
                yield FilmTag(page, document, video, tuple(inside))


def shown(draft: Draft, change: AnyChange) -> Iterator[tuple[Exchange, FilmTag]]:
    """Every target with each element that shows it; one that none shows is noticed."""
    for path, film in draft.targets(change):
        tags = list(tags_of(draft, change, film))
        if not tags:
            draft.notice(path, "is not shown by a video element")
        for tag in tags:
            yield film, tag


def sources_of(draft: Draft, tag: FilmTag) -> FilmSources:
    """What is to stand in an element so far; to be changed and then handed to `put`."""
    sources: FilmSources = draft.notes.setdefault((tag.page.url, tag.element.start), FilmSources())
    return sources


def put(change: AnyChange, draft: Draft, tag: FilmTag) -> bool:
    """Write the sources of an element into the page; whether that may be done."""
    wanted, element = sources_of(draft, tag), tag.element
    base = draft.texts.base(tag.page)
    own = element.attrs.get("src", "")
    media = f' media="(min-width:{wanted.below + 1}px)"' if wanted.below else ""
    text = ""
    for format, url in wanted.made:
        text += f"<source src=\"{html.escape(link_to(url, base, own))}\" type='{TYPES[format]}'{media}>"
    if own and (wanted.keeps_own or not wanted.made):
        text += f'<source src="{html.escape(own)}"{media}>'
    if own and not draft.edits.edit(change, tag.page, Edit(*element.spans["src"], ""), "src"):
        return False
    if text and not draft.edits.edit(change, tag.page, Edit(element.end, element.end, text, slot="film", adds=True)):
        return False
    for source in tag.sources if media else ():
        if "media" not in source.attrs:
            value = f"(min-width:{wanted.below + 1}px)"
            draft.edits.edit(change, tag.page, tag.document.set_attribute(source, "media", value), "media")
    return True


def first_picture(change: AnyChange, draft: Draft, film: Exchange, tag: FilmTag, width: int) -> str:
    """A link to the film's first picture, `width` px wide (0: as it is), for an element that has none of its own.

    "" where there is none to be had.
    """
    if "poster" in tag.element.attrs:
        return ""
    first = draft.work_cache.outcome(film.digest, VideoRecipe("PNG", width))
    picture = first.refused or draft.work_cache.outcome(
        first.digest, Recipe(format="WEBP", similarity=POSTER_SIMILARITY, always=True)
    )
    if isinstance(picture, str) or picture.refused:
        draft.notice(draft.path(film), picture if isinstance(picture, str) else picture.refused)
        return ""
    file = draft.files.new_file(film, picture, picture.width)
    draft.files.make(change, file, frozenset({draft.path(tag.page)}))
    return link_to(file.url, draft.texts.base(tag.page))
