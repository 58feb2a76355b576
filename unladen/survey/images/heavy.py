"""Images larger than they are shown, and images badly compressed: all tried out, never guessed."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, Literal

from unladen.errors import Notice
from unladen.raster.probe import ImageInfo, ImageRefused, probe
from unladen.raster.recode import SVG, Recipe
from unladen.raster.svg import check_svg
from unladen.remedies import LEAVE, LIKENESS, Change, Params
from unladen.remedies.images.avif import AvifParams
from unladen.remedies.images.replacing import NAMED, Coding
from unladen.remedies.images.shrink import ShrinkParams
from unladen.remedies.images.svg import SvgParams
from unladen.remedies.images.webp import FormatParams
from unladen.survey.excess import Excess, Facts, FilesFacts
from unladen.survey.images.needs import (
    density_at,
    even_width,
    keeps_shape,
    needed_width,
    tallest,
    veil_over,
)
from unladen.survey.images.parts import part_of
from unladen.survey.images.structure import Structure
from unladen.survey.site_facts import ImageUse
from unladen.survey.spec import Context, Found, Surveyor
from unladen.work_cache import Job, Outcome

_WORTH_SHRINKING = 0.85
_LEAST_FOR_AVIF = 1_200  # bytes; of fewer it would save less than is worth a further file
_AVIF_PAYS = 0.9  # of the bytes of the next best
_OLDER = ("JPEG", "PNG", "GIF")
_READ = (*_OLDER, "WEBP", "AVIF")
_OF_NARROWER = 1.5  # px per CSS px
_CRUMB = 2_000  # bytes; what saves less goes into one change with its like


@dataclass(frozen=True, slots=True)
class Becomes:
    """What an image becomes: px and bytes."""

    format: str
    width: int
    height: int
    bytes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ImageFacts(Facts):
    """An image as it is.

    Its size in px, the widest that it is shown in CSS px; what it becomes, and how alike that is.
    """

    about: Literal["image"] = "image"
    format: str
    natural: list[int]
    shown: int
    to: Becomes
    quality: int
    likeness: float


@dataclass(slots=True)
class Candidate:
    """An image under survey: what it is, the width (px) it needs (0: as it is), and what is left of it by now.

    `part` is what is ever shown of it, `density` and `veil` how visitors see it, as for a recipe. `behind`: the
    format for browsers that do not read `format`, if there are two. `similarity`: the target of lossy coding.
    `renamed`: another file may take its place; not where scripts put its name together.
    """

    use: ImageUse
    info: ImageInfo
    width: int
    reason: str
    format: str
    size: int
    part: tuple[int, ...] = ()
    density: float = 1.0
    veil: tuple[int, ...] = ()
    behind: str = ""
    similarity: float = 1.0
    renamed: bool = True

    @property
    def full(self) -> int:
        """The width in px of the widest file that is made."""
        return self.width or self.info.width

    @property
    def shape(self) -> ImageInfo:
        """What is known of the image, with the size of the part that is shown."""
        return replace(self.info, width=self.part[2], height=self.part[3]) if self.part else self.info

    @property
    def narrow_density(self) -> float:
        """That of narrower files, which some screens of few px per CSS px take too."""
        return min(self.density, _OF_NARROWER)

    @property
    def holds_shape(self) -> bool:
        """Whether no box that takes its shape from the file changes by even a tenth of a CSS px."""
        images = [showing.image for showing in self.use.showings if showing.image.via == "img"]
        bound = [image for image in images if not image.boxed]
        return not bound or keeps_shape(self.shape, self.full, tallest(self.use))

    def seen(self) -> dict[str, Any]:
        """The same for the parameters of a change."""
        return {"density": self.density, "veil": self.veil}

    @property
    def digest(self) -> str:
        """Of the file as found."""
        return self.use.exchange.digest

    @property
    def name(self) -> str:
        """The file's name."""
        return self.use.name

    @property
    def shown_width(self) -> int:
        """The widest that it is shown, in CSS px."""
        return round(max((s.image.paint_width for s in self.use.sized()), default=0))


