"""What shows before a visitor has done anything and the late styles have come, where a page has either."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from unladen.check.pairs import Difference
from unladen.check.probes.spec import Observation, Probe, Scene
from unladen.check.probes.tables import and_more
from unladen.markup.site import texts_of

_MOVED = 1  # CSS px
_MOST_NAMED = 40


async def observe(scene: Scene) -> Observation:
    """What was seen on the way to rest, before anything was scrolled: for each place in the window x, y, width and
    height in CSS px, its colours, and whether the picture in it is there (`None`: it may come later), without style
    sheets that come late, and in which layer over the page it lies. `layers` are those of scripts, which are not in
    the page's text. `waits`: there are style sheets or scripts that wait.
    """
    values = dict(scene.arrived or {"shown": {}, "layers": [], "waits": False})
    page = scene.capture.lookup(scene.url)
    document = texts_of(scene.capture).document(page) if page else None
    values["layers"] = [layer for layer in values["layers"] if not (document and document.matching(layer))]
    return Observation(values)


def compare(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """What a visitor would not see, or see otherwise, until all has come."""
    if not after.values["waits"]:
        return []
    first, second, now = (seen.values["shown"] for seen in (before, again, after))
    steady = [place for place in first if place in second and _same(first[place], second[place])]
    # What scripts lay over a page, such as a button to ask somebody, may come with them.
    layers = {*before.values["layers"], *again.values["layers"]}
    missed = [place for place in steady if place not in now and first[place][7] not in layers]
    came = [place for place in now if place not in first and place not in second]
    other = [place for place in steady if place in now and not _same(first[place], now[place])]
    differences = []
    for places, text in (
        (missed, "{place} stays hidden until late files load"),
        (came, "{place} shows until late files load"),
        (other, "{place} looks different until late files load"),
    ):
        if places:
            table = now if places is came else first
            boxes = tuple(_box(table[place]) for place in places[:5])
            differences.append(
                Difference("arrival", text + and_more(len(places)), boxes, places=tuple(places[:_MOST_NAMED]))
            )
    return differences


def _same(one: Sequence[Any], other: Sequence[Any]) -> bool:
    near = all(abs(a - b) <= _MOVED for a, b in zip(one[:4], other[:4], strict=True))
    there = None in (one[6], other[6]) or one[6] == other[6]
    return near and there and one[4:6] == other[4:6]


def _box(row: Sequence[Any]) -> tuple[int, int, int, int]:
    x, y, width, height = row[:4]
    return x, y, x + width, y + height


PROBE = Probe("arrival", observe, compare)
