"""A newer format, in the place of the older one, or beside it as a choice of the browser's where the plan wants a
fallback.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from unladen.remedies import fields
from unladen.remedies.change import Change
from unladen.remedies.draft import Draft, Styled
from unladen.remedies.images.replacing import NOWHERE, SAME_SIZE, Coding, recipe_of, replace_images
from unladen.remedies.images.sources import can_be_wrapped, offer_in_style, offer_source
from unladen.remedies.spec import Remedy

_OFFERED = ("WEBP", "AVIF")  # what not every browser reads


@dataclass(frozen=True, slots=True, kw_only=True)
class FormatParams(Coding):
    """`format`: the name of the new one."""

    format: str = fields.word("WEBP", "AVIF", "JPEG", "PNG", default="WEBP")


def apply(change: Change[FormatParams], draft: Draft) -> None:
    """Exchange the file, at the size that an earlier change gave it, or offer another beside it."""
    format = change.params.format
    if draft.images.fallback and format in _OFFERED:
        offer(change, draft, format)
    else:
        recipe = recipe_of(change.params, draft, width=0, format=format)
        replace_images(change, draft, recipe, via=SAME_SIZE, in_place=False)


def offer(change: Change[Any], draft: Draft, format: str) -> None:
    """Offer a smaller file beside each target where the page allows it."""
    for path, image in draft.targets(change):
        for version, pages in draft.files.versions(change, image).items():
            recipe = recipe_of(change.params, draft, width=version.width, format=format, part=version.part)
            outcome = draft.work_cache.outcome(image.digest, recipe)
            if outcome.refused or outcome.size >= version.exchange.size:
                draft.notice(path, outcome.refused or "would not become smaller")
                continue
            target = draft.files.new_file(image, outcome, version.width)
            done = False
            for use in draft.edits.uses_of(image, pages, {"img", "style"}):
                if use.reference.via == "style":
                    if offer_in_style(change, draft, use, version.exchange, target):
                        draft.files.styled[image.url].append(Styled("", target, chosen=True))
                        done = True
                elif can_be_wrapped(use.reference.element):
                    done |= offer_source(change, draft, use, target, outcome.width)
            if done:
                draft.files.offer(change, version.exchange, target, pages)
            else:
                draft.notice(path, NOWHERE)


REMEDY = Remedy(
    name="webp",
    phase="images",
    params=FormatParams,
    title="Convert to WebP",
    what="A format that packs better",
    detail=(
        "Converts to WebP (AVIF, JPEG or PNG by choice), animated GIF and PNG too. The new file replaces the older "
        "format, or stands before it in a picture or image-set."
    ),
    apply=apply,
    needs_new_names=True,
    image_role="file",
)
