"""Images without reserved space, which push the page about when they come."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from unladen.remedies import Change
from unladen.remedies.images.reserve import ReserveParams
from unladen.survey.findings import Facts, Finding
from unladen.survey.spec import Context, Found, Surveyor


@dataclass(frozen=True, slots=True, kw_only=True)
class UnreservedFacts(Facts):
    """How many pictures push the page about."""

    about: Literal["unreserved"] = "unreserved"
    pictures: int


def find(context: Context) -> Found:
    """One excess for each page, with no bytes to gain: the gain is a page that stays put."""
    evidence, findings = context.evidence, []
    for page in evidence.pages:
        targets: list[str] = []
        ratios: list[str] = []
        for use, showings in evidence.shown_on(page):
            here = [s.image for s in showings if s.image.via == "img"]
            loose = [image for image in here if not image.reserved]
            if loose and all(image.reservable and not image.by_srcset for image in loose):
                (ratios if any(image.by_ratio for image in loose) else targets).append(use.path)
        changes = [
            Change(f"reserve{mark}:{page}", "reserve", tuple(paths), (page,), ReserveParams(ratio=bool(mark)))
            for mark, paths in (("", targets), ("-ratio", ratios))
            if paths
        ]
        if not changes:
            continue
        count = len(targets) + len(ratios)
        many = f"{count} pictures have" if count > 1 else "A picture has"
        findings.append(
            Finding(
                id=changes[0].id,
                excess="no-space-reserved",
                kind="documents",
                title=f"{many} no space reserved",
                why="The page jumps when they arrive. Width and height, or their ratio, were tried in the page "
                "and moved nothing.",
                pages=(page,),
                bytes=0,
                of_bytes=0,
                requests=0,
                tried=True,
                facts=UnreservedFacts(pictures=count),
                changes=tuple(changes),
            )
        )
    return Found(tuple(findings))


SURVEYOR = Surveyor("unreserved images", find, (UnreservedFacts,), remedies=("reserve",))
