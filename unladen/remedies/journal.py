"""Which change turned which bytes into which."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

from unladen.errors import Notice


@dataclass(frozen=True, slots=True)
class Stage:
    """One change's step on one file; sizes are encoded bodies in bytes as sent.

    `before` and `after` are the URLs of the step, equal when the file was changed in its place. `pages` are the paths of
    the pages that see it; empty for a text, which is edited for all that use it. `measured`: browsers fetch such files in parts, so that
    what was saved is read from the requests and not from the sizes.
    """

    change: str
    before: str
    after: str
    before_bytes: int
    after_bytes: int
    pages: frozenset[str] = frozenset()
    measured: bool = False


@dataclass(slots=True)
class Journal:
    """All steps in order, what could not be done, and what a page does not ask for any more.

    `spared` maps file (URL) and page (path) to the change that puts it off until it is wanted, or for good; `withheld` does
    so for a file together with all that it causes.
    """

    stages: list[Stage] = field(default_factory=list)
    spared: dict[tuple[str, str], str] = field(default_factory=dict)
    withheld: dict[tuple[str, str], str] = field(default_factory=dict)
    notices: list[Notice] = field(default_factory=list)

    def edits_of(self, url: str) -> Iterator[Stage]:
        """The steps of a file edited in place."""
        return (stage for stage in self.stages if stage.before == stage.after == url)

    def chains_of(self, url: str, page: str) -> dict[str, list[Stage]]:
        """For a file as found: the steps to it as it is now, and to each file that the page (by path) may show instead."""
        chains: dict[str, list[Stage]] = {url: []}
        for stage in self.stages:
            if page in stage.pages and stage.before in chains:
                chains[stage.after] = [*chains[stage.before], stage]
        return chains

    def makers(self, page: str) -> dict[str, str]:
        """For each file made for a page (by path) the change that made it."""
        return {stage.after: stage.change for stage in self.stages if page in stage.pages}
