"""Where the page leads and what it sends."""

from __future__ import annotations

from unladen.check.pairs import Difference
from unladen.check.probes.spec import Observation, Probe, Scene
from unladen.check.probes.tables import Changed, changed_rows, element_of, shortened
from unladen.inpage import in_page

_WAYS = in_page("ways")


async def observe(scene: Scene) -> Observation:
    """Resolved addresses, forms and fields by place, relative to the site; `lost` are links to parts that are not there."""
    values = await scene.tables(_WAYS)
    base = scene.capture.base_url
    for name in ("ways", "forms"):
        values[name] = {place: said.replace(base, "/") for place, said in values.get(name, {}).items()}
    return Observation(values)


def compare(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """Links, forms and fields that lead or send elsewhere, and links into the page that lead nowhere now."""
    found = [_told(row) for row in changed_rows(before, again, after, "ways")]
    for row in changed_rows(before, again, after, "forms"):
        found.append(_difference(row, "{place} sends what is filled in", "to"))
    known = {*(before.values.get("lost") or ()), *(again.values.get("lost") or ())}
    for place in after.values.get("lost") or ():
        if place not in known:
            found.append(Difference("ways", "{place} leads to a part of the page that is not there", places=(place,)))
    return found


def _told(row: Changed) -> Difference:
    if row.place.endswith(" @field"):
        return _difference(row, "{place} takes other values", "as")
    if row.place.endswith(" @shows"):
        return _difference(row, "{place} shows something else", "from")
    return _difference(row, "{place} leads elsewhere", "to")


def _difference(row: Changed, called: str, how: str) -> Difference:
    if row.new is None:
        text = f"{{place}} is gone; it led {how} “{shortened(row.old)}”" if how == "to" else "{place} is gone"
    elif row.old is None:
        text = f"{{place}} is new: “{shortened(row.new)}”"
    else:
        text = f"{called}: {how} “{shortened(row.new)}”, not “{shortened(row.old)}”"
    return Difference("ways", text, places=(element_of(row.place),), detail=f"{row.place}: {row.old} → {row.new}")


PROBE = Probe("ways", observe, compare)
