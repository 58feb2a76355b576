"""One embed treated as the user chose, whatever was proposed."""

from __future__ import annotations

from dataclasses import dataclass, replace

from unladen.errors import BadInput
from unladen.plan.document import AnyChange, Plan
from unladen.remedies.embeds.delay_scripts import WAITS, DelayParams
from unladen.remedies.embeds.stills import WAYS, EmbedParams, Shown, StillPicture
from unladen.remedies.fields import FieldRefused

LEAVE = "leave"


@dataclass(frozen=True, slots=True)
class EmbedChoice:
    """`way`.

    A still, a still that is a link, loading when near, or as found; a script of another host waits until somebody
    comes `near`, presses a still (`click`) or does anything (`act`). `title` is the name on the button.

    `start` is a query that makes a player play; `picture`: as it looked, its own poster, the user's. `below`: only in
    windows up to this width in CSS px, 0 for all.
    """

    way: str
    title: str = ""
    start: str = ""
    picture: str = "seen"
    below: int = 0


def with_embed(plan: Plan, id: str, choice: EmbedChoice) -> Plan:
    """The plan with an embed, by the id of its change, treated as chosen; raises `BadInput`."""
    change = _embed(plan, id)
    params = change.params
    try:
        if isinstance(params, DelayParams):
            params = _delayed(params, choice)
        else:
            assert isinstance(params, EmbedParams)
            params = _stood_in(params, choice)
    except FieldRefused as refused:
        raise BadInput("the choice", str(refused)) from None
    if not params.pictures_of() and choice.picture != "seen":
        raise BadInput("the choice", "the embed has no such picture")
    return _with(plan, replace(change, on=choice.way != LEAVE, params=params, chosen=True))


def _stood_in(params: EmbedParams, choice: EmbedChoice) -> EmbedParams:
    if choice.way not in (*WAYS, LEAVE):
        raise BadInput("the choice", f"the way “{choice.way}” is for another sort of embed")
    return replace(
        params,
        way=params.way if choice.way == LEAVE else choice.way,
        title=choice.title.strip() or params.title,
        start=choice.start,
        picture=choice.picture,
        below=choice.below,
    )


def _delayed(params: DelayParams, choice: EmbedChoice) -> DelayParams:
    if choice.way not in (*WAITS, LEAVE):
        raise BadInput("the choice", f"the way “{choice.way}” is for another sort of embed")
    if choice.way == "near" and not params.places:
        raise BadInput("the choice", "it has no place of its own on the page")
    if choice.way == "click" and not (params.places and all(place.frames for place in params.places.values())):
        raise BadInput("the choice", "it has no place of its own for a placeholder")
    wait = params.wait if choice.way == LEAVE else choice.way
    return replace(params, wait=wait, title=choice.title.strip() or params.title, picture=choice.picture)


def with_picture(plan: Plan, id: str, digest: str, width: int, height: int) -> Plan:
    """The plan with the user's own picture for an embed, which it then shows; raises `BadInput`."""
    change = _embed(plan, id)
    picture = StillPicture(digest=digest, frame=width, width=width, height=height)
    return _with(plan, replace(change, params=replace(change.params, own=(picture,), picture="own"), chosen=True))


def _embed(plan: Plan, id: str) -> AnyChange:
    result = plan.change(id)
    if result is None or not isinstance(result.params, Shown):
        raise BadInput("the plan", f"has no embed “{id}”")
    return result


def _with(plan: Plan, new: AnyChange) -> Plan:
    return plan.changed(lambda change: new if change.id == new.id else change)
