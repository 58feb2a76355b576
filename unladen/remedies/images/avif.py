"""AVIF as a further source before the others."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from unladen.remedies.change import Change
from unladen.remedies.draft import Draft
from unladen.remedies.images.replacing import Coding
from unladen.remedies.images.webp import offer
from unladen.remedies.spec import Remedy


@dataclass(frozen=True, slots=True, kw_only=True)
class AvifParams(Coding):
    """As of every coding."""

    format: ClassVar[str] = "AVIF"


def apply(change: Change[AvifParams], draft: Draft) -> None:
    """Offer it; browsers that do not read it take the next one."""
    offer(change, draft, "AVIF")


REMEDY = Remedy(
    name="avif",
    phase="images",
    params=AvifParams,
    title="Add AVIF",
    what="An AVIF source where AVIF is much smaller",
    detail="Adds an AVIF source where AVIF is at least a tenth smaller.",
    apply=apply,
    needs_new_names=True,
    image_role="file",
)
