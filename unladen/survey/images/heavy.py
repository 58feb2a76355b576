"""Heavy images: larger than shown or badly compressed. All is tried out, never guessed.

Sizes and older formats come first, then what else is worth it for images that neither has changed, then AVIF.
"""

from __future__ import annotations

from unladen.survey.findings import FilesFacts
from unladen.survey.images import avif, drawings, oversized, recompressing
from unladen.survey.images.candidates import ImageFacts, ImageSurvey
from unladen.survey.images.older_formats import OlderFormats
from unladen.survey.spec import Context, Found, Surveyor


def find(context: Context) -> Found:
    """All findings; the survey itself, with its candidates, is for surveyors that build on it."""
    survey = ImageSurvey(context)
    survey.collect()
    older = OlderFormats(survey)
    outcomes = survey.try_out([job for c in survey.candidates for job in oversized.jobs(survey, c) + older.jobs(c)])
    unchanged = []
    for candidate in survey.candidates:
        is_smaller = oversized.take(survey, candidate, outcomes)
        if not older.take(candidate, outcomes, is_smaller=is_smaller) and not is_smaller:
            unchanged.append(candidate)
    recompressing.run(survey, unchanged)
    drawings.run(survey)
    if survey.settings.avif and not survey.same_names:
        avif.run(survey)
    return Found(tuple(survey.findings), tuple(survey.notices), survey.remaining(), notes=survey)


SURVEYOR = Surveyor(
    "heavy images",
    find,
    (ImageFacts, FilesFacts),
    needs=("same files",),
    remedies=("exact", "svg", "shrink", "recompress", "webp", "avif"),
)
