"""Differences without those that somebody lets be."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from unladen.check.pairs import Difference
from unladen.plan import Tolerance


def tolerated(
    differences: Sequence[Difference], tolerance: Tolerance, page: str, device: str
) -> tuple[Difference, ...]:
    """Without what somebody has accepted, and without what lies in regions that are left out."""
    keys = tolerance.keys(page, device)
    masks = [mask for mask in tolerance.masks if mask.holds(page, device)]
    remaining = []
    for difference in differences:
        boxes = tuple(box for box in difference.boxes if not any(mask.covers(box) for mask in masks))
        if difference.key not in keys and (boxes or not difference.boxes):
            remaining.append(replace(difference, boxes=boxes))
    return tuple(remaining)
