"""Images in an older format than WebP."""

from __future__ import annotations

from collections.abc import Mapping

from unladen.errors import Notice
from unladen.remedies import Change
from unladen.remedies.images.webp import FormatParams
from unladen.survey.findings import Finding
from unladen.survey.images.candidates import OLDER, Candidate, ImageSurvey, excess_of
from unladen.work_cache import Job, Outcome


class OlderFormats:
    """Tries WebP; sizes of one image that stand in the same `srcset` change together."""

    def __init__(self, survey: ImageSurvey) -> None:
        self.survey = survey
        self._places: dict[str, set[tuple[str, int]]] = {}
        self._offered: dict[tuple[str, int], set[str]] = {}
        facts = survey.evidence
        for url, uses in facts.texts.all_uses().items():
            for use in uses if facts.capture.owns(url) else ():
                if use.reference.via == "srcset" and use.reference.element:
                    place = use.text.url, use.reference.element.start
                    self._places.setdefault(url, set()).add(place)
                    self._offered.setdefault(place, set()).add(url)

    def jobs(self, c: Candidate) -> list[Job]:
        """The encode to try: WebP at the width that is needed."""
        is_older = c.info.format in OLDER and c.renamed
        return [(c.digest, self.survey.recipe_of(c, "WEBP"))] if is_older else []

    def take(self, c: Candidate, outcomes: Mapping[Job, Outcome], *, is_smaller: bool) -> bool:
        """Add the finding if WebP saves bytes; returns whether it does. `is_smaller`: another finding has shrunk it."""
        for job in self.jobs(c):
            # Not tried yet if shrinking was refused, which is rare.
            webp = outcomes.get(job) or self.survey.work_cache.outcome(*job)
            if not webp.refused and webp.size < c.size:
                self.survey.findings.append(self._finding(c, webp))
                c.size, c.format = webp.size, "WEBP"
                return True
            if webp.refused and not is_smaller:
                self.survey.notices.append(Notice(c.use.path, webp.refused))
        return False

    def _mates(self, c: Candidate) -> tuple[str, ...]:
        """Other sizes of the image in the same `srcset` that were not loaded."""
        places = self._places.get(c.use.exchange.url, set())
        mates = {url for place in places for url in self._offered.get(place, ())} - self.survey.evidence.images.keys()
        return tuple(sorted(self.survey.evidence.path(url) for url in mates))

    def _finding(self, c: Candidate, outcome: Outcome) -> Finding:
        exactly = outcome.quality == 0
        how = (
            "with every pixel as it was"
            if exactly
            else f"at quality {outcome.quality}, the lowest that looks the same"
        )
        photo = "photograph" if c.info.format == "JPEG" else "picture"
        title = f"{c.name}: a {photo} in an older format"
        if c.info.frames > 1:
            title = f"{c.name}: an animation in an older format"
        elif c.info.format == "PNG" and not exactly:
            title = f"{c.name}: a photograph as PNG"
        elif c.info.format == "JPEG" and exactly:
            title = f"{c.name}: a drawing as JPEG"
        why = f"As WebP {how}, it takes {outcome.size:,} bytes. This was tried out."
        params = FormatParams(similarity=c.similarity, **c.seen())
        change = Change(f"webp:{c.use.path}", "webp", (c.use.path, *self._mates(c)), self.survey.scope, params)
        return excess_of(c, "badly-compressed", title, why, change, outcome)
