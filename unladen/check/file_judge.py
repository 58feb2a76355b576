"""Image files judged by themselves: whether one shows what another did, at the size at which both are shown."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from PIL import Image

from unladen.progress import Progress
from unladen.raster.probe import ImageInfo, ImageRefused, probe
from unladen.raster.shown import Reduced, Showing, showing, shown_likeness
from unladen.work_cache import Job, Outcome, WorkCache


@dataclass(frozen=True, slots=True)
class Question:
    """Two files (digests) shown in one place: its width and height in CSS px, and the window's px for each of these."""

    first: str
    second: str
    box: tuple[float, float]
    density: float


class FileJudge:
    """Answers from the files of a memo, which are reduced by one good filter in worker processes and kept."""

    def __init__(self, work_cache: WorkCache) -> None:
        self.work_cache = work_cache
        self._info = lru_cache(maxsize=4096)(self._read)
        self._known: dict[tuple[str, str, Showing], float | None] = {}

    def likenesses(self, questions: Sequence[Question]) -> list[float | None]:
        """For each question how alike the two files are, from 0 to 1; None where files cannot tell, such as
        drawings.
        """
        asked = [(question, self._showing(question)) for question in questions]
        jobs: list[Job] = []
        for question, shown in asked:
            if shown and (question.first, question.second, shown) not in self._known:
                jobs += [(digest, Reduced(*shown.size)) for digest in (question.first, question.second)]
        made = self.work_cache.outcomes(jobs, Progress(), "check") if jobs else {}
        return [self._likeness(question, shown, made) if shown else None for question, shown in asked]

    def _likeness(self, question: Question, shown: Showing, made: dict[Job, Outcome]) -> float | None:
        key = question.first, question.second, shown
        if key not in self._known:
            outcomes = [made[digest, Reduced(*shown.size)] for digest in key[:2]]
            likeness = None
            if not any(outcome.refused for outcome in outcomes):
                first, second = (Image.open(io.BytesIO(self.work_cache.body(outcome))) for outcome in outcomes)
                likeness = shown_likeness(first, second, shown.density)
            self._known[key] = likeness
        return self._known[key]

    def _showing(self, question: Question) -> Showing | None:
        infos = self._info(question.first), self._info(question.second)
        if infos[0] is None or infos[1] is None:
            return None
        return showing(infos[0], infos[1], question.box, question.density)

    def _read(self, digest: str) -> ImageInfo | None:
        try:
            return probe(self.work_cache.input(digest))
        except (ImageRefused, KeyError, OSError, ValueError):
            return None
