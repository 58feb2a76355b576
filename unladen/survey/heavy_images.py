"""Images larger than they are shown, and images badly compressed: both tried out, never guessed."""

from __future__ import annotations

import math

from unladen.errors import Notice
from unladen.memo import Encoded, Job, Memo
from unladen.plan import Change, Effort
from unladen.progress import Progress
from unladen.raster.probe import ImageInfo, ImageRefused, probe
from unladen.raster.recode import Recipe
from unladen.survey.evidence import Evidence, ImageUse
from unladen.survey.finding import Excess

# A picture as wide as the widest window weighed grows with it on larger screens (common practice, no source).
_FULL_WIDTH_SHARE, _FULL_WIDTH = 0.95, 1920
_WORTH_SHRINKING = 0.85
_PIXEL_FORMATS = ("JPEG", "PNG", "WEBP")


def needed_width(use: ImageUse, effort: Effort) -> tuple[int, str]:
    """The width in px that all showings need, or 0 and the reason why it cannot be told."""
    needed = 0.0
    widest = max((s.device.width for s in use.showings), default=0)
    images = [s.image for s in use.showings if s.image.via == "img"]
    if any(not i.free for i in images) and any(i.free and not i.reservable and not i.reserved for i in images):
        return 0, "gives its box its size in one place and not in another"
    for showings in use.places().values():
        if all(s.image.paint_width <= 0 for s in showings):
            return 0, "is in the page but was not shown at any size"
        for showing in showings:
            image = showing.image
            if image.by_srcset:
                return 0, "is already offered in several sizes"
            if not image.scalable:
                return 0, "is shown in a way that depends on its own size"
            if not image.natural_width:
                return 0, "could not be decoded by the browser"
            if image.via == "img" and not image.free and not image.reservable:
                return 0, "gives its box its size"
            width = image.paint_width * (effort.density or showing.device.density)
            if showing.device.width == widest and image.paint_width >= _FULL_WIDTH_SHARE * widest:
                width = max(width, _FULL_WIDTH)
            needed = max(needed, width)
    return math.ceil(needed), "" if needed else "was loaded but not shown"


def find(
    evidence: Evidence, effort: Effort, memo: Memo, progress: Progress
) -> tuple[list[Excess], list[Notice], dict[str, int]]:
    """Excess and notices, and for every image URL the bytes that would be left of it."""
    capture = evidence.capture
    candidates: list[tuple[ImageUse, ImageInfo, int, str]] = []
    notices: list[Notice] = []
    for use in evidence.images.values():
        try:
            info = probe(capture.body(use.exchange))
            if info.format not in _PIXEL_FORMATS:
                raise ImageRefused(f"is a {info.format} file, which is left as it is")
        except ImageRefused as refused:
            if use.exchange.media_type != "image/svg+xml":
                notices.append(Notice(use.path, str(refused)))
            continue
        width, reason = needed_width(use, effort) if effort.resizes else (0, "")
        width = width if 0 < width <= info.width * _WORTH_SHRINKING else 0
        candidates.append((use, info, width, reason))
    jobs: list[Job] = []
    for use, info, width, _ in candidates:
        jobs += [(use.exchange.digest, recipe) for recipe in _recipes(info, width, effort)]
    outcomes = memo.recode_all(jobs, progress, "survey")
    found: list[Excess] = []
    left: dict[str, int] = {}
    # A style sheet may only be changed when all pages that use it are in scope, shown there or not.
    scope = tuple(evidence.pages)
    for use, info, width, reason in candidates:
        size = use.exchange.size
        if width:
            shrunk = outcomes[(use.exchange.digest, Recipe(width, "", effort.similarity))]
            if not shrunk.refused:
                found.append(_oversized(use, info, width, shrunk, effort, scope))
                size = shrunk.size
            else:
                width, reason = 0, shrunk.refused
        webp = None
        if _to_webp(info):  # not tried yet if shrinking was refused, which is rare
            job = (use.exchange.digest, Recipe(width, "WEBP", effort.similarity))
            webp = outcomes.get(job) or memo.recode(*job)
        if webp is not None and not webp.refused and webp.size < size:
            found.append(_badly_compressed(use, info, webp, size, effort, scope))
            size = webp.size
        elif webp is not None and webp.refused and size == use.exchange.size:
            notices.append(Notice(use.path, webp.refused))
        left[use.exchange.url] = size
    return found, notices, left


def _to_webp(info: ImageInfo) -> bool:
    return info.format in ("JPEG", "PNG")


def _recipes(info: ImageInfo, width: int, effort: Effort) -> list[Recipe]:
    recipes = []
    if width:
        recipes.append(Recipe(width, "", effort.similarity))
    if _to_webp(info):
        recipes.append(Recipe(width, "WEBP", effort.similarity))
    return recipes


def _name(use: ImageUse) -> str:
    return use.path.rsplit("/", 1)[-1]


def _shown_width(use: ImageUse) -> int:
    return round(max((s.image.paint_width for s in use.showings), default=0))


def _facts(use: ImageUse, info: ImageInfo, outcome: Encoded) -> dict[str, object]:
    return {
        "format": info.format,
        "natural": [info.width, info.height],
        "shown": _shown_width(use),
        "to": {"format": outcome.format, "width": outcome.width, "height": outcome.height, "bytes": outcome.size},
        "quality": outcome.quality,
        "likeness": outcome.likeness,
    }


def _oversized(
    use: ImageUse, info: ImageInfo, width: int, outcome: Encoded, effort: Effort, scope: tuple[str, ...]
) -> Excess:
    bound = any(not s.image.free for s in use.showings)
    params = {"width": width, "similarity": effort.similarity, "reserve": bound}
    return _excess(
        use,
        "larger-than-shown",
        f"{_name(use)} is {info.width:,} px wide, shown at {_shown_width(use):,}",
        f"{outcome.width:,} px are enough for sharp screens. The same format at that width was tried out.",
        use.exchange.size,
        outcome,
        Change(f"shrink:{use.path}", "shrink", (use.path,), scope, params),
        info,
    )


def _badly_compressed(
    use: ImageUse, info: ImageInfo, outcome: Encoded, size: int, effort: Effort, scope: tuple[str, ...]
) -> Excess:
    exactly = outcome.quality == 0
    how = "with every pixel as it was" if exactly else f"at quality {outcome.quality}, the lowest that looks the same"
    photo = "photograph" if info.format == "JPEG" else "picture"
    title = f"{_name(use)}: a {photo} kept in an older format"
    if info.format == "PNG" and not exactly:
        title = f"{_name(use)}: a photograph kept as PNG"
    return _excess(
        use,
        "badly-compressed",
        title,
        f"As WebP {how}, it takes {outcome.size:,} bytes. That was tried out.",
        size,
        outcome,
        Change(f"webp:{use.path}", "webp", (use.path,), scope, {"similarity": effort.similarity}),
        info,
    )


def _excess(
    use: ImageUse, kind: str, title: str, why: str, size: int, outcome: Encoded, change: Change, info: ImageInfo
) -> Excess:
    return Excess(
        id=change.id,
        excess=kind,
        kind="images",
        title=title,
        why=why,
        pages=tuple(use.pages),
        bytes=size - outcome.size,
        of_bytes=size,
        requests=0,
        tried=True,
        change=change,
        facts=_facts(use, info, outcome),
    )
