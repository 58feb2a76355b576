"""A memo for builds that are only looked at, when the cause of a difference is searched for."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, ClassVar

from unladen.raster.recode import Recipe, Recoded, recode
from unladen.work_cache import Outcome, Work, WorkCache


@dataclass(frozen=True, slots=True)
class Rough:
    """A picture by a recipe, without the search for the best quality."""

    name: ClassVar[str] = "rough picture"
    version: ClassVar[int] = Recipe.version
    seconds: ClassVar[float] = Recipe.seconds
    memory: ClassVar[int] = Recipe.memory

    recipe: Recipe

    def as_json(self) -> dict[str, Any]:
        """Plain values, the same for the same recipe."""
        return self.recipe.as_json()

    def run(self, data: bytes) -> Recoded:
        """The file; raises `ImageRefused`."""
        return recode(data, self.recipe, rough=True)


class TrialCache(WorkCache):
    """Knows what a memo knows; a picture that it does not know is encoded in haste.

    Without one change others apply to files that nobody has tried: of a page of pictures, dozens. Name, format, width
    and height are those that a search for the best quality would give, and a trial asks for no more. `expect_wanted`
    is called before each, and raises `Cancelled` when nobody waits any more.
    """

    def __init__(self, work_cache: WorkCache, expect_wanted: Callable[[], None] = lambda: None) -> None:
        super().__init__(work_cache.root, work_cache.store, work_cache.limit)
        self._expect_wanted = expect_wanted

    def outcome(self, digest: str, work: Work) -> Outcome:
        """The outcome for one body."""
        if known := self.known(digest, work):
            return known
        self._expect_wanted()
        if isinstance(work, Recipe) and work.similarity < 1:
            return super().outcome(digest, Rough(work))
        return super().outcome(digest, work)
