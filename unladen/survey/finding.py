"""The list of excess, and the plan that follows from it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from unladen.errors import Notice
from unladen.memo import Memo
from unladen.plan import Change, Effort, ImageSettings, Plan
from unladen.progress import Progress
from unladen.survey.evidence import Evidence


@dataclass(frozen=True, slots=True)
class Excess:
    """Bytes and requests that could go at a first visit (or at a repeat one, as `visit` says), each file counted once.

    `tried` tells figures that were tried out from estimates. `change` is the cure if there is one here; otherwise
    `advice` says what its owner can do about `files`. `facts` hold the evidence.
    """

    id: str
    excess: str
    kind: str
    title: str
    why: str
    pages: tuple[str, ...]
    bytes: int
    of_bytes: int
    requests: int
    tried: bool
    change: Change | None
    facts: dict[str, Any]
    advice: str = ""
    visit: str = "first"
    files: tuple[str, ...] = ()

    @property
    def targets(self) -> tuple[str, ...]:
        """The files that it is about, as paths."""
        return self.change.targets if self.change else self.files

    def as_json(self) -> dict[str, Any]:
        """Plain values for the API."""
        return {
            "id": self.id,
            "excess": self.excess,
            "kind": self.kind,
            "title": self.title,
            "why": self.why,
            "pages": list(self.pages),
            "targets": list(self.targets),
            "bytes": self.bytes,
            "of_bytes": self.of_bytes,
            "requests": self.requests,
            "tried": self.tried,
            "curable": self.change is not None,
            "advice": self.advice,
            "visit": self.visit,
            "facts": self.facts,
        }


def survey(
    evidence: Evidence, effort: Effort, memo: Memo, progress: Progress, settings: ImageSettings | None = None
) -> tuple[list[Excess], list[Notice], Plan]:
    """The excess, largest first, what was left alone and why, and the plan that cures it; raises `Cancelled`."""
    from unladen.survey import (
        bringing,
        early,
        embeds,
        endless,
        first,
        fitting,
        fonts,
        hidden,
        repeated_files,
        repeats,
        structure,
        unused,
        widgets,
    )
    from unladen.survey.films import FilmSurvey
    from unladen.survey.heavy_images import ImageSurvey
    from unladen.survey.unreserved import find as unreserved

    settings = settings or ImageSettings()
    images = ImageSurvey(evidence, effort, settings, memo, progress)
    found = repeated_files.duplicates(images)
    images.run()
    found += images.found
    found += fitting.find(images)
    found += repeated_files.tiny(images, {path for excess in found for path in excess.targets})
    notices = list(images.notices)
    held: list[Excess] = []
    if not settings.same_names:  # the rest edits pages or needs new files
        found += early.find(evidence, images.left()) + early.without_means(evidence, images.left())
        found += first.find(evidence) + unreserved(evidence)
        found += endless.find(evidence, effort, images.left(), memo, progress)
        films = FilmSurvey(evidence, effort, memo, progress)
        found += films.find()
        notices += [Notice(path, reason) for path, reason in films.refused.items()]
        held = embeds.find(evidence, effort, memo, progress) + widgets.find(evidence, effort)
    found += hidden.find(evidence, images.left(), cure=not settings.same_names)
    found += held + bringing.find(evidence, embeds.covered(held))
    for kind in (fonts, unused, repeats, structure):
        found += kind.find(evidence)
    found.sort(key=lambda excess: (-excess.bytes, -excess.requests, excess.id))
    changes = tuple(excess.change for excess in found if excess.change)
    return found, notices, Plan(effort.name, changes, images=settings)
