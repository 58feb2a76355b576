"""How it goes: one module per remedy, which says all about itself; `registry.py` lists them."""

from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.journal import Added, Edited, Journal, Offered, Replaced, Spared, Withheld
from unladen.remedies.registry import name_now, order_of, remedies, remedy_named
from unladen.remedies.settings import LEAVE, LIKENESS, Delivery, FolderRule, ImageSettings
from unladen.remedies.spec import EFFORTS, PHASES, Remedy

__all__ = [
    "EFFORTS",
    "LEAVE",
    "LIKENESS",
    "PHASES",
    "Added",
    "Change",
    "Delivery",
    "Draft",
    "Edited",
    "FolderRule",
    "ImageSettings",
    "Journal",
    "Offered",
    "Params",
    "Remedy",
    "Replaced",
    "Spared",
    "Withheld",
    "name_now",
    "order_of",
    "remedies",
    "remedy_named",
]
