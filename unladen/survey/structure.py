"""How pages are built: what is advice for the builder, since no bytes can be promised for it."""

from __future__ import annotations

from unladen.survey.evidence import Evidence
from unladen.survey.finding import Excess
from unladen.weigh.model import Structure

# Where a phone begins to feel it (common practice, no source).
_MANY_NODES, _DEEP = 1500, 32


def find(evidence: Evidence) -> list[Excess]:
    """At most one piece of advice of each sort for a page, from the device on which it is worst."""
    found = []
    for page in evidence.pages:
        built = [w.visit.structure for w in evidence.weigh_ins if w.page == page]
        if not built:
            continue
        largest, deepest = max(built, key=lambda s: s.nodes), max(built, key=lambda s: s.depth)
        moving = max(built, key=lambda s: len(s.endless))
        if largest.nodes > _MANY_NODES:
            found.append(_many_nodes(page, largest))
        if deepest.depth > _DEEP:
            found.append(
                _advice(
                    "deep",
                    page,
                    f"Elements lie {deepest.depth} deep",
                    f"The deepest is {deepest.deepest}. Every layer is styled and laid out.",
                    "Take wrappers out that hold a single element; page builders leave many.",
                    {"deepest": deepest.deepest},
                )
            )
        if moving.endless:
            within = f", {len(moving.nested)} of them within another" if moving.nested else ""
            found.append(
                _advice(
                    "endless",
                    page,
                    f"{len(moving.endless)} animations never end{within}",
                    "They keep a phone busy and its battery warm as long as the page is open.",
                    "Let them run a few times, or only while they are in view.",
                    {"where": moving.endless},
                )
            )
    return found


def _many_nodes(page: str, built: Structure) -> Excess:
    first = built.sections[0] if built.sections else {"selector": "body", "nodes": built.nodes}
    return _advice(
        "nodes",
        page,
        f"The page is built of {built.nodes:,} elements",
        f"Most, {first['nodes']:,}, stand in {first['selector']}.",
        "Show fewer entries at once, and take out what is hidden on every device.",
        {"sections": built.sections},
    )


def _advice(sort: str, page: str, title: str, why: str, advice: str, facts: dict[str, object]) -> Excess:
    return Excess(
        id=f"{sort}:{page}",
        excess="structure",
        kind="documents",
        title=title,
        why=why,
        pages=(page,),
        bytes=0,
        of_bytes=0,
        requests=0,
        tried=False,
        change=None,
        facts=facts,
        advice=advice,
    )
