"""A memo for builds that are only looked at, when the cause of a difference is searched for."""

from __future__ import annotations

from dataclasses import replace

from unladen.memo import Memo, Outcome, Work
from unladen.raster.recode import Recipe

_QUALITY = 80


class TrialMemo(Memo):
    """Knows what a memo knows; a picture that it does not know is made at one quality, without a search for the best.

    Without one change others apply to files that nobody has tried: of a page of pictures, dozens. Name, format, width and
    height are those that a search would give, and that is all that a difference can come from.
    """

    def __init__(self, memo: Memo) -> None:
        super().__init__(memo.root, memo.store, memo.limit)

    def outcome(self, digest: str, work: Work) -> Outcome:
        """The outcome for one body."""
        known = self.known(digest, work)
        if known is None and isinstance(work, Recipe) and work.similarity < 1 and not work.quality:
            work = replace(work, quality=_QUALITY)
        return known or super().outcome(digest, work)
