"""Vector drawings with needless text."""

from __future__ import annotations

from unladen.errors import Notice
from unladen.raster.probe import ImageInfo
from unladen.raster.recode import SVG, Recipe
from unladen.raster.svg import check_svg
from unladen.remedies import Change
from unladen.remedies.images.svg import SvgParams
from unladen.survey.images.candidates import CRUMB, Candidate, ImageSurvey, excess_of, excess_of_many

_RECIPE = Recipe(format=SVG)


def run(survey: ImageSurvey) -> None:
    """Try all drawings and add findings; raises `Cancelled`."""
    outcomes = survey.try_out([(use.exchange.digest, _RECIPE) for use in survey.drawings])
    capture, small = survey.evidence.capture, {}
    for use in survey.drawings:
        outcome = outcomes[(use.exchange.digest, _RECIPE)]
        if outcome.refused:
            survey.notices.append(Notice(use.path, outcome.refused))
            continue
        survey.work_cache.hand_over(outcome)
        before = capture.sent_size(use.exchange)
        after = capture.sent_size_of(outcome.digest, outcome.size, use.exchange.encoding)
        if before - after < CRUMB:
            small[use.path] = before - after
            continue
        width, height = check_svg(capture.body(use.exchange))
        info = ImageInfo("SVG", width, height, "", 1, 8, False)
        c = Candidate(use, info, 0, "", "SVG", before)
        change = Change(f"svg:{use.path}", "svg", (use.path,), survey.everywhere, SvgParams())
        why = "Without comments, editor data and needless digits, it draws the same. This was tried out."
        title = f"{c.name}: a drawing with needless text"
        survey.findings.append(excess_of(c, "wordy-drawing", title, why, change, outcome, after))
    if saved := {path: size for path, size in small.items() if size > 0}:
        change = Change("svg:small", "svg", tuple(sorted(saved)), survey.everywhere, SvgParams())
        what = "small drawings with needless text"
        survey.findings.append(excess_of_many(survey, change, "wordy-drawing", saved, survey.drawings, what))
