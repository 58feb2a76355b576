"""How pages are built: what is advice for the builder, since no bytes can be promised for it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from unladen.remedies import Change, Params
from unladen.survey.findings import Facts, Finding
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.records.model import Part, Structure

# Where a phone begins to feel it (common practice, no source).
_MANY_NODES, _DEEP = 1500, 32


@dataclass(frozen=True, slots=True, kw_only=True)
class StructureFacts(Facts):
    """The parts of the page that it is about, the largest first."""

    about: Literal["structure"] = "structure"


def find(context: Context) -> Found:
    """At most one piece of advice of each sort for a page, from the device on which it is worst."""
    evidence, findings = context.evidence, []
    for page in evidence.pages:
        built = [w.facts.structure for w in evidence.on(page)]
        if not built:
            continue
        largest, deepest = max(built, key=lambda s: s.nodes), max(built, key=lambda s: s.depth)
        moving = max(built, key=lambda s: len(s.moving))
        if largest.nodes > _MANY_NODES:
            findings.append(_many_nodes(page, largest))
        if deepest.depth > _DEEP:
            findings.append(
                _advice(
                    "deep",
                    page,
                    f"Elements lie {deepest.depth} deep",
                    f"The deepest stand in {_called(deepest.deepest)}. Every layer is styled and laid out.",
                    "Remove wrappers that hold a single element; page builders leave many.",
                    StructureFacts(where=[deepest.deepest.selector] if deepest.deepest else []),
                )
            )
        if moving.moving:
            within = f", {len(moving.nested)} of them within another" if moving.nested else ""
            findings.append(
                _advice(
                    "moving",
                    page,
                    f"{len(moving.moving)} animations never end{within}",
                    "They keep a phone busy and its battery warm as long as the page is open.",
                    "Let them run a few times, or only while they are in view.",
                    StructureFacts(where=[part.selector for part in moving.moving]),
                    Change(f"still-out-of-sight:{page}", "still-out-of-sight", (page,), (page,), Params()),
                )
            )
    return Found(tuple(findings))


def _many_nodes(page: str, built: Structure) -> Finding:
    first = built.sections[0] if built.sections else Part("body", nodes=built.nodes)
    return _advice(
        "nodes",
        page,
        f"The page has {built.nodes:,} elements",
        f"Most, {first.nodes:,}, stand in {_called(first)}.",
        "Show fewer entries at once, and remove elements that no device shows.",
        StructureFacts(where=[part.selector for part in built.sections]),
    )


def _advice(
    sort: str, page: str, title: str, why: str, advice: str, facts: StructureFacts, cure: Change[Params] | None = None
) -> Finding:
    return Finding(
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
        facts=facts,
        changes=(cure,) if cure else (),
        advice=advice,
    )


def _called(part: Part | None) -> str:
    return f"“{part.label}”" if part and part.label else part.selector if part else "the page"


SURVEYOR = Surveyor("structure", find, (StructureFacts,), remedies=("still-out-of-sight",), advises=True)
