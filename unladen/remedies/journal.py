"""Which change turned which bytes into which."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

from unladen.errors import Notice


@dataclass(frozen=True, slots=True)
class Stage:
    """One change's step on one file; sizes are encoded bodies in bytes as sent.

    `source` is the file as found, `before` and `after` the URLs of the step (equal when it was edited in place),
    `pages` the paths of the pages that see it; empty for a file edited in place.
    """

    change: str
    source: str
    before: str
    after: str
    before_bytes: int
    after_bytes: int
    pages: frozenset[str] = frozenset()


@dataclass(slots=True)
class Journal:
    """All steps in order, what was put off until it is wanted, and what could not be done."""

    stages: list[Stage] = field(default_factory=list)
    deferred: dict[tuple[str, str], str] = field(default_factory=dict)
    notices: list[Notice] = field(default_factory=list)

    def edits_of(self, url: str) -> Iterator[Stage]:
        """The steps of a file edited in place."""
        return (stage for stage in self.stages if stage.before == stage.after == url)

    def chain_of(self, url: str, page: str) -> list[Stage]:
        """The steps from a file as found to the one that a page (by path) refers to instead."""
        chain = []
        for stage in self.stages:
            if stage.source == url and page in stage.pages and stage.before != stage.after:
                chain.append(stage)
        return chain
