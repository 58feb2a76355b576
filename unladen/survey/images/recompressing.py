"""Images that keep size and format: with more quality than shows, or not fully compressed."""

from __future__ import annotations

from collections.abc import Sequence

from unladen.errors import Notice
from unladen.raster.recode import Recipe
from unladen.remedies import Change, Params
from unladen.remedies.images.replacing import Coding
from unladen.survey.images.candidates import CRUMB, OLDER, Candidate, ImageSurvey, excess_of, excess_of_many
from unladen.work_cache import Outcome


def run(survey: ImageSurvey, candidates: Sequence[Candidate]) -> None:
    """Try all of them and add findings; raises `Cancelled`."""
    outcomes = survey.try_out([(c.digest, _recipe(survey, c)) for c in candidates])
    crumbs: list[tuple[Candidate, Outcome]] = []
    for c in candidates:
        _take(survey, c, outcomes[(c.digest, _recipe(survey, c))], crumbs)
    _take_crumbs(survey, crumbs)


def _recipe(survey: ImageSurvey, c: Candidate) -> Recipe:
    """A JPEG at lower quality, all others exactly."""
    if c.info.format == "JPEG" and c.similarity < 1:
        return survey.recipe_of(c, "")
    return Recipe(copyright=survey.settings.copyright)


def _take(survey: ImageSurvey, c: Candidate, outcome: Outcome, crumbs: list[tuple[Candidate, Outcome]]) -> None:
    if outcome.refused or outcome.size >= c.size:
        if c.info.format not in OLDER or not c.renamed:
            survey.notices.append(Notice(c.use.path, outcome.refused or "would not become smaller"))
    elif outcome.quality:
        why = f"The same format at quality {outcome.quality}, the lowest that looks the same, was tried out."
        title = f"{c.name}: saved in higher quality than visible"
        params = Coding(similarity=c.similarity, **c.seen())
        change = Change(f"recompress:{c.use.path}", "recompress", (c.use.path,), survey.everywhere, params)
        survey.findings.append(excess_of(c, "badly-compressed", title, why, change, outcome))
        c.size = outcome.size
    elif c.size - outcome.size < CRUMB:
        crumbs.append((c, outcome))
    else:
        why = "Packed better, without what no browser shows, and with every pixel as it was. This was tried out."
        exactly = Change(f"exact:{c.use.path}", "exact", (c.use.path,), survey.everywhere, Params())
        title = f"{c.name}: not fully compressed"
        survey.findings.append(excess_of(c, "carelessly-packed", title, why, exactly, outcome))
        c.size = outcome.size


def _take_crumbs(survey: ImageSurvey, crumbs: Sequence[tuple[Candidate, Outcome]]) -> None:
    sizes = {c.use.path: c.size - outcome.size for c, outcome in crumbs}
    for c, outcome in crumbs:
        c.size = outcome.size
    if sizes:
        change = Change("exact:small", "exact", tuple(sorted(sizes)), survey.everywhere, Params())
        uses = [c.use for c, _ in crumbs]
        what = "small images not fully compressed"
        survey.findings.append(excess_of_many(survey, change, "carelessly-packed", sizes, uses, what))
