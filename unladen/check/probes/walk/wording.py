"""The walk in words: what a step does, what came of it, what differs."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from unladen.check.probes.tables import shortened
from unladen.check.probes.walk.effects import Effect, Verb

_STEPS = {
    "wait": "waiting",
    "press": "pressing",
    "point": "pointing at",
    "press twice": "pressing twice",
    "menu": "pressing the other button on",
    "key": "pressing the key",
    "type": "typing into",
    "choose": "choosing in",
    "slide": "moving",
    "fill": "filling in",
    "scroll": "scrolling",
    "scroll sideways": "scrolling in",
}
_DOES = {
    Verb.SHOWS: "shows",
    Verb.HIDES: "hides",
    Verb.MOVES: "moves",
    Verb.LOOKS: "changes its appearance",
    Verb.NEW: "appears",
    Verb.GONE: "disappears",
    Verb.SAYS: "changes its text",
    Verb.TELLS: "changes its state",
    Verb.HOLDS: "changes its value",
}
_DID = {
    Verb.SHOWS: "it showed",
    Verb.HIDES: "it hid",
    Verb.MOVES: "it moved",
    Verb.NEW: "it added",
    Verb.GONE: "it removed",
}
_ANSWERS = {
    "attempts": "the link or form leads to",
    "sends": "the form sends",
    "invalid": "the invalid fields are",
    "reached": "the page scrolls to",
}
_PAGE = {
    "scroll": "the scroll position differs",
    "focus": "another element has the focus",
    "title": "the title of the page differs",
}


def words_of(row: Mapping[str, Any]) -> str:
    """A step that is to be taken: "pressing the button “Menu”"."""
    noun, label = row["called"]
    if row["action"] == "leave":
        return f"pointing away from the {noun} “{label}”"
    if row["action"] in ("key", "scroll", "wait"):
        return f"{_STEPS[row['action']]} {label}"
    name = f"{noun} “{label}”" if label else str(noun)
    if row["action"] == "keys":
        return f"pressing the key {row['name'].replace(' ', 'Space')} on the {name}"
    wrongly = " wrongly" if row.get("wrongly") else ""
    again = " again" if row.get("again") else ""
    return f"{_STEPS[row['action']]} the {name}{wrongly}{again}"


def name_of(called: Any) -> str:
    """An element, from its noun and label: "the menu “Main”"."""
    if not called:
        return "another part"
    noun, label = called
    return f"the {noun} “{label}”" if label else f"a {noun}"


def effect_differs(
    step: str, name: str, old: Sequence[Effect] | None, new: Sequence[Effect] | None, *, is_dead: bool
) -> str:
    """What a step does otherwise to an element (`name`); `is_dead`: it has no effect at all now."""
    if is_dead:
        return f"{step} has no effect now; before, {_first(_DID, old) or 'it changed'} {name}"
    if new is None:
        return f"after {step}, {name} no longer {_first(_DOES, old) or 'changes'}"
    if old is None:
        return f"after {step}, {name} now {_first(_DOES, new) or 'changes'}"
    return f"after {step}, {name} differs"


def answer_differs(step: str, name: str, old: Any, new: Any) -> str:
    """Another target, other data sent, other invalid fields or another end of scrolling."""
    unit = " px" if name == "reached" else ""
    was, now = (shortened(value or "nothing") for value in (old, new))
    return f"after {step}, {_ANSWERS[name]} {now}{unit} instead of {was}{unit}"


def page_differs(step: str, name: str) -> str:
    """Another scroll position, focus, title, address or state of the page."""
    return f"after {step}, {_PAGE.get(name, 'the address or the state of the page differs')}"


def styles_differ(step: str, name: str, properties: Sequence[str]) -> str:
    """Other computed styles of an element."""
    return f"after {step}, the styles of {name} differ: {shortened(', '.join(properties), 80) or 'some of them'}"


def picture_differs(step: str, count: int) -> str:
    """Other pixels in the window."""
    parts = f"{count} parts of the window look" if count > 1 else "a part of the window looks"
    return f"after {step}, {parts} different"


def is_impossible(step: str) -> str:
    """A control that is not there any more."""
    return f"{step} is no longer possible"


def _first(words: Mapping[Verb, str], effects: Sequence[Effect] | None) -> str:
    """The words for the first of some effects, "" where there are none."""
    return words.get(effects[0].verb, "") if effects else ""
