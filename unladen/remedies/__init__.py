"""How it goes: one module per remedy. `REMEDIES` maps the name of a remedy to what carries out its changes."""

from __future__ import annotations

from collections.abc import Callable

from unladen.plan import Change
from unladen.remedies import lazy, reserve, shrink, webp
from unladen.remedies.draft import Draft
from unladen.remedies.journal import Journal, Stage

REMEDIES: dict[str, Callable[[Change, Draft], None]] = {
    "shrink": shrink.apply,
    "webp": webp.apply,
    "reserve": reserve.apply,
    "lazy": lazy.apply,
}

__all__ = ["REMEDIES", "Draft", "Journal", "Stage"]
