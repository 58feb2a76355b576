"""A narrower background for phones, by a media query after the rule that sets it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from unladen.capture import Exchange
from unladen.markup.css import CssBlock, background_rule, backgrounds_in, selector_before
from unladen.markup.edits import Edit
from unladen.markup.html import Element
from unladen.markup.references import link_to
from unladen.markup.site import Use
from unladen.raster.formats import picture_format
from unladen.raster.recode import Recipe
from unladen.remedies import fields
from unladen.remedies.change import Change
from unladen.remedies.draft import Draft, Styled
from unladen.remedies.images.replacing import MOST_WIDTH, Coding, recipe_of
from unladen.remedies.images.sources import image_set, styles_around
from unladen.remedies.loader import add_to_head
from unladen.remedies.spec import Remedy
from unladen.work_cache import Outcome


@dataclass(frozen=True, slots=True, kw_only=True)
class PhoneParams(Coding):
    """`width` in px of the file, `below` in CSS px of the window.

    `part`: left, top, width and height in px of what a phone shows, in windows no wider than 3 by 4; none for the
    whole. `avif`: AVIF is offered beside it.
    """

    width: int = fields.whole(1, MOST_WIDTH)
    below: int = fields.whole(1, 4000)
    part: tuple[int, ...] = fields.wholes(0, MOST_WIDTH, (), most=4)
    avif: bool = fields.flag()


def apply(change: Change[PhoneParams], draft: Draft) -> None:
    """Add the queries and the narrower file."""
    for path, image in draft.targets(change):
        done = False
        for version, pages in draft.files.versions(change, image).items():
            format = picture_format(version.exchange.media_type)
            part = change.params.part or version.part
            recipe = recipe_of(change.params, draft, width=change.params.width, format=format, part=part)
            outcome = draft.work_cache.outcome(image.digest, recipe)
            if outcome.refused or outcome.size >= version.exchange.size:
                draft.notice(path, outcome.refused or "would not become smaller")
                continue
            target = draft.files.new_file(image, outcome, change.params.width)
            uses = draft.edits.uses_of(image, pages, {"style"})
            better = _better(change, draft, image, recipe, outcome) if change.params.avif else None
            followed = [_follow(change, draft, use, target, better) for use in uses]
            if any(followed):
                for file in filter(None, (target, better)):
                    draft.files.offer(change, version.exchange, file, pages)
                    draft.files.styled[image.url].append(Styled(_media(change.params), file, chosen=file is better))
                done = True
        if not done:
            draft.notice(path, "is not set by a rule that a media query could follow")


def _better(
    change: Change[PhoneParams], draft: Draft, image: Exchange, recipe: Recipe, other: Outcome
) -> Exchange | None:
    """The same as AVIF, where that is smaller."""
    outcome = draft.work_cache.outcome(image.digest, replace(recipe, format="AVIF"))
    if outcome.refused or outcome.size >= other.size:
        return None
    return draft.files.new_file(image, outcome, change.params.width)


def _copied(chars: str, rule: CssBlock, at: tuple[int, int], image: str) -> str:
    """All that a rule says of its background, with another image: what lies over it belongs to the same declaration."""
    out = []
    for start, end in backgrounds_in(chars, rule):
        text = chars[start:end]
        if start <= at[0] < end:
            opening, closing = chars.rfind("url(", start, at[0]), chars.find(")", at[1]) + 1
            text = chars[start:opening] + image + chars[closing:end]
        out.append(text)
    return ";".join(out)


def _media(params: PhoneParams) -> str:
    shape = " and (max-aspect-ratio:3/4)" if params.part else ""
    return f"(max-width:{params.below}px){shape}"


def _follow(change: Change[PhoneParams], draft: Draft, use: Use, target: Exchange, better: Exchange | None) -> bool:
    text = draft.texts.text(use.text)
    if text is None:
        return False
    raw = text.chars[use.reference.start : use.reference.end]
    link = link_to(target.url, draft.texts.base(use.text), raw)
    images = [f'url("{link}")']
    if better is not None:
        best = (link_to(better.url, draft.texts.base(use.text), raw), better.media_type)
        images.append(image_set((best, (link, target.media_type))))
    element = use.reference.element
    if element is not None and element.tag != "style":
        return _follow_attribute(change, draft, use, element, images)
    place = styles_around(text.chars, use)
    if place is None:
        return False
    chars, shift, _ = place
    at = (use.reference.start - shift, use.reference.end - shift)
    result = background_rule(chars, at[0], layers=True)
    if result is None:
        return False
    rule, declaration = result
    if "gradient(" in declaration.lower():
        declarations = ";".join(_copied(chars, rule, at, image) for image in images)
    else:
        important = "!important" if "!important" in declaration.replace(" ", "").lower() else ""
        declarations = ";".join(f"background-image:{one}{important}" for one in images)
    query = f"@media {_media(change.params)}{{{selector_before(chars, rule)}{{{declarations}}}}}"
    end = rule.end + shift
    return draft.edits.edit(change, use.text, Edit(end, end, query, slot=f"phone{use.reference.start}", adds=True))


def _follow_attribute(
    change: Change[PhoneParams], draft: Draft, use: Use, element: Element, images: Sequence[str]
) -> bool:
    """A rule in the head that overrules what stands in the style of one element, which gets a mark for it."""
    document = draft.texts.document(use.text)
    text = draft.texts.text(use.text)
    if document is None or text is None or not can_follow(text.chars, use):
        return False
    mark = f"u{element.start}"
    declarations = ";".join(f"background-image:{image}!important" for image in images)
    rule = f"@media {_media(change.params)}{{[data-narrow={mark}]{{{declarations}}}}}"
    style = f"<style data-unladen=narrow>{rule}</style>"
    if not draft.edits.edit(change, use.text, document.set_attribute(element, "data-narrow", mark), "data-narrow"):
        return False
    return add_to_head(change, draft, use.text, document, style, f"unladen narrow {mark}")


def can_follow(chars: str, use: Use) -> bool:
    """Whether a media query could follow what names an image: a rule, or the style of an element with nothing over
    it.
    """
    place = styles_around(chars, use)
    if place is None:
        return False
    element = use.reference.element
    in_rule = element is None or element.tag == "style"
    return background_rule(place[0], use.reference.start - place[1], layers=in_rule) is not None


REMEDY = Remedy(
    name="phone",
    phase="images",
    params=PhoneParams,
    title="Smaller backgrounds on phones",
    what="Narrower background images in narrow windows",
    detail=(
        "Adds a narrower background in a media query, cut to the part that upright phones show. For a background in a "
        "style attribute, the page gets a rule."
    ),
    apply=apply,
    needs_new_names=True,
    image_role="beside",
)
