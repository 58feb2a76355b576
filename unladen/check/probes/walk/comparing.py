"""Walks compared: steps with other effects."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from unladen.check.pairs import Difference
from unladen.check.pictures import Other, differing, read_picture
from unladen.check.probes.picture import judged, other_files
from unladen.check.probes.spec import Judge, Observation
from unladen.check.probes.tables import Changed, changed_entries
from unladen.check.probes.walk import wording
from unladen.check.probes.walk.effects import Effects, Verb, are_near, effects_of, rough

_MOST = 40  # differences, and places of one
_DETAIL = 2000  # characters


@dataclass(frozen=True, slots=True)
class _Step:
    """A step with its effects; `row` is how the observation keeps it."""

    row: Mapping[str, Any]
    effects: Effects

    @property
    def words(self) -> str:
        return str(self.row["words"])

    @property
    def place(self) -> str:
        return str(self.row["place"])

    def without_places(self) -> _Step:
        """The step after an earlier difference: places and looks follow from that one."""
        page = {name: value for name, value in self.row["page"].items() if name != "scroll"}
        return _Step({**self.row, "page": page, "reached": 0}, rough(self.effects))

    def difference(self, text: str, *, detail: str = "", what: str = "walk", **more: Any) -> Difference:
        places = more.pop("places", (self.place,))
        return Difference(what, text, step=self.words, places=places, detail=detail[:_DETAIL], **more)


def compare(before: Observation, again: Observation, after: Observation, judge: Judge) -> list[Difference]:
    """Steps with another effect, in the order of the walk.

    After the first difference the page is in another state, so later steps are compared without places and looks.
    """
    first, second, now = (_steps(observation) for observation in (before, again, after))
    differences: list[Difference] = []
    for key, old in first.items():
        same, new = second.get(key), now.get(key)
        if same is None or not old.row["there"] or old.row["restless"]:
            continue
        if new is None or not new.row["there"]:
            if not differences:  # where an earlier step opened nothing, its controls are missing too
                differences.append(old.difference(wording.is_impossible(old.words), detail=key))
            continue
        if differences:
            old, same, new = (step.without_places() for step in (old, same, new))
            fresh = _differences(old, same, new)
        else:
            fresh = _differences(old, same, new) or _pictures(before, again, after, old, same, new, judge)
        differences += [replace(difference, clues=tuple(old.row.get("came", ()))) for difference in fresh]
    return differences[:_MOST]


def _steps(observation: Observation) -> dict[str, _Step]:
    return {row["key"]: _Step(row, effects_of(row["effect"])) for row in observation.values["steps"]}


def _differences(old: _Step, same: _Step, new: _Step) -> list[Difference]:
    on_elements = _on_elements(old, same, new) or _styles(old, same, new)
    return on_elements + _answers(old, same, new) + _page(old, same, new) + _errors(old, same, new)


def _on_elements(old: _Step, same: _Step, new: _Step) -> list[Difference]:
    rows = [row for row in changed_entries(old.effects, same.effects, new.effects) if not are_near(row.old, row.new)]
    if not rows:
        return []
    names = old.row["names"] | new.row["names"]
    lead = _lead(rows)
    text = wording.effect_differs(
        old.words,
        wording.name_of(names.get(lead.place)),
        lead.old,
        lead.new,
        is_dead=bool(old.effects) and not new.effects,
    )
    was, now = old.row["effect"], new.row["effect"]
    detail = "; ".join(f"{row.place}: {_said(was.get(row.place))} → {_said(now.get(row.place))}" for row in rows[:8])
    places = tuple(dict.fromkeys([old.place, *(row.place for row in rows)]))[:_MOST]
    shots = (old.row.get("picture", ""), new.row.get("picture", ""))
    return [old.difference(text, detail=detail, places=places, shots=shots if any(shots) else None)]


def _lead(rows: Sequence[Changed]) -> Changed:
    """The row that says most: what no longer shows, then what is lost, then the first."""
    lost = [row for row in rows if row.new is None]
    hidden = (row for row in lost if any(effect.verb is Verb.SHOWS for effect in row.old or ()))
    return next(hidden, (lost or list(rows))[0])


def _said(effects: Any) -> str:
    """Effects as plain words, for the details of a difference."""
    if effects is None:
        return "nothing"
    return ", ".join(" ".join(map(str, [verb, *box, text])).strip() for verb, box, text in effects)


def _styles(old: _Step, same: _Step, new: _Step) -> list[Difference]:
    """Elements that the step touched on both pages, with other styles."""
    was, again, now = (step.row["styles"] for step in (old, same, new))
    places = [place for place, marks in was.items() if marks == again.get(place) and now.get(place, marks) != marks]
    if not places:
        return []
    properties = dict.fromkeys(
        name
        for place in places
        for name, a, b in zip(old.row["properties"], was[place], now[place], strict=False)
        if a != b
    )
    name = wording.name_of((old.row["names"] | new.row["names"]).get(places[0]))
    text = wording.styles_differ(old.words, name, list(properties))
    return [old.difference(text, detail=", ".join(properties), places=(old.place, *places[: _MOST - 1]))]


def _answers(old: _Step, same: _Step, new: _Step) -> list[Difference]:
    return [
        old.difference(
            wording.answer_differs(old.words, name, old.row[name], new.row[name]),
            detail=f"{old.row[name]} → {new.row[name]}",
        )
        for name in ("attempts", "sends", "invalid", "reached")
        if old.row[name] != new.row[name] and old.row[name] == same.row[name]
    ]


def _page(old: _Step, same: _Step, new: _Step) -> list[Difference]:
    differences = []
    for name in sorted({*old.row["page"], *new.row["page"]}):
        was, now = old.row["page"].get(name), new.row["page"].get(name)
        if was != now and was == same.row["page"].get(name) and not (name == "scroll" and _is_close(was, now)):
            text = wording.page_differs(old.words, name)
            differences.append(old.difference(text, detail=f"{name}: {was} → {now}"))
    return differences


def _is_close(was: str | None, now: str | None) -> bool:
    """Whether two scroll positions ("x,y" in CSS px) are the same but for rounding."""
    if was is None or now is None:
        return False
    return all(abs(float(a) - float(b)) <= 2 for a, b in zip(was.split(","), now.split(","), strict=True))


def _errors(old: _Step, same: _Step, new: _Step) -> list[Difference]:
    known = {*old.row["errors"], *same.row["errors"]}
    return [
        old.difference(f"after {old.words}: {error}", what="error")
        for error in new.row["errors"]
        if error not in known
    ]


def _pictures(
    before: Observation,
    again: Observation,
    after: Observation,
    old: _Step,
    same: _Step,
    new: _Step,
    judge: Judge,
) -> list[Difference]:
    """What the pictures of a step show besides its effects."""
    names = [step.row.get("picture", "") for step in (old, same, new)]
    bodies = [seen.bodies.get(name, b"") for seen, name in zip((before, again, after), names, strict=True)]
    if not all(bodies) or bodies[0] == bodies[2] or old.row["scroll"] != new.row["scroll"]:
        return []
    first, second, now = map(read_picture, bodies)
    x, y = old.row["scroll"]

    def placed(box: Sequence[float]) -> tuple[float, float, float, float]:
        return box[0] - x, box[1] - y, box[2] - x, box[3] - y

    others = other_files(old.row, new.row)
    likeness = judged(others, old.row["density"], old.row["zoom"], judge)
    boxes = [Other(placed(box), likeness.get(other.place)) for other in others for box in other.boxes]
    stills = [placed((a - 1, b - 1, a + w + 1, b + h + 1)) for a, b, w, h in new.row["stills"]]
    spots = differing(first, second, now, boxes, stills)
    if not spots:
        return []
    text = wording.picture_differs(old.words, len(spots))
    return [old.difference(text, what="step picture", shots=(names[0], names[2]))]
