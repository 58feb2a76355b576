"""An animated GIF as a film that plays by itself.

The `img` becomes a `video` with its attributes; whether the page's styles treat both alike is for the check to say.
"""

from __future__ import annotations

import html
from dataclasses import dataclass

from unladen.capture import Exchange
from unladen.markup.edits import Edit
from unladen.markup.html import Document, Element
from unladen.markup.references import link_to
from unladen.raster.probe import probe
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.films.elements import TYPES
from unladen.remedies.films.film import FORMATS
from unladen.remedies.images.replacing import width
from unladen.remedies.journal import Withheld
from unladen.remedies.spec import Remedy
from unladen.video.encode import VideoRecipe

_DROPPED = {"src", "alt", "loading", "decoding", "fetchpriority", "width", "height", "style", "ismap", "usemap"}


@dataclass(frozen=True, slots=True, kw_only=True)
class AnimationParams(Params):
    """`formats`, `width` in px (0: as it is), `similarity` to hold."""

    formats: tuple[str, ...] = fields.words(*FORMATS, default=FORMATS)
    width: int = width()
    similarity: float = fields.share(0.95)


def apply(change: Change[AnimationParams], draft: Draft) -> None:
    """Put films for the targets into the pages in scope."""
    params = change.params
    for path, image in draft.targets(change):
        made: dict[str, Exchange] = {}
        for format in params.formats:
            recipe = VideoRecipe(format, params.width, params.similarity, mute=True)
            outcome = draft.work_cache.outcome(image.digest, recipe)
            if outcome.refused:
                draft.notice(path, outcome.refused)
            else:
                made[format] = draft.files.new_file(image, outcome, outcome.width)
        if "H264" not in made:
            continue  # what every browser plays must be among them
        done = [page for page in change.pages if _put(change, draft, page, image, made)]
        if not done:
            draft.notice(path, "is not shown by an image element that could be replaced")


def _put(
    change: Change[AnimationParams], draft: Draft, path: str, image: Exchange, made: dict[str, Exchange]
) -> bool:
    parsed = draft.page(path)
    uses = draft.edits.uses_of(image, {path}) if parsed else []
    elements = [use.reference.element for use in uses if use.text.url == (parsed[0].url if parsed else "")]
    if not parsed or not elements or any(e is None or not can_be_exchanged(e) for e in elements):
        return False
    page, document = parsed
    for element in elements:
        assert element is not None
        text = _markup(draft, page, document, element, image, made)
        if not draft.edits.take(change, page, element, Edit(element.start, element.end, text, adds=True)):
            return False
    for file in made.values():
        draft.files.offer(change, image, file, frozenset({path}), measured=True)
    draft.journal.write(Withheld(change.id, image.url, path))
    return True


def can_be_exchanged(element: Element) -> bool:
    """Whether an element is an image that nothing else gives files to."""
    return (
        element.tag == "img"
        and not element.inert
        and "srcset" not in element.attrs
        and "picture" not in element.ancestors
    )


def _markup(
    draft: Draft, page: Exchange, document: Document, element: Element, image: Exchange, made: dict[str, Exchange]
) -> str:
    info = probe(draft.capture.body(image))
    alt = element.attrs.get("alt", "")
    kept = {
        name: value for name, value in element.attrs.items() if name not in _DROPPED and not name.startswith("on")
    }
    size = {
        name: element.attrs.get(name) or str(value)
        for name, value in (("width", info.width), ("height", info.height))
    }
    names = {"role": "img", "aria-label": alt} if alt else {"aria-hidden": "true"}
    style = f"max-width:100%;{'' if 'height' in element.attrs else 'height:auto;'}{element.attrs.get('style', '')}"
    attributes = kept | size | names | {"style": style}
    written = "".join(f' {name}="{html.escape(value, quote=True)}"' for name, value in attributes.items())
    base, own = draft.texts.base(page), element.attrs.get("src", "")
    sources = "".join(
        f"<source src=\"{html.escape(link_to(file.url, base, own))}\" type='{TYPES[format]}'>"
        for format, file in made.items()
    )
    return f"<video data-instead=img autoplay muted loop playsinline{written}>{sources}</video>"


REMEDY = Remedy(
    name="animations-as-films",
    phase="images",
    params=AnimationParams,
    title="Videos instead of animated GIFs",
    what="Play like the GIF at a fraction of its weight",
    detail="Replaces an animated GIF by a video in AV1 and H.264 that plays by itself. The img becomes a video.",
    apply=apply,
    least_effort="bold",
    may_edit_pages=True,
    needs_new_names=True,
    formerly="endless",
)
