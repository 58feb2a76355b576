"""AVIF as a further source before the others. Parameter: `similarity` (0 to 1) or `quality`."""

from __future__ import annotations

from unladen.plan import Change
from unladen.remedies import webp
from unladen.remedies.draft import Draft


def apply(change: Change, draft: Draft) -> None:
    """Offer it; browsers that do not read it take the next one."""
    webp.offer(change, draft, "AVIF")
