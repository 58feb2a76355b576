"""The elements of the page: where they are, and that they can be reached."""

from __future__ import annotations

from collections.abc import Sequence

from unladen.check.pairs import Difference
from unladen.check.probes.spec import Observation, Probe, Scene
from unladen.check.probes.tables import and_more, changed_rows
from unladen.page_scripts import in_page

MOVED = 1.0  # CSS px
_MOST_NAMED = 5
_HITS = in_page("hits")
Box = Sequence[float]


async def observe(scene: Scene) -> Observation:
    """`boxes`: x, y, width and height in CSS px by place, in the order of the page; `names`: what people would call
    them.
    """
    return Observation(
        {"boxes": scene.found["boxes"], "names": scene.found["names"], "closed": scene.found["closed"]}
    )


async def observe_hits(scene: Scene) -> Observation:
    """For each control that shows what lies above its middle; "" where nothing does."""
    hits: dict[str, str] = {}
    for prefix, answer in await scene.ask(_HITS):
        hits |= {
            prefix + place: above and (prefix + above if above.startswith("html") else above)
            for place, above in answer.items()
        }
    return Observation({"hits": hits})


def compare(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """Elements that are gone, came, show no more, or moved."""
    first, second, now = (dict(seen.values["boxes"]) for seen in (before, again, after))
    steady = [place for place in first if _near(second.get(place), first[place])]
    closed = set(after.values.get("closed") or ())
    gone = [place for place in steady if place not in now]
    differences = []
    if gone:
        hides = gone[0] in closed
        text = "{place} is no longer visible" if hides else "{place} is gone"
        differences.append(
            Difference(
                "gone", text + and_more(len(gone)), _boxes(first, gone), places=tuple(gone[:40]), detail=_list(gone)
            )
        )
    known = {*first, *second, *(before.values.get("closed") or ())}
    came = [place for place in now if place not in first and place not in second]
    if came:
        text = "{place} became visible" if came[0] in known else "{place} is new"
        differences.append(
            Difference(
                "came", text + and_more(len(came)), _boxes(now, came), places=tuple(came[:40]), detail=_list(came)
            )
        )
    moved = [place for place in steady if place in now and not _near(now[place], first[place])]
    # The first in the order of the page is nearest to the cause; what stands behind it is only pushed. What lies around
    # it grew with it, and says less than what is within.
    inner = [p for p in moved if not any(q.startswith(p + " > ") for q in moved)] or moved
    if moved:
        lead = inner[0]
        named = "; ".join(_movement(place, first[place], now[place]) for place in moved[:_MOST_NAMED])
        text = "{place} " + _moved(first[lead], now[lead]) + and_more(len(moved))
        ordered = [lead, *(p for p in moved if p != lead)]
        differences.append(
            Difference("moved", text, _boxes(first, ordered), places=tuple(ordered[:40]), detail=named)
        )
    return differences


def compare_hits(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """Controls that could be pressed before and cannot now."""
    differences = []
    for row in changed_rows(before, again, after, "hits"):
        if row.old == "" and row.new and row.new not in ("gone", "outside"):
            differences.append(
                Difference(
                    "covered",
                    "{place} cannot be pressed: another element covers it",
                    places=(row.place,),
                    detail=row.new,
                )
            )
        elif row.old == "" and row.new == "outside":
            differences.append(Difference("covered", "{place} is now outside the window", places=(row.place,)))
    return differences[:_MOST_NAMED]


def _near(box: Box | None, other: Box) -> bool:
    return box is not None and all(abs(a - b) <= MOVED for a, b in zip(box, other, strict=True))


def _moved(old: Box, new: Box) -> str:
    if abs(old[2] - new[2]) > MOVED or abs(old[3] - new[3]) > MOVED:
        return f"is {new[2]:.0f}x{new[3]:.0f} px, was {old[2]:.0f}x{old[3]:.0f}"
    return f"moved by {new[0] - old[0]:.0f}, {new[1] - old[1]:.0f} px"


def _movement(place: str, old: Box, new: Box) -> str:
    return f"{place} {_moved(old, new)}"


def _list(places: Sequence[str]) -> str:
    return "; ".join(places[:_MOST_NAMED])


def _boxes(known: dict[str, Box], places: Sequence[str]) -> tuple[tuple[int, int, int, int], ...]:
    return tuple(_rounded(known[place]) for place in places[:_MOST_NAMED])


def _rounded(box: Box) -> tuple[int, int, int, int]:
    x, y, width, height = box
    return round(x), round(y), round(x + width), round(y + height)


LAYOUT = Probe("layout", observe, compare)
HITS = Probe("hits", observe_hits, compare_hits, when="acting")
