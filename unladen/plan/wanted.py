"""One embed treated as the user chose, whatever was proposed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from unladen.plan.document import Plan
from unladen.plan.model import Change

WAYS = ("still", "link", "lazy", "leave")
WAITS = ("near", "click", "act")
PICTURES = ("seen", "poster", "own")
_LONGEST = 200  # characters


@dataclass(frozen=True, slots=True)
class EmbedChoice:
    """`way`: a still, a still that is a link, loading when near, or as found; a script of another host waits until somebody
    comes `near`, presses a still (`click`) or does anything (`act`). `title` is the name on the button.

    `start` is a query that makes a player play; `picture` one of `PICTURES`: as it looked, its own poster, the user's.
    `below`: only in windows up to this width in CSS px, 0 for all.
    """

    way: str
    title: str = ""
    start: str = ""
    picture: str = "seen"
    below: int = 0

    def __post_init__(self) -> None:
        if self.way not in (*WAYS, *WAITS):
            raise ValueError(f"the way “{self.way}” is none of {', '.join((*WAYS, *WAITS))}")
        if self.picture not in PICTURES:
            raise ValueError(f"the picture “{self.picture}” is none of {', '.join(PICTURES)}")
        if len(self.title) > _LONGEST or len(self.start) > _LONGEST:
            raise ValueError(f"names and queries have at most {_LONGEST} characters")
        if not 0 <= self.below <= 4000:
            raise ValueError("a window's width goes from 0 to 4,000 px")
        if any(c in self.start for c in "?#\"'<> "):
            raise ValueError("a query has the form name=value, with & between several")


def with_embed(plan: Plan, change: str, choice: EmbedChoice) -> Plan:
    """The plan with an embed, by the id of its change, treated as chosen; raises `ValueError` for one that is not there."""

    def choose(params: dict[str, Any]) -> dict[str, Any]:
        if not pictures_for(params, choice.picture) and choice.picture != "seen":
            raise ValueError("there is no such picture of this embed")
        way = params.get("way", "still") if choice.way == "leave" else choice.way
        return params | {
            "way": way,
            "title": choice.title.strip() or params.get("title", ""),
            "start": choice.start,
            "picture": choice.picture,
            "below": choice.below,
            "chosen": True,
        }

    def edit(found: Change) -> Change:
        if choice.way != "leave" and (choice.way in WAITS) != (found.remedy == "hold"):
            raise ValueError(f"the way “{choice.way}” is for another sort of embed")
        params = _held(found.params, choice) if found.remedy == "hold" else choose(found.params)
        return replace(found, on=choice.way != "leave", set_aside="", params=params)

    return _edited(plan, change, edit)


def _held(params: dict[str, Any], choice: EmbedChoice) -> dict[str, Any]:
    places = params.get("places", {})
    if choice.way == "near" and not places:
        raise ValueError("it makes nothing at a place of its own that could come near")
    if choice.way == "click" and not (places and all(place.get("frames") for place in places.values())):
        raise ValueError("it makes nothing at a place of its own where a picture could stand")
    wait = params.get("wait", "act") if choice.way == "leave" else choice.way
    title = choice.title.strip() or params.get("title", "")
    return params | {"wait": wait, "title": title, "picture": choice.picture, "chosen": True}


def with_picture(plan: Plan, change: str, digest: str, width: int, height: int) -> Plan:
    """The plan with the user's own picture for an embed, which it then shows; raises `ValueError`."""
    own = {"digest": digest, "frame": width, "width": width, "height": height}
    return _edited(
        plan, change, lambda c: replace(c, params=c.params | {"own": [own], "picture": "own", "chosen": True})
    )


def pictures_for(params: dict[str, Any], which: str = "") -> list[dict[str, Any]]:
    """The pictures of an embed of one sort, or of the sort that its parameters name."""
    which = which or str(params.get("picture", "seen"))
    found = params.get({"seen": "pictures"}.get(which, which), [])
    return found if isinstance(found, list) else []


def _edited(plan: Plan, change: str, edit: Callable[[Change], Change]) -> Plan:
    if not any(c.id == change and c.remedy in ("embed", "hold") for c in plan.changes):
        raise ValueError(f"the plan has no embed “{change}”")
    return plan.changed(lambda c: edit(c) if c.id == change else c)
