"""Pictures in the text of pages and style sheets made smaller: tiny ones stay in it, the others become files."""

from __future__ import annotations

from unladen.capture import Exchange
from unladen.capture.addresses import path_of_url
from unladen.capture.mediatypes import is_page
from unladen.markup.data_images import DataImage, data_images
from unladen.markup.edits import Edit
from unladen.markup.references import link_to
from unladen.raster.formats import MEDIA_TYPES, extension_of
from unladen.raster.recode import Recipe
from unladen.remedies.change import Change
from unladen.remedies.draft import Draft, made_file
from unladen.remedies.images.inline import MAX_BYTES, data_url
from unladen.remedies.images.replacing import Coding
from unladen.remedies.spec import Remedy
from unladen.work_cache import Outcome, WorkCache


def recipe_for(similarity: float) -> Recipe:
    """What is made of each picture; its size is not known, so it keeps its own."""
    return Recipe(format="WEBP", similarity=similarity)


def smaller(work_cache: WorkCache, image: DataImage, similarity: float) -> Outcome | None:
    """What becomes of a picture; None where it stays as it is."""
    outcome = work_cache.outcome_of(image.body, recipe_for(similarity))
    return None if outcome.refused else outcome


def stays_in_text(outcome: Outcome) -> bool:
    """Whether a picture is so small by now that a request for it would cost more."""
    return outcome.size <= MAX_BYTES


def apply(change: Change[Coding], draft: Draft) -> None:
    """Treat the pictures in each target, which is a page or a style sheet."""
    for path, text in draft.targets(change):
        read = draft.texts.text(text)
        result = data_images(read.chars, page=is_page(text.media_type)) if read else []
        done = [image for image in result if _treat(change, draft, text, image)]
        if not done:
            draft.notice(path, "holds no image that would become smaller")


def _treat(change: Change[Coding], draft: Draft, text: Exchange, image: DataImage) -> bool:
    outcome = smaller(draft.work_cache, image, change.params.similarity)
    if outcome is None:
        return False
    attribute = "*" if is_page(text.media_type) else ""
    if stays_in_text(outcome):
        url = data_url(draft.work_cache.body(outcome), MEDIA_TYPES[outcome.format])
        return draft.edits.edit(change, text, Edit(image.start, image.end, url), attribute)
    folder = path_of_url(draft.capture.base_url, text.url).rpartition("/")[0]
    path = f"{folder}/picture-{outcome.digest[:8]}{extension_of(outcome.format)}".lstrip("/")
    draft.work_cache.hand_over(outcome)
    file = made_file(draft.capture.base_url, path, outcome)
    link = link_to(file.url, draft.texts.base(text))
    if not draft.edits.edit(change, text, Edit(image.start, image.end, link), attribute):
        return False
    draft.files.make(change, file, frozenset(draft.texts.pages_of(text)))
    return True


REMEDY = Remedy(
    name="data-images",
    phase="images",
    params=Coding,
    title="Lighter data URL images",
    what="Images embedded as base64",
    detail=(
        "Converts a picture in the text of a page or style sheet to WebP: in a file of its own, or in place if it is "
        "tiny. A picture in the text delays the page and loads again with every page."
    ),
    apply=apply,
    may_edit_pages=True,
    needs_new_names=True,
)
