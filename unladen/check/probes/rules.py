"""Which rules match which elements: where this is the same, no computed style can differ, in whatever state or
medium.
"""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

from unladen.capture.addresses import canonical
from unladen.check.pairs import Difference
from unladen.check.probes.foreign_sheets import ForeignSheets
from unladen.check.probes.media import MEDIA
from unladen.check.probes.spec import Focus, Observation, Probe, Scene
from unladen.page_scripts import kept_in_page

RULES = "rules"
_RULES = kept_in_page("rules", "states", "computed")


async def observe(scene: Scene) -> Observation:
    """Tables and lists:

    - `marks`: for each place a mark of all that is declared of it, without custom properties that nothing reads, and,
      by number, the states and media that this names (`moods`);
    - `rules`: what stands around each rule that is about an element, its selector and its declarations, by mark;
    - `order`: all rules, also those that are about no element by now, from the last to the first; `waiting`: what
      these wait for (names of elements, classes and ids, by mark); `names` that there are;
    - `whole`: what concerns all elements; `faces`: families that rules name and the page declares;
    - `closed`: sheets that could not be read, each with a digest of its file.
    """
    asked: dict[str, Any] = {"foreign": {}, "kinds": [[name, medium.asked] for name, medium in MEDIA.items()]}
    answers = await scene.ask(_RULES, asked)
    # What the site has not got has no rules.
    closed = {
        url for _, answer in answers for url in answer["closed"] if url and scene.capture.lookup(canonical(url))
    }
    if closed:
        async with ForeignSheets(scene.page, [frame for _, frame in scene.frames], closed, nested=True) as foreign:
            answers = await scene.ask(_RULES, {**asked, "foreign": foreign.by_address()})
            closed -= foreign.read
    values: dict[str, Any] = {"marks": {}, "rules": {}, "moods": {}, "whole": [], "faces": []}
    values |= {"order": [], "waiting": {}, "names": [], "quirks": False}
    for prefix, answer in answers:
        values["marks"] |= {prefix + place: mark for place, mark in answer["marks"].items()}
        values["rules"] |= answer["rules"]
        values["moods"] |= answer["moods"]
        values["order"] += answer["order"]
        values["waiting"] |= answer["waiting"]
        values["names"] += answer["names"]
        values["quirks"] |= answer["quirks"]
        values["whole"] += [prefix + text for text in answer["whole"]]
        values["faces"] += [prefix + name for name in answer["faces"]]
    values["closed"] = {url: scene.capture.content(canonical(url)) for url in sorted(closed)}
    if closed:
        scene.left.append(f"{len(closed)} style sheets of other hosts, which could not be read")
    return Observation(values)


def compare(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """Families of fonts that rules name and nothing declares any more; what else differs here is a `focus`, no
    difference.
    """
    lost = [name for name in before.values["faces"] if name in again.values["faces"]]
    lost = [name for name in lost if name not in after.values["faces"]]
    return [
        Difference("styles", f"the font “{name}”, used by style rules, is no longer declared")
        for name in (place.rpartition(" >>> ")[2] for place in lost)
    ]


def focus_of(before: Observation, after: Observation) -> Focus | None:
    """Where computed styles can differ between two pages; None if nowhere."""
    first, now = before.values["marks"], after.values["marks"]
    everything = any(before.values[name] != after.values[name] for name in ("whole", "closed"))
    # What only one of the two has may be what moves another element.
    places = tuple(place for place in {**first, **now} if everything or first.get(place) != now.get(place))
    if not places:
        return None
    states: set[str] = set()
    media: set[str] = set()
    for seen in (before, after):
        moods = seen.values["moods"]
        marks = seen.values["marks"]
        for mood in {marks[place].partition(" ")[2] for place in places if place in marks}:
            states.update(moods[mood][0])
            media.update(moods[mood][1])
    old, new = before.values["rules"], after.values["rules"]
    only_one = [tuple(row) for mark, row in (old | new).items() if mark not in old or mark not in new]
    return Focus(places, tuple(sorted(states)), tuple(sorted(media)), everything, tuple(only_one))


def may_come(before: Observation, after: Observation, came: Collection[str]) -> bool:
    """Whether a rule that only one of two pages has, or has in another order, may be about an element once these
    names have come.

    `came` are classes and ids that stood somewhere while the first page was used.
    """
    old, new = before.values, after.values
    if old["quirks"] or new["quirks"]:
        return True  # names are told apart in another way there
    common = set(old["order"]) & set(new["order"])
    if [mark for mark in old["order"] if mark in common] != [mark for mark in new["order"] if mark in common]:
        return True
    names = {*old["names"], *new["names"], *came}
    lone = [mark for seen in (old, new) for mark in seen["order"] if mark not in common]
    waiting = old["waiting"] | new["waiting"]
    return any(mark not in waiting or names.issuperset(waiting[mark].split(" ")) for mark in lone)


PROBE = Probe(RULES, observe, compare, version=4)
