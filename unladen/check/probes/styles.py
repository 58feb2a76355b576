"""Computed styles of every element and of what is generated around it: at rest, in forced states, in other media."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterator, Mapping
from typing import Any

from playwright.async_api import Error as PlaywrightError

from unladen.check.pairs import Difference
from unladen.check.probes.foreign_sheets import ForeignSheets
from unladen.check.probes.media import MEDIA, USUAL, asked_for
from unladen.check.probes.spec import Observation, Probe, Scene
from unladen.check.probes.tables import and_more, changed_entries, changed_rows, element_of, shortened
from unladen.page_scripts import kept_in_page

# The script is kept in the page between its parts, since the later ones tell what differs from the first.
STYLES = "styles"
_STYLES = kept_in_page("styles", "states", "computed")
_WHEN = {
    "hover": "when pointed at",
    "active": "while pressed",
    "focus": "with the focus",
    "focus-visible": "with the focus",
    "focus-within": "with the focus inside",
    "checked": "when ticked",
    "invalid": "with invalid input",
    "print": "in print",
    "dark": "in the dark scheme",
    "motion": "with motion allowed",
    "contrast": "with more contrast",
    "forced": "with forced colours",
}


async def observe(scene: Scene) -> Observation:
    """`names` of properties, `rows` of values, `of` each place its row; `moves`; `in`: what differs in a state or
    medium.

    Of the elements, states and media of the scene's focus, if it has one, of all that the page has rules for otherwise.
    """
    focus = scene.focus
    places = None if focus is None or focus.everything else list(focus.places)
    names: list[str] = []
    rows: dict[tuple[str, ...], int] = {}
    of: dict[str, int] = {}
    moves: dict[str, str] = {}
    conditions: set[str] = set()
    closed: list[str] = []
    known: Collection[str] = ()
    mark = ""
    for prefix, answer in await scene.ask_each(
        _STYLES, lambda prefix: {"part": "rest", "places": _in_frame(places, prefix)}
    ):
        names = answer["names"]
        numbers = [rows.setdefault(tuple(row), len(rows)) for row in answer["rows"]]
        of |= {prefix + place: numbers[row] for place, row in answer["of"]}
        moves |= {prefix + place: said for place, said in answer["moves"].items()}
        conditions.update(answer["conditions"])
        closed += answer["closed"]
        known, mark = answer["known"], answer["mark"]
    result: dict[str, dict[str, Any]] = defaultdict(dict)
    if focus is None or focus.states:
        async with ForeignSheets(scene.page, [frame for _, frame in scene.frames], set(closed)) as foreign:
            conditions.update(foreign.conditions())
            asked = {"part": "states", "foreign": foreign.states(known), "asked": focus and list(focus.states)}
            await foreign.force(known, lambda state: f"[{mark}~={state}]")
            for prefix, answer in await scene.ask(_STYLES, asked):
                for state, unlike in answer.items():
                    result[state] |= {prefix + place: values for place, values in unlike.items()}
            await foreign.restore()
            if unread := len(set(closed) - foreign.read):
                scene.left.append(
                    f"states and media of {unread} style sheets of other hosts, which could not be read"
                )
    media = list(focus.media) if focus else asked_for(conditions)
    for name in media:
        # Each by itself: the one before it goes as it comes.
        await _emulate(scene, {**USUAL, **MEDIA[name].emulated})
        for prefix, answer in await scene.ask(_STYLES, {"part": "media"}):
            result[name] |= {prefix + place: values for place, values in answer.items()}
    if media:
        await _emulate(scene, USUAL)
    values = {"names": names, "rows": [list(row) for row in rows], "of": of, "moves": moves, "in": dict(result)}
    return Observation(values)


def _in_frame(places: Collection[str] | None, prefix: str) -> list[str] | None:
    """The places of a frame's own elements, as they are called within it."""
    if places is None:
        return None
    inside = [place.removeprefix(prefix) for place in places if place.startswith(prefix)]
    return [place for place in inside if " >>> " not in place]


