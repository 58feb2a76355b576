"""The list of excess, and the plan that follows from it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from unladen.errors import Notice
from unladen.memo import Memo
from unladen.plan import Change, Effort, Plan
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
    evidence: Evidence, effort: Effort, memo: Memo, progress: Progress
) -> tuple[list[Excess], list[Notice], Plan]:
    """The excess, largest first, what was left alone and why, and the plan that cures it; raises `Cancelled`."""
    from unladen.survey import bringing, early, fonts, heavy_images, hidden, repeats, structure, unreserved, unused

    found, notices, left = heavy_images.find(evidence, effort, memo, progress)
    found += early.find(evidence, left)
    found += unreserved.find(evidence)
    found += hidden.find(evidence, left)
    for kind in (bringing, fonts, unused, repeats, structure):
        found += kind.find(evidence)
    found.sort(key=lambda excess: (-excess.bytes, -excess.requests, excess.id))
    return found, notices, Plan(effort.name, tuple(excess.change for excess in found if excess.change))
