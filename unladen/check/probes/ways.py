"""Where the page leads and what it sends."""

from __future__ import annotations

from collections.abc import Mapping

from unladen.capture.addresses import canonical
from unladen.capture.mediatypes import is_page
from unladen.check.pairs import Difference
from unladen.check.probes.spec import Observation, Probe, Scene
from unladen.check.probes.tables import Changed, changed_rows, element_of, shortened
from unladen.page_scripts import in_page

_WAYS = in_page("ways")


async def observe(scene: Scene) -> Observation:
    """Resolved addresses, forms and fields by place, relative to the site; `lost` are links to parts that are not
    there.
    """
    values = await scene.tables(_WAYS)
    base = scene.capture.base_url
    for name in ("ways", "forms"):
        values[name] = {place: said.replace(base, "/") for place, said in values.get(name, {}).items()}
    values["files"] = _files(scene, values["ways"])
    return Observation(values)


def _files(scene: Scene, ways: Mapping[str, str]) -> dict[str, str]:
    """For each link into the site what is there: nothing, a page or a picture (others tell of these), or which file."""
    files, capture = {}, scene.capture
    for place, said in ways.items():
        href = said.split("  ")[0].partition("#")[0]
        if " @" in place or not href.startswith("/"):
            continue
        url = canonical(capture.base_url + href.removeprefix("/"))
        file = capture.lookup(url)
        kind = file.media_type.partition("/")[0] if file else ""
        if file and (is_page(file.media_type) or kind in ("image", "video", "audio")):
            state = "is there"
        else:
            # What the page does not ask for counts only where it is told of here, whether it is there or not.
            scene.asked.add(url)
            state = f"is the file {file.digest[:12]}" if file else "is not there"
        files[f"{place} @file"] = state
    return files


def compare(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """Links, forms and fields that lead or send elsewhere, and links into the page that lead nowhere now."""
    rows = changed_rows(before, again, after, "ways")
    # A film may get a picture that it had not.
    differences = [_told(row) for row in rows if not (row.old is None and row.place.endswith(" @poster"))]
    for row in changed_rows(before, again, after, "forms"):
        differences.append(_difference(row, "{place} sends what is filled in", "to"))
    differences += [_told(row) for row in changed_rows(before, again, after, "files")]
    known = {*(before.values.get("lost") or ()), *(again.values.get("lost") or ())}
    for place in after.values.get("lost") or ():
        if place not in known:
            differences.append(
                Difference("ways", "{place} leads to a part of the page that is not there", places=(place,))
            )
    return differences


def _told(row: Changed) -> Difference:
    if row.place.endswith(" @field"):
        return _difference(row, "{place} takes other values", "as")
    if row.place.endswith(" @plays"):
        return _difference(row, "{place} has other controls or captions", "with")
    if row.place.endswith(" @poster"):
        return Difference("ways", "{place} has lost its image", places=(element_of(row.place),))
    if row.place.endswith(" @file"):
        return _difference(row, "what {place} leads to", "now")
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


PROBE = Probe("ways", observe, compare, version=3)
