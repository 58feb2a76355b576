"""An animated GIF as a film that plays by itself. Parameters: `formats`, `width` in px (0: as it is), `similarity`.

The `img` becomes a `video` with its attributes; whether the page's styles treat both alike is for the check to say.
"""

from __future__ import annotations

import html

from unladen.capture import Exchange
from unladen.film.encode import FilmRecipe
from unladen.markup.edits import Edit
from unladen.markup.html import Document, Element
from unladen.markup.references import link_to
from unladen.plan import Change
from unladen.raster.probe import probe
from unladen.remedies.draft import Draft
from unladen.remedies.filming import TYPES

_DROPPED = {"src", "alt", "loading", "decoding", "fetchpriority", "width", "height", "style", "ismap", "usemap"}


def apply(change: Change, draft: Draft) -> None:
    """Put films for the targets into the pages in scope."""
    for path, image in draft.targets(change):
        made: dict[str, Exchange] = {}
        for format in change.params.get("formats", ["AV1", "H264"]):
            similarity = float(change.params.get("similarity", 0.95))
            recipe = FilmRecipe(format, int(change.params.get("width", 0)), similarity, mute=True)
            outcome = draft.memo.recode(image.digest, recipe)
            if outcome.refused:
                draft.notice(path, outcome.refused)
            else:
                made[format] = draft.new_file(image, outcome, outcome.width)
        if "H264" not in made:
            continue  # what every browser plays must be among them
        done = [page for page in change.pages if _put(change, draft, page, image, made)]
        if not done:
            draft.notice(path, "is shown by no image element of the markup that could be exchanged")


def _put(change: Change, draft: Draft, path: str, image: Exchange, made: dict[str, Exchange]) -> bool:
    found = draft.page(path)
    uses = draft.uses_of(image, {path}) if found else []
    elements = [use.reference.element for use in uses if use.text.url == (found[0].url if found else "")]
    if not found or not elements or any(e is None or not can_be_exchanged(e) for e in elements):
        return False
    page, document = found
    for element in elements:
        assert element is not None
        text = _markup(draft, page, document, element, image, made)
        if not draft.take(change, page, element, Edit(element.start, element.end, text, adds=True)):
            return False
    for file in made.values():
        draft.offer(change, image, file, frozenset({path}), measured=True)
    draft.journal.withheld[(image.url, path)] = change.id
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
