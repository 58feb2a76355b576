"""A narrower background for phones, by a media query after the rule that sets it."""

from __future__ import annotations

from dataclasses import dataclass

from unladen.capture import Exchange
from unladen.markup.css import background_rule, selector_before
from unladen.markup.edits import Edit
from unladen.markup.references import link_to
from unladen.markup.site import Use
from unladen.raster.formats import picture_format
from unladen.remedies import fields
from unladen.remedies.change import Change
from unladen.remedies.draft import Draft
from unladen.remedies.images.replacing import MOST_WIDTH, Coding, recipe_of
from unladen.remedies.spec import Remedy


@dataclass(frozen=True, slots=True, kw_only=True)
class PhoneParams(Coding):
    """`width` in px of the file, `below` in CSS px of the window."""

    width: int = fields.whole(1, MOST_WIDTH)
    below: int = fields.whole(1, 4000)


def apply(change: Change[PhoneParams], draft: Draft) -> None:
    """Add the queries and the narrower file."""
    for path, image in draft.targets(change):
        done = False
        for version, pages in draft.versions(change, image).items():
            format = picture_format(version.exchange.media_type)
            recipe = recipe_of(change.params, draft, width=change.params.width, format=format)
            outcome = draft.memo.outcome(image.digest, recipe)
            if outcome.refused or outcome.size >= version.exchange.size:
                draft.notice(path, outcome.refused or "would not get smaller")
                continue
            target = draft.new_file(image, outcome, change.params.width)
            uses = [use for use in draft.uses_of(image, pages, {"style"}) if use.reference.element is None]
            followed = [_follow(change, draft, use, target) for use in uses]
            if any(followed):
                draft.offer(change, version.exchange, target, pages)
                done = True
        if not done:
            draft.notice(path, "is not set by a rule that a media query could follow")


def _follow(change: Change[PhoneParams], draft: Draft, use: Use, target: Exchange) -> bool:
    text = draft.texts.text(use.text)
    if text is None:
        return False
    found = background_rule(text.chars, use.reference.start)
    if found is None:
        return False
    rule, declaration = found
    selector = selector_before(text.chars, rule)
    important = "!important" if "!important" in declaration.replace(" ", "").lower() else ""
    link = link_to(target.url, use.text.url, text.chars[use.reference.start : use.reference.end])
    query = f'@media (max-width:{change.params.below}px){{{selector}{{background-image:url("{link}"){important}}}}}'
    return draft.edit(
        change, use.text, Edit(rule.end, rule.end, query, slot=f"phone{use.reference.start}", adds=True)
    )


REMEDY = Remedy(
    name="phone",
    phase="images",
    params=PhoneParams,
    title="Backgrounds for phones",
    what="A narrower file in narrow windows",
    detail="A narrower background after the rule, in a media query.",
    apply=apply,
    needs_new_names=True,
    image_role="beside",
)
