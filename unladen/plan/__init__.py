"""What is wanted.

Changes, their scope and parameters, the keep list, efforts; commands that edit them; the document.
"""

from unladen.plan.commands import (
    Accept,
    Adopt,
    ChooseEmbed,
    ChooseImages,
    Command,
    KeepRules,
    LeaveOut,
    Pick,
    Propose,
    SetIgnoredRegions,
    SetKeepList,
    SetParams,
    SetPicture,
    SetScope,
    SetSettings,
    Switch,
    TakeEffort,
)
from unladen.plan.document import Plan, Unit, change_as_json
from unladen.plan.efforts import EFFORTS, Effort
from unladen.plan.embed_choices import EmbedChoice
from unladen.plan.image_choices import ImageChoice, ImageScope, Proposal, choices_for, proposals
from unladen.plan.keep_list import KINDS, KeepList, KeepNote
from unladen.plan.tolerance import Accepted, IgnoredRegion, Tolerance

__all__ = [
    "EFFORTS",
    "KINDS",
    "Accept",
    "Accepted",
    "Adopt",
    "ChooseEmbed",
    "ChooseImages",
    "Command",
    "Effort",
    "EmbedChoice",
    "IgnoredRegion",
    "ImageChoice",
    "ImageScope",
    "KeepList",
    "KeepNote",
    "KeepRules",
    "LeaveOut",
    "Pick",
    "Plan",
    "Proposal",
    "Propose",
    "SetIgnoredRegions",
    "SetKeepList",
    "SetParams",
    "SetPicture",
    "SetScope",
    "SetSettings",
    "Switch",
    "TakeEffort",
    "Tolerance",
    "Unit",
    "change_as_json",
    "choices_for",
    "proposals",
]  # fmt: skip
