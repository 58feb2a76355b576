"""Images that AVIF packs better than any other format."""

from __future__ import annotations

from unladen.remedies import Change
from unladen.remedies.images.avif import AvifParams
from unladen.survey.images.candidates import ImageSurvey, excess_of

_LEAST = 1_200  # bytes; a further source for fewer would save less than it is worth
_PAYS = 0.9  # of the bytes of the next best


def run(survey: ImageSurvey) -> None:
    """Try AVIF for what sizes and formats have left; raises `Cancelled`."""
    lossy = [c for c in survey.candidates if c.similarity < 1 and c.info.frames == 1]
    older = [c for c in lossy if c.renamed and c.format in ("JPEG", "PNG", "WEBP")]
    wanted = [c for c in older if c.size > _LEAST and not survey.is_bound(c)]
    outcomes = survey.try_out([(c.digest, survey.recipe_of(c, "AVIF")) for c in wanted])
    for c in wanted:
        outcome = outcomes[(c.digest, survey.recipe_of(c, "AVIF"))]
        if outcome.refused or outcome.size > c.size * _PAYS:
            continue
        params = AvifParams(similarity=c.similarity, **c.seen())
        change = Change(f"avif:{c.use.path}", "avif", (c.use.path,), survey.scope, params)
        why = f"As AVIF, offered beside the other format, it takes {outcome.size:,} bytes. This was tried out."
        survey.findings.append(
            excess_of(c, "badly-compressed", f"{c.name}: AVIF packs it better", why, change, outcome)
        )
        c.size, c.format, c.behind = outcome.size, "AVIF", c.format
