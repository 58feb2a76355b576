"""Images of slides and panels that load before anyone sees them."""

from __future__ import annotations

from unladen.survey.evidence import Evidence
from unladen.survey.finding import Excess


def find(evidence: Evidence, left: dict[str, int]) -> list[Excess]:
    """One excess for each page whose hidden images are asked for at once; `left` gives their bytes after other cures."""
    found = []
    for page in evidence.pages:
        uses = []
        for use in evidence.images.values():
            here = [s.image for s in use.showings if s.page == page]
            if here and page in use.pages and not any(i.visible or i.loading == "lazy" for i in here):
                uses.append(use)
        if not uses:
            continue
        size = sum(left.get(use.exchange.url, use.exchange.size) for use in uses)
        many = f"{len(uses)} pictures load" if len(uses) > 1 else "A picture loads"
        found.append(
            Excess(
                id=f"hidden:{page}",
                excess="loaded-unseen",
                kind="images",
                title=f"{many} though nothing shows them yet",
                why="They stand in slides, panels or menus that are closed when the page opens, on every device weighed.",
                pages=(page,),
                bytes=size,
                of_bytes=size,
                requests=len(uses),
                tried=False,
                change=None,
                facts={
                    "where": sorted({s.image.selector for use in uses for s in use.showings if s.page == page})[:20]
                },
                advice="Load them when their slide or panel opens: loading=lazy on the images, or the slider's own setting.",
                files=tuple(use.path for use in uses),
            )
        )
    return found
