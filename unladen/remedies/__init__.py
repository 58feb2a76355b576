"""How it goes: one module per remedy. `REMEDIES` maps the name of a remedy to what carries out its changes."""

from __future__ import annotations

from collections.abc import Callable

from unladen.plan import Change
from unladen.remedies import (
    avif,
    embed,
    endless,
    exact,
    film,
    hold,
    inline,
    late,
    lazy,
    merge,
    phone,
    poster,
    priority,
    recompress,
    reserve,
    shrink,
    svg,
    wait,
    webp,
    widths,
)
from unladen.remedies.draft import Draft
from unladen.remedies.journal import Journal, Stage

REMEDIES: dict[str, Callable[[Change, Draft], None]] = {
    "embed": embed.apply,
    "hold": hold.apply,
    "endless": endless.apply,
    "merge": merge.apply,
    "exact": exact.apply,
    "svg": svg.apply,
    "shrink": shrink.apply,
    "recompress": recompress.apply,
    "webp": webp.apply,
    "avif": avif.apply,
    "widths": widths.apply,
    "phone": phone.apply,
    "inline": inline.apply,
    "reserve": reserve.apply,
    "lazy": lazy.apply,
    "late": late.apply,
    "film": film.apply,
    "wait": wait.apply,
    "poster": poster.apply,
    "priority": priority.apply,
}

__all__ = ["REMEDIES", "Draft", "Journal", "Stage"]
