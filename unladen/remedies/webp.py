"""WebP in the place of older formats. Parameter: `similarity` (0 to 1; 1 keeps every pixel)."""

from __future__ import annotations

from unladen.plan import Change
from unladen.remedies.draft import Draft
from unladen.remedies.images import SAME_SIZE, replace_images


def apply(change: Change, draft: Draft) -> None:
    """Exchange the file, at the size that an earlier change gave it."""
    replace_images(change, draft, width=0, format="WEBP", via=SAME_SIZE)
