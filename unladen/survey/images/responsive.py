"""One size for all screens: what a narrower file would save on phones, by `srcset` and by media query."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from itertools import combinations
from typing import Any, Literal

from unladen.markup.site import Use
from unladen.raster.codec import FORMATS
from unladen.raster.sight import usual_density
from unladen.remedies import Change
from unladen.remedies.images.phone import PhoneParams, can_follow
from unladen.remedies.images.widths import WidthsParams
from unladen.survey.findings import Facts, Finding
from unladen.survey.images.candidates import Candidate, ImageSurvey
from unladen.survey.images.needs import cap_of, density_of, even_width, keeps_shape, tallest
from unladen.survey.images.parts import part_on_phones
from unladen.survey.images.sizes import PHONE_WINDOW, Line, capped, chosen, lines_of, sizes_text, width_at
from unladen.survey.site_facts import Showing
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.records.conditions import DEVICES
from unladen.work_cache import Job

_WORTH_A_FILE = 1.1  # times a width; nearer ones differ too little
_MOST_WIDTHS, _MOST_TRIED = 4, 14
_WORTH_ONE_MORE = 0.97  # of what visitors fetch with one file less
_BYTES_BY_WIDTH = 1.6
# Windows that are common, in CSS px, and which share of those who come without a phone have a tablet (common practice,
# no source).
_WINDOWS = {"phone": (360, 390, 412), "tablet": (768, 820, 1024), "desktop": (1280, 1366, 1536, 1920)}
_TABLETS = 0.1
_WORTH = 4_000  # bytes on one device
NARROWEST = 120  # px
_ROUNDING = 1.005  # lengths in `sizes` are rounded up


@dataclass(frozen=True, slots=True, kw_only=True)
class SizesFacts(Facts):
    """An image offered in one size: px as found, bytes of the further files by width in px, and `sizes` by page."""

    about: Literal["sizes"] = "sizes"
    format: str
    natural: list[int]
    files: dict[int, int]
    sizes: dict[str, str] = field(default_factory=dict)


def find(context: Context) -> Found:
    """Excess of images that a phone gets as large as a desktop."""
    survey = context.before["heavy images"].notes
    assert isinstance(survey, ImageSurvey)
    if not survey.settings.widths or not survey.effort.resizes:
        return Found()
    lossy = [c for c in survey.candidates if c.similarity < 1 and c.info.frames == 1]
    wanted = [c for c in lossy if c.format in FORMATS]
    # Once round to learn which files are to be tried out, all of them at once, and once more with what came of it.
    jobs: list[Job] = []
    for candidate in wanted:
        _widths(survey, candidate, jobs)
        _background(survey, candidate, jobs)
    survey.work_cache.outcomes(jobs, survey.progress, "survey")
    findings = [excess for c in wanted for excess in (_widths(survey, c), _background(survey, c))]
    return Found(tuple(excess for excess in findings if excess))


def _phones(survey: ImageSurvey, candidate: Candidate) -> list[Showing]:
    phones = [s for s in candidate.use.sized() if s.device.mobile and s.device.width <= PHONE_WINDOW]
    return [s for s in phones if survey.evidence.view_width(s) <= PHONE_WINDOW]


def _phone_need(survey: ImageSurvey, showing: Showing) -> float:
    density = min(density_of(survey.effort, survey.settings) or showing.device.density, showing.device.density)
    return min(showing.image.paint_width * density, cap_of(showing, survey.settings))


def _widths(survey: ImageSurvey, c: Candidate, asked: list[Job] | None = None) -> Finding | None:
    images = [s.image for s in c.use.sized()]
    phones = [s for s in _phones(survey, c) if s.image.paint_width > 0]
    if not phones or any(i.via != "img" or i.by_srcset or not i.scalable for i in images):
        return None
    if any(not i.free and not i.reservable for i in images):
        return None  # its box would take its size from whatever file came
    full, tall = c.full, tallest(c.use)
    lines = {page: _lines(survey, c, page, phones) for page in c.use.pages}
    sizes = {page: result for page, result in lines.items() if result}
    asked_for = _asked_for(sizes.values(), survey.settings.phones)
    steps = best_widths(asked_for, full)
    widths = list(dict.fromkeys(even_width(c.shape, width, survey.settings, tall) for width in steps))
    widths = [width for width in widths if width * _WORTH_A_FILE <= full]
    if not widths:
        return None
    files = _try(survey, c, widths, asked)
    saved = 0
    for showing in c.use.showings:
        if showing.page in sizes and files:
            size = max(1.0, width_at(sizes[showing.page], showing.device.width))
            taken = chosen([*files, full], size, showing.device.density)
            saved = max(saved, c.size - files.get(taken, c.size))
    if saved < _WORTH:
        return None
    params = WidthsParams(
        widths=tuple(sorted(files)),
        sizes={page: sizes_text(result) for page, result in sorted(sizes.items())},
        similarity=c.similarity,
        reserve=any(not i.free for i in images),
        ratio=any(not i.boxed for i in images) and not all(keeps_shape(c.shape, width, tall) for width in files),
        density=c.narrow_density,
        veil=c.veil,
    )
    change = Change(f"widths:{c.use.path}", "widths", (c.use.path,), tuple(sorted(sizes)), params)
    why = f"Files of {', '.join(f'{w:,}' for w in sorted(files))} px beside the one of {full:,} px were tried out."
    facts = SizesFacts(format=c.format, natural=[c.info.width, c.info.height], files=files, sizes=params.sizes)
    title = f"{c.name}: one size of {full:,} px for all screens"
    return _excess(c, change, title, why, saved, facts)


def _asked_for(pages: Iterable[Sequence[Line]], phones: int) -> list[tuple[float, float]]:
    """How many px windows of all classes ask for (CSS px times density), and how many visits of a hundred that is."""
    rest = 100 - phones
    visits = {"phone": phones, "tablet": rest * _TABLETS, "desktop": rest * (1 - _TABLETS)}
    asked = []
    for lines in pages:
        for name, windows in _WINDOWS.items():
            sizes = (width_at(lines, window) for window in windows)
            weight = visits[name] / len(windows)
            asked += [(size * DEVICES[name].density * _ROUNDING, weight) for size in sizes if size > 0]
    return asked


def best_widths(asked_for: Sequence[tuple[float, float]], full: int) -> list[int]:
    """The widths (px) with which visitors fetch the least, each visit weighted by how often it comes.

    At most four, from `NARROWEST` on and below `full`.

    A browser takes the narrowest file that is wide enough, and bytes grow with the area to the power of 0.8 or so
    (common practice, no source). What one more file saves must be worth it; none where one size is best.
    """
    needs = sorted({need for need in (max(NARROWEST, math.ceil(px)) for px, _ in asked_for) if need < full})
    needs = needs[:: max(1, math.ceil(len(needs) / _MOST_TRIED))]

    def cost(widths: tuple[int, ...]) -> float:
        files = (*widths, full)
        return sum(
            weight * min((w for w in files if w >= need), default=full) ** _BYTES_BY_WIDTH
            for need, weight in asked_for
        )

    best: tuple[int, ...] = ()
    for count in range(1, _MOST_WIDTHS + 1):
        result = min(combinations(needs, count), key=cost, default=())
        if not result or cost(result) > cost(best) * _WORTH_ONE_MORE:
            break
        best = result
    return list(best)


def _lines(survey: ImageSurvey, c: Candidate, page: str, phones: list[Showing]) -> list[Line]:
    share = c.shape.width / c.info.width  # the file is of what the frames show
    points = [(w, width * share) for w, width in survey.evidence.widths_on(page, c.use.exchange.url)]
    lines = lines_of(points)
    here = [s for s in phones if s.page == page]
    if not lines or not here:
        return lines
    asked = max(width_at(lines, s.device.width) * s.device.density for s in here)
    needed = max(_phone_need(survey, s) for s in here) * share
    # Where less is wanted than the screen could show, a hair less still, or rounding would ask for the next file.
    return capped(lines, needed / asked * 0.98) if asked > needed else lines


def _try(
    survey: ImageSurvey,
    c: Candidate,
    widths: list[int],
    asked: list[Job] | None,
    part: tuple[int, ...] | None = None,
    density: float | None = None,
) -> dict[int, int]:
    """Bytes by width of those files that are smaller than the next wider one.

    None yet when they are only `asked` for.
    """
    part = c.part if part is None else part
    density = c.narrow_density if density is None else density

    def jobs_of(format: str) -> list[Job]:
        return [(c.digest, survey.recipe(width, format, density, c, part)) for width in widths]

    jobs = jobs_of(c.format)
    if asked is not None:
        # What stands behind the better format is made now too, when several can be made at a time.
        asked += jobs + (jobs_of(c.behind) if c.behind else [])
        return {}
    outcomes = survey.work_cache.outcomes(jobs, survey.progress, "survey")
    files: dict[int, int] = {}
    limit = c.size
    for width, job in reversed(list(zip(widths, jobs, strict=True))):
        if not outcomes[job].refused and outcomes[job].size < limit:
            limit = files[width] = outcomes[job].size
    return files


def _background(survey: ImageSurvey, c: Candidate, asked: list[Job] | None = None) -> Finding | None:
    backgrounds = [s for s in _phones(survey, c) if s.image.via == "background" and s.image.scalable]
    if not backgrounds or any(s.image.via != "background" or not s.image.scalable for s in c.use.showings):
        return None
    uses = survey.evidence.texts.all_uses().get(c.use.exchange.url, [])
    if not any(_can_follow(survey, use) for use in uses):
        return None
    full = c.full
    part = () if c.part else part_on_phones(survey.evidence, c.use, c.info)
    shape = replace(c.info, width=part[2], height=part[3]) if part else c.shape
    share = shape.width / c.shape.width
    need = max(NARROWEST, *(_phone_need(survey, s) for s in backgrounds)) * share
    width = even_width(shape, need, survey.settings)
    if width * _WORTH_A_FILE > full * share and not part:
        return None
    shown = max(s.image.paint_width for s in backgrounds) * share
    params = PhoneParams(
        width=width,
        below=PHONE_WINDOW,
        similarity=c.similarity,
        density=usual_density(width / shown),
        veil=c.veil,
        part=part or c.part,
        avif=c.format == "AVIF",
    )
    files = _try(survey, c, [width], asked, params.part, params.density)
    if c.size - files.get(width, c.size) < _WORTH:
        return None
    change = Change(f"phone:{c.use.path}", "phone", (c.use.path,), survey.scope, params)
    why = f"A file of {width:,} px, for windows of up to {PHONE_WINDOW} px, was tried out."
    if part:
        why = f"Upright phones show {share:.0%} of it. A file of that part, {width:,} px wide, was tried out."
    facts = SizesFacts(format=c.format, natural=[c.info.width, c.info.height], files=files)
    title = f"{c.name}: the same background on phones"
    saved = c.size - files[width]
    return _excess(c, change, title, why, saved, facts)


def _can_follow(survey: ImageSurvey, use: Use) -> bool:
    read = survey.evidence.texts.text(use.text)
    return read is not None and can_follow(read.chars, use)


def _excess(c: Candidate, change: Change[Any], title: str, why: str, saved: int, facts: SizesFacts) -> Finding:
    return Finding(
        id=change.id,
        excess="one-size",
        kind="images",
        title=title,
        why=why,
        pages=tuple(c.use.pages),
        bytes=saved,
        of_bytes=c.size,
        requests=0,
        tried=True,
        facts=facts,
        changes=(change,),
    )


SURVEYOR = Surveyor("responsive images", find, (SizesFacts,), needs=("heavy images",), remedies=("widths", "phone"))
