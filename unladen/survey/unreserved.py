"""Images without reserved space, which push the page about when they come."""

from __future__ import annotations

from unladen.plan import Change
from unladen.survey.evidence import Evidence
from unladen.survey.finding import Excess


def find(evidence: Evidence) -> list[Excess]:
    """One excess for each page, with no bytes to gain: the gain is a page that stays put."""
    found = []
    for page in evidence.pages:
        targets = []
        for use in evidence.images.values():
            here = [s.image for s in use.showings if s.page == page and s.image.via == "img"]
            loose = [image for image in here if not image.reserved]
            if loose and all(image.reservable and not image.by_srcset for image in loose):
                targets.append(use.path)
        if not targets:
            continue
        change = Change(f"reserve:{page}", "reserve", tuple(targets), (page,))
        many = f"{len(targets)} pictures have" if len(targets) > 1 else "A picture has"
        found.append(
            Excess(
                id=change.id,
                excess="no-space-reserved",
                kind="documents",
                title=f"{many} no space reserved",
                why="The page jumps when they arrive. Width and height were tried in the page and moved nothing.",
                pages=(page,),
                bytes=0,
                of_bytes=0,
                requests=0,
                tried=True,
                change=change,
                facts={"pictures": len(targets)},
            )
        )
    return found
