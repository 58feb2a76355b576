"""Several sizes of one image, of which the browser takes the one that fits (HTML Standard, 4.8.4.3)."""

from __future__ import annotations

from dataclasses import dataclass

from unladen.capture import Exchange
from unladen.markup.site import Use
from unladen.raster.formats import picture_format
from unladen.raster.probe import probe
from unladen.remedies import fields
from unladen.remedies.change import Change
from unladen.remedies.draft import Draft, Version
from unladen.remedies.images import reserve
from unladen.remedies.images.replacing import MOST_WIDTH, Coding, recipe_of
from unladen.remedies.images.sources import can_be_wrapped, offer_source, sources_at, srcset_of
from unladen.remedies.spec import Remedy

_SIZES = r"[A-Za-z0-9.,:()+*/ %-]*"  # all that the value of the attribute needs


@dataclass(frozen=True, slots=True, kw_only=True)
class WidthsParams(Coding):
    """`widths` in px, `sizes`: for each page the value of the attribute.

    `reserve` when a box owes its size to the image, `ratio` when it owes its shape to it.
    """

    widths: tuple[int, ...] = fields.wholes(1, MOST_WIDTH, most=20)
    sizes: dict[str, str] = fields.texts(_SIZES)
    reserve: bool = fields.flag()
    ratio: bool = fields.flag()


def apply(change: Change[WidthsParams], draft: Draft) -> None:
    """Offer the narrower files beside the one that an earlier change left, in the same format."""
    sizes = change.params.sizes
    for path, image in draft.targets(change):
        done = False
        for version, pages in draft.files.versions(change, image).items():
            for page in sorted(pages & sizes.keys()):
                done |= _offer(change, draft, image, version, page, sizes[page])
        if not done:
            draft.notice(path, "is offered in one size only")
        else:
            reserve.keep_boxes(change, draft)


def _offer(
    change: Change[WidthsParams], draft: Draft, image: Exchange, version: Version, page: str, sizes: str
) -> bool:
    uses = [u for u in draft.edits.uses_of(image, {page}, {"img"}) if can_be_wrapped(u.reference.element)]
    if not uses:
        return False
    done = False
    for use in uses:
        offered = sources_at(draft, use)
        if offered is None:
            files = _files(change, draft, image, version, page)
            done |= len(files) > 1 and _set(change, draft, use, files, sizes)
            continue
        for media_type, known in list(offered.sources.items()):
            largest = next(iter(known))
            target = draft.files.added(largest)
            files = _files(change, draft, image, Version(target, known[largest], version.part), page)
            for url, width in files.items():
                done |= offer_source(change, draft, use, draft.files.added(url), width, sizes)
            assert media_type == target.media_type
    return done


def _files(
    change: Change[WidthsParams], draft: Draft, image: Exchange, version: Version, page: str
) -> dict[str, int]:
    """Files by URL with their widths: the largest and those narrower ones that are smaller than the next wider one."""
    largest, part = version.exchange, version.part
    format = picture_format(largest.media_type)
    if not format:
        return {}
    full = version.width or (part[2] if part else probe(draft.capture.body(image)).width)
    files, limit = {largest.url: full}, largest.size
    for narrower in sorted(change.params.widths, reverse=True):
        recipe = recipe_of(change.params, draft, width=narrower, format=format, part=part)
        outcome = draft.work_cache.outcome(image.digest, recipe)
        if outcome.refused or outcome.size >= limit or outcome.width >= full:
            continue
        target = draft.files.new_file(image, outcome, narrower)
        draft.files.offer(change, largest, target, frozenset({page}))
        files[target.url] = outcome.width
        limit = outcome.size
    return files


def _set(change: Change[WidthsParams], draft: Draft, use: Use, files: dict[str, int], sizes: str) -> bool:
    element, document = use.reference.element, draft.texts.document(use.text)
    if element is None or document is None:
        return False
    srcset = srcset_of(files, draft.texts.base(use.text), element.attrs.get("src", ""))
    for name, value in (("srcset", srcset), ("sizes", sizes)):
        if not draft.edits.edit(change, use.text, document.set_attribute(element, name, value), name):
            return False
    return True


REMEDY = Remedy(
    name="widths",
    phase="images",
    params=WidthsParams,
    title="Responsive sizes (srcset)",
    what="The browser takes the one that fits its window",
    detail="Adds narrower files with srcset and sizes.",
    apply=apply,
    may_edit_pages=True,
    needs_new_names=True,
    image_role="beside",
)
