"""Images under survey: what they are, the size that they need, and what is left of them by now."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, Literal

from unladen.errors import Notice
from unladen.raster.probe import ImageInfo, ImageRefused, probe
from unladen.raster.recode import Recipe
from unladen.remedies import LEAVE, LIKENESS, Change
from unladen.remedies.images.replacing import NAMED
from unladen.survey.findings import Facts, FilesFacts, Finding
from unladen.survey.images.needs import density_at, even_width, keeps_shape, needed_width, tallest, veil_over
from unladen.survey.images.parts import part_of
from unladen.survey.images.structure import Structure
from unladen.survey.site_facts import ImageUse
from unladen.survey.spec import Context
from unladen.work_cache import Job, Outcome

_WORTH_SHRINKING = 0.85  # of the width
OLDER = ("JPEG", "PNG", "GIF")
_READ = (*OLDER, "WEBP", "AVIF")
_OF_NARROWER = 1.5  # px per CSS px
CRUMB = 2_000  # bytes; smaller savings of a sort go into one change


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
    """The images of a site as candidates; modules for sizes and formats add `findings` and `notices`.

    `scope` and `everywhere` are pages of changes: of those that edit pages, and of those that replace files.
    """

    def __init__(self, context: Context) -> None:
        self.evidence, self.effort, self.settings = context.evidence, context.effort, context.images
        self.work_cache, self.progress = context.work_cache, context.progress
        self.same_names = context.delivery.same_names
        self.usual = context.similarity
        self.findings: list[Finding] = []
        self.notices: list[Notice] = []
        self.candidates: list[Candidate] = []
        self.drawings: list[ImageUse] = []
        self.scope, self.everywhere = context.scope, context.everywhere
        self._structure = Structure(context.evidence)

    def try_out(self, jobs: list[Job]) -> dict[Job, Outcome]:
        """Encodes, several at a time; raises `Cancelled`."""
        return self.work_cache.outcomes(jobs, self.progress, "survey")

    def remaining(self) -> dict[str, int]:
        """For every image URL the bytes that would remain of it."""
        return {candidate.use.exchange.url: candidate.size for candidate in self.candidates}

    def collect(self) -> None:
        """Fill `candidates` and `drawings`."""
        for use in self.evidence.images.values():
            word = self.settings.word_for(use.path)
            if word == LEAVE:
                self.notices.append(Notice(use.path, "lies in a folder whose images are left as they are"))
            elif use.exchange.media_type == "image/svg+xml":
                self.drawings.append(use)
            else:
                self._collect(use, LIKENESS[word] if word else self.usual)

    def _collect(self, use: ImageUse, similarity: float) -> None:
        try:
            info = probe(self.evidence.capture.body(use.exchange))
            if info.format not in _READ:
                raise ImageRefused(f"is a {info.format} file, which stays unchanged")
        except ImageRefused as refused:
            self.notices.append(Notice(use.path, str(refused)))
            return
        renamed = not self.same_names and self._is_named(use)
        candidate = Candidate(
            use,
            info,
            0,
            "",
            info.format,
            use.exchange.size,
            veil=veil_over(use),
            similarity=similarity,
            renamed=renamed,
        )
        may_shrink = (renamed or self.same_names) and self.effort.resizes
        if may_shrink and similarity < 1 and info.frames == 1:
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

    def recipe_of(self, c: Candidate, format: str) -> Recipe:
        """What to make of a candidate at the width that it needs; `format` "" keeps its own."""
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

    def is_bound(self, c: Candidate) -> bool:
        """Whether nothing may be put around an image, as a choice of formats would be."""
        pages = {s.page for s in c.use.showings if s.image.via == "img"}
        return self._structure.counts_on(pages)


def excess_of(
    c: Candidate, finding: str, title: str, why: str, change: Change[Any], outcome: Outcome, after: int | None = None
) -> Finding:
    """A finding about one image; `after`: bytes sent instead of `outcome.size`."""
    size = outcome.size if after is None else after
    facts = ImageFacts(
        format=c.info.format,
        natural=[c.info.width, c.info.height],
        shown=c.shown_width,
        to=Becomes(outcome.format, outcome.width, outcome.height, size),
        quality=outcome.quality,
        likeness=outcome.likeness,
    )
    return Finding(
        id=change.id,
        excess=finding,
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


def excess_of_many(
    survey: ImageSurvey, change: Change[Any], finding: str, saved: dict[str, int], uses: list[ImageUse], what: str
) -> Finding:
    """One finding for many files (path to bytes saved) that save little each."""
    of_bytes = sum(survey.evidence.capture.sent_size(use.exchange) for use in uses if use.path in saved)
    pages = tuple(dict.fromkeys(page for use in uses if use.path in saved for page in use.pages))
    files = "file" if len(saved) == 1 else "files"
    return Finding(
        id=change.id,
        excess=finding,
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
