"""What a surveyor says of itself, and what it gets to see."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from unladen.errors import Notice
from unladen.plan import Effort
from unladen.progress import Progress
from unladen.remedies import LIKENESS, Change, Delivery, ImageSettings, remedy_named
from unladen.survey.findings import Facts, Finding
from unladen.survey.site_facts import SiteFacts
from unladen.work_cache import WorkCache


@dataclass(frozen=True, slots=True)
class Found:
    """What a surveyor found. `left` gives the bytes of each image (URL) after the cures so far.

    `evidence`: what later surveyors go by, if this one has made more of it. `notes` are for those that need this one.
    """

    excess: tuple[Finding, ...] = ()
    notices: tuple[Notice, ...] = ()
    left: Mapping[str, int] = field(default_factory=dict)
    evidence: SiteFacts | None = None
    notes: object = None


@dataclass(slots=True)
class Context:
    """The evidence, what is wanted, and what the surveyors before this one found, as far as it needs them."""

    evidence: SiteFacts
    effort: Effort
    images: ImageSettings
    delivery: Delivery
    work_cache: WorkCache
    progress: Progress
    before: dict[str, Found] = field(default_factory=dict)

    @property
    def similarity(self) -> float:
        """The target of lossy coding: the user's word for it, or the effort's."""
        return LIKENESS[self.images.likeness] if self.images.likeness else self.effort.similarity

    @property
    def scope(self) -> tuple[str, ...]:
        """The pages weighed. A style sheet may only be changed when all pages that use it are among them."""
        return tuple(self.evidence.pages)

    @property
    def everywhere(self) -> tuple[str, ...]:
        """All pages, for what changes in its place."""
        return tuple(self.evidence.path(page.url) for page in self.evidence.capture.pages())

    def reached(self, *names: str) -> Iterator[tuple[Finding, Change[Any]]]:
        """The changes that these surveyors propose and the effort goes as far as, each with its excess."""
        for name in names:
            for excess in self.before[name].excess:
                for change in excess.changes:
                    if change.on and remedy_named(change.remedy).reached_by(self.effort.name):
                        yield excess, change

    def left(self, *names: str) -> dict[str, int]:
        """Bytes left of images by URL after the cures of these surveyors, the later ones before the earlier."""
        return {url: size for name in names for url, size in self.before[name].left.items()}


@dataclass(frozen=True, slots=True)
class Surveyor:
    """A kind of search. `needs` are those that must have been there before it.

    `remedies` are what it proposes: where none of them can be delivered it is left out, unless it `advises`.
    """

    name: str
    find: Callable[[Context], Found]
    facts: tuple[type[Facts], ...]
    needs: tuple[str, ...] = ()
    remedies: tuple[str, ...] = ()
    advises: bool = False