class ImageSurvey:
    """Tries images out in rounds: sizes and formats first, then what else is worth it for those left."""

    def __init__(self, context: Context) -> None:
        self.evidence, self.effort, self.settings = context.evidence, context.effort, context.images
        self.work_cache, self.progress = context.work_cache, context.progress
        self.same_names = context.delivery.same_names
        self.usual = context.similarity
        self.found: list[Excess] = []
        self.notices: list[Notice] = []
        self.candidates: list[Candidate] = []
        self.drawings: list[ImageUse] = []
        self.scope, self.everywhere = context.scope, context.everywhere
        self._structure = Structure(context.evidence)
        self._places: dict[str, set[tuple[str, int]]] = {}
        self._offered: dict[tuple[str, int], set[str]] = {}
        for url, uses in self.evidence.texts.all_uses().items():
            for use in uses if self.evidence.capture.owns(url) else ():
                if use.reference.via == "srcset" and use.reference.element:
                    place = use.text.url, use.reference.element.start
                    self._places.setdefault(url, set()).add(place)
                    self._offered.setdefault(place, set()).add(url)

    def run(self) -> None:
        """Fill `found`, `notices` and `candidates`; raises `Cancelled`."""
        self._collect()
        outcomes = self._try([job for c in self.candidates for job in self._first_jobs(c)])
        rest = [c for c in self.candidates if not self._take_first(c, outcomes)]
        outcomes = self._try([(c.digest, self._second_recipe(c)) for c in rest])
        crumbs: list[tuple[Candidate, Outcome]] = []
        for candidate in rest:
            self._take_second(candidate, outcomes[(candidate.digest, self._second_recipe(candidate))], crumbs)
        self._exact_crumbs(crumbs)
        self._svg()
        if self.settings.avif and not self.same_names:
            self._avif()

    def left(self) -> dict[str, int]:
        """For every image URL the bytes that would be left of it."""
        return {candidate.use.exchange.url: candidate.size for candidate in self.candidates}

    def _try(self, jobs: list[Job]) -> dict[Job, Outcome]:
        return self.work_cache.outcomes(jobs, self.progress, "survey")

    def _collect(self) -> None:
        capture = self.evidence.capture
        for use in self.evidence.images.values():
            word = self.settings.word_for(use.path)
            if word == LEAVE:
                self.notices.append(Notice(use.path, "lies in a folder whose images are left as they are"))
                continue
            if use.exchange.media_type == "image/svg+xml":
                self.drawings.append(use)
                continue
            try:
                info = probe(capture.body(use.exchange))
                if info.format not in _READ:
                    raise ImageRefused(f"is a {info.format} file, which stays unchanged")
            except ImageRefused as refused:
                self.notices.append(Notice(use.path, str(refused)))
                continue
            candidate = Candidate(
                use,
                info,
                0,
                "",
                info.format,
                use.exchange.size,
                veil=veil_over(use),
                similarity=LIKENESS[word] if word else self.usual,
                renamed=not self.same_names and self._is_named(use),
            )
            if (
                (candidate.renamed or self.same_names)
                and self.effort.resizes
                and candidate.similarity < 1
                and info.frames == 1
            ):
                self._size(candidate)
            candidate.density = density_at(use, candidate.width or info.width)
            if candidate.part:
                candidate.density = density_at(use, round(candidate.width * info.width / candidate.part[2]))
            self.candidates.append(candidate)

    def _is_named(self, use: ImageUse) -> bool:
        """Whether any text names a file in a way that can be rewritten."""
        same = [url for url, other in self.evidence.merged.items() if other == use.exchange.url]
        uses = self.evidence.texts.all_uses()
        return any(use.reference.via in NAMED for url in (use.exchange.url, *same) for use in uses.get(url, ()))

    def _size(self, c: Candidate) -> None:
        """The width that an image needs, and the part of it that is shown."""
        needed, c.reason = self._needed(c.use)
        if not needed:
            return
        part = () if self.same_names else part_of(self.evidence, c.use, c.info)
        share = part[2] / c.info.width if part else 1.0
        shape = replace(c.info, width=part[2], height=part[3]) if part else c.info
        width = even_width(shape, needed * share, self.settings, tallest(c.use))
        if width <= c.info.width * _WORTH_SHRINKING or part:
            c.width, c.part = width, part
        if c.width and self.same_names and any(not s.image.free or not c.holds_shape for s in c.use.showings):
            c.width, c.reason = 0, "gives its box its size, which only an edit of the page could keep"

    def _needed(self, use: ImageUse) -> tuple[int, str]:
        url = use.exchange.url
        return needed_width(use, self.effort, self.settings, lambda page: self.evidence.widths_on(page, url))

    def _recipe(self, c: Candidate, format: str) -> Recipe:
        return self.recipe(c.width, format, c.density, c)

    def recipe(
        self, width: int, format: str, density: float, c: Candidate, part: tuple[int, ...] | None = None
    ) -> Recipe:
        """What to make of an image, or of a part of it, at a width in px."""
        return Recipe(
            width,
            format,
            c.similarity,
            copyright=self.settings.copyright,
            part=c.part if part is None else part,
            density=density,
            veil=c.veil,
        )

    def _first_jobs(self, candidate: Candidate) -> list[Job]:
        jobs: list[Job] = []
        if candidate.width:
            jobs.append((candidate.digest, self._recipe(candidate, "")))
        if candidate.info.format in _OLDER and candidate.renamed:
            jobs.append((candidate.digest, self._recipe(candidate, "WEBP")))
        return jobs

    def _mates(self, c: Candidate) -> tuple[str, ...]:
        """Other sizes of the image that stand in the same `srcset` and were not loaded: they go the same way."""
        places = self._places.get(c.use.exchange.url, set())
        mates = {url for place in places for url in self._offered.get(place, ())} - self.evidence.images.keys()
        return tuple(sorted(self.evidence.path(url) for url in mates))

    def _take_first(self, c: Candidate, outcomes: dict[Job, Outcome]) -> bool:
        """Shrinking and WebP; whether either came of it."""
        taken = False
        if c.width:
            shrunk = outcomes[(c.digest, self._recipe(c, ""))]
            if not shrunk.refused and shrunk.size < c.size:
                self.found.append(self._oversized(c, shrunk))
                c.size, taken = shrunk.size, True
            else:
                c.width, c.part, c.reason = 0, (), shrunk.refused
                c.density = density_at(c.use, c.info.width)
        if c.info.format in _OLDER and c.renamed:
            job = (c.digest, self._recipe(c, "WEBP"))
            webp = outcomes.get(job) or self.work_cache.outcome(
                *job
            )  # not tried yet if shrinking was refused, which is rare
            if not webp.refused and webp.size < c.size:
                self.found.append(self._badly_compressed(c, webp))
                c.size, c.format, taken = webp.size, "WEBP", True
            elif webp.refused and not taken:
                self.notices.append(Notice(c.use.path, webp.refused))
        return taken

    def _second_recipe(self, c: Candidate) -> Recipe:
        """For those that keep size and format: a JPEG at lower quality, all others exactly."""
        lossy = c.info.format == "JPEG" and c.similarity < 1
        if not lossy:
            return Recipe(copyright=self.settings.copyright)
        return self._recipe(c, "")

    def _take_second(self, c: Candidate, outcome: Outcome, crumbs: list[tuple[Candidate, Outcome]]) -> None:
        if outcome.refused or outcome.size >= c.size:
            if c.info.format not in _OLDER or not c.renamed:
                self.notices.append(Notice(c.use.path, outcome.refused or "would not become smaller"))
        elif outcome.quality:
            why = f"The same format at quality {outcome.quality}, the lowest that looks the same, was tried out."
            title = f"{c.name}: saved with more quality than shows"
            params = Coding(similarity=c.similarity, **c.seen())
            change = Change(f"recompress:{c.use.path}", "recompress", (c.use.path,), self.everywhere, params)
            self.found.append(self._excess(c, "badly-compressed", title, why, outcome, change))
            c.size = outcome.size
        elif c.size - outcome.size < _CRUMB:
            crumbs.append((c, outcome))
        else:
            self.found.append(self._carelessly_packed(c, outcome))
            c.size = outcome.size

    def _carelessly_packed(self, c: Candidate, outcome: Outcome) -> Excess:
        why = "Packed better, without what no browser shows, and with every pixel as it was. That was tried out."
        change = Change(f"exact:{c.use.path}", "exact", (c.use.path,), self.everywhere, Params())
        return self._excess(c, "carelessly-packed", f"{c.name}: packed carelessly", why, outcome, change)

    def _exact_crumbs(self, crumbs: list[tuple[Candidate, Outcome]]) -> None:
        sizes = {c.use.path: c.size - outcome.size for c, outcome in crumbs}
        for c, outcome in crumbs:
            c.size = outcome.size
        self._together(
            "exact", "carelessly-packed", sizes, [c.use for c, _ in crumbs], "small images packed carelessly"
        )

    def _together(self, remedy: str, kind: str, saved: dict[str, int], uses: list[ImageUse], what: str) -> None:
        """One excess for many files that save little each."""
        if not saved:
            return
        params = SvgParams() if remedy == "svg" else Params()
        change = Change(f"{remedy}:small", remedy, tuple(sorted(saved)), self.everywhere, params)
        of_bytes = sum(self.evidence.capture.sent_size(use.exchange) for use in uses if use.path in saved)
        pages = tuple(dict.fromkeys(page for use in uses if use.path in saved for page in use.pages))
        files = "file" if len(saved) == 1 else "files"
        self.found.append(
            Excess(
                id=change.id,
                excess=kind,
                kind="images",
                title=f"{len(saved)} {what}",
                why=f"Each of these {len(saved)} {files} was tried out; none changes how it looks.",
                pages=pages,
                bytes=sum(saved.values()),
                of_bytes=of_bytes,
                requests=0,
                tried=True,
                facts=FilesFacts(files=saved),
                changes=(change,),
            )
        )

    def _svg(self) -> None:
        outcomes = self._try([(use.exchange.digest, Recipe(format=SVG)) for use in self.drawings])
        capture, small = self.evidence.capture, {}
        for use in self.drawings:
            outcome = outcomes[(use.exchange.digest, Recipe(format=SVG))]
            if outcome.refused:
                self.notices.append(Notice(use.path, outcome.refused))
                continue
            self.work_cache.hand_over(outcome)
            before = capture.sent_size(use.exchange)
            after = capture.sent_size_of(outcome.digest, outcome.size, use.exchange.encoding)
            if before - after < _CRUMB:
                small[use.path] = before - after
                continue
            width, height = check_svg(capture.body(use.exchange))
            info = ImageInfo("SVG", width, height, "", 1, 8, False)
            c = Candidate(use, info, 0, "", "SVG", before)
            change = Change(f"svg:{use.path}", "svg", (use.path,), self.everywhere, SvgParams())
            why = "Without comments, editors' data and needless digits it draws the same. That was tried out."
            self.found.append(
                self._excess(c, "wordy-drawing", f"{c.name}: a wordy drawing", why, outcome, change, after)
            )
        small = {path: saved for path, saved in small.items() if saved > 0}
        self._together("svg", "wordy-drawing", small, self.drawings, "small drawings with needless text")

    def _avif(self) -> None:
        lossy = [c for c in self.candidates if c.similarity < 1 and c.info.frames == 1]
        older = [c for c in lossy if c.renamed and c.format in ("JPEG", "PNG", "WEBP")]
        wanted = [c for c in older if c.size > _LEAST_FOR_AVIF and not self._bound(c)]
        outcomes = self._try([(c.digest, self._recipe(c, "AVIF")) for c in wanted])
        for c in wanted:
            outcome = outcomes[(c.digest, self._recipe(c, "AVIF"))]
            if outcome.refused or outcome.size > c.size * _AVIF_PAYS:
                continue
            params = AvifParams(similarity=c.similarity, **c.seen())
            change = Change(f"avif:{c.use.path}", "avif", (c.use.path,), self.scope, params)
            why = f"As AVIF, offered beside the other format, it takes {outcome.size:,} bytes. That was tried out."
            self.found.append(
                self._excess(c, "badly-compressed", f"{c.name}: AVIF packs it better", why, outcome, change)
            )
            c.size, c.format, c.behind = outcome.size, "AVIF", c.format

    def _bound(self, c: Candidate) -> bool:
        """Whether nothing may be put around an image, as a choice of formats would be."""
        pages = {s.page for s in c.use.showings if s.image.via == "img"}
        return self._structure.counts_on(pages)

    def _oversized(self, c: Candidate, outcome: Outcome) -> Excess:
        bound = any(not s.image.free for s in c.use.showings)
        params = ShrinkParams(
            width=c.width,
            similarity=c.similarity,
            reserve=bound,
            ratio=not c.holds_shape,
            part=c.part,
            **c.seen(),
        )
        pages = self.everywhere if self.same_names else self.scope
        title = f"{c.name} is {c.info.width:,} px wide, shown at {c.shown_width:,}"
        why = f"{outcome.width:,} px are enough for sharp screens. The same format at that width was tried out."
        if c.part:
            shown = c.part[2] * c.part[3] / (c.info.width * c.info.height)
            why = f"Its frames show {shown:.0%} of it in all windows. That part, {outcome.width:,} px wide, was tried out."
        change = Change(f"shrink:{c.use.path}", "shrink", (c.use.path,), pages, params)
        return self._excess(c, "larger-than-shown", title, why, outcome, change)

    def _badly_compressed(self, c: Candidate, outcome: Outcome) -> Excess:
        exactly = outcome.quality == 0
        how = (
            "with every pixel as it was"
            if exactly
            else f"at quality {outcome.quality}, the lowest that looks the same"
        )
        photo = "photograph" if c.info.format == "JPEG" else "picture"
        title = f"{c.name}: a {photo} kept in an older format"
        if c.info.frames > 1:
            title = f"{c.name}: an animation kept in an older format"
        elif c.info.format == "PNG" and not exactly:
            title = f"{c.name}: a photograph kept as PNG"
        elif c.info.format == "JPEG" and exactly:
            title = f"{c.name}: a drawing kept as JPEG"
        why = f"As WebP {how}, it takes {outcome.size:,} bytes. That was tried out."
        params = FormatParams(similarity=c.similarity, **c.seen())
        change = Change(f"webp:{c.use.path}", "webp", (c.use.path, *self._mates(c)), self.scope, params)
        return self._excess(c, "badly-compressed", title, why, outcome, change)

    def _excess(
        self,
        c: Candidate,
        kind: str,
        title: str,
        why: str,
        outcome: Outcome,
        change: Change[Any],
        after: int | None = None,
    ) -> Excess:
        size = outcome.size if after is None else after
        facts = ImageFacts(
            format=c.info.format,
            natural=[c.info.width, c.info.height],
            shown=c.shown_width,
            to=Becomes(outcome.format, outcome.width, outcome.height, size),
            quality=outcome.quality,
            likeness=outcome.likeness,
        )
        return Excess(
            id=change.id,
            excess=kind,
            kind="images",
            title=title,
            why=why,
            pages=tuple(c.use.pages),
            bytes=c.size - size,
            of_bytes=c.size,
            requests=0,
            tried=True,
            facts=facts,
            changes=(change,),
        )


def find(context: Context) -> Found:
    """All of it; the survey itself, with its candidates, is for those that build on it."""
    images = ImageSurvey(context)
    images.run()
    return Found(tuple(images.found), tuple(images.notices), images.left(), notes=images)


SURVEYOR = Surveyor(
    "heavy images",
    find,
    (ImageFacts, FilesFacts),
    needs=("same files",),
    remedies=("exact", "svg", "shrink", "recompress", "webp", "avif"),
)