async def _emulate(scene: Scene, media: Mapping[str, Any]) -> None:
    try:
        await scene.page.emulate_media(**media)
    except PlaywrightError as error:
        scene.watch.errors.append(f"the medium could not be set: {error.message[:100]}")


def compare(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """Elements whose style differs, those of one property and moment together."""
    seen = (before, again, after)
    groups: dict[tuple[str, str], list[tuple[str, str]]] = defaultdict(list)
    for place, name, old, new in _at_rest(*seen):
        groups["", name].append((place, f"{name}: {old} → {new}"))
    for row in changed_rows(*seen, "moves"):
        groups["", "how it moves"].append((row.place, f"{row.old} → {row.new}"))
    states = {state for observation in seen for state in observation.values["in"]}
    for state in sorted(states, key=lambda s: (s not in _WHEN, s)):
        first, second, now = (_in_state(observation, state) for observation in seen)
        for changed in changed_entries(first, second, now):
            was, is_now = changed.old or {}, changed.new or {}
            # An element that one of the two does not have is told of by the layout and the words.
            if (
                element_of(changed.place) not in before.values["of"]
                or element_of(changed.place) not in after.values["of"]
            ):
                continue
            for name in sorted({*was, *is_now}):
                if was.get(name) != is_now.get(name):
                    detail = f"{name}: {was.get(name, 'as usual')} → {is_now.get(name, 'as usual')}"
                    groups[state, name].append((changed.place, detail))
    return _gathered(groups)


def _gathered(groups: Mapping[tuple[str, str], list[tuple[str, str]]]) -> list[Difference]:
    """One difference for each moment and set of elements, with all properties."""
    by_places: dict[tuple[str, tuple[str, ...]], list[str]] = defaultdict(list)
    details: dict[tuple[str, tuple[str, ...]], list[str]] = defaultdict(list)
    for (state, name), rows in groups.items():
        key = (state, tuple(dict.fromkeys(element_of(place) for place, _ in rows)))
        by_places[key].append(name)
        details[key] += [f"{place} {text}" for place, text in rows[:6]]
    differences = []
    for (state, places), names in by_places.items():
        verb = "look" if len(places) > 1 else "looks"
        when = (f" {_WHEN[state]}" if state in _WHEN else f" in the state “{state}”") if state else ""
        what = shortened(", ".join(name.replace("-", " ") for name in names), 60)
        detail = "; ".join(details[(state, places)])[:2000]
        text = f"{{place}}{and_more(len(places))} {verb} different{when}: {what}"
        differences.append(Difference("styles", text, places=places[:40], step=state, detail=detail))
    return differences


def _at_rest(before: Observation, again: Observation, after: Observation) -> Iterator[tuple[str, str, str, str]]:
    tables = [dict(zip(o.values["names"], range(len(o.values["names"])), strict=True)) for o in (before, after)]
    names = [name for name in tables[0] if name in tables[1]]
    known: dict[tuple[int, int], list[tuple[str, str, str]]] = {}
    for place, row in before.values["of"].items():
        new = after.values["of"].get(place)
        if not _same_row(before, again, place, row):
            continue
        if new is None:
            # Of an element that is gone others tell; what is generated around one that is there is nobody else's.
            if "::" in place and element_of(place) in after.values["of"]:
                yield place, place.partition("::")[2].replace("-", " "), "there", "not there"
            continue
        if (row, new) not in known:
            old_row, new_row = before.values["rows"][row], after.values["rows"][new]
            pairs = ((name, old_row[tables[0][name]], new_row[tables[1][name]]) for name in names)
            known[row, new] = [(name, old, now) for name, old, now in pairs if old != now]
        for name, old, now in known[row, new]:
            yield place, name, old, now


def _same_row(before: Observation, again: Observation, place: str, row: int) -> bool:
    second = again.values["of"].get(place)
    return second is not None and before.values["rows"][row] == again.values["rows"][second]


def _in_state(seen: Observation, state: str) -> Mapping[str, Any]:
    table: Mapping[str, Any] = seen.values["in"].get(state, {})
    return table


PROBE = Probe(STYLES, observe, compare, close=True, version=8)
