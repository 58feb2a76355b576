"""What is wanted.

Changes, their scope and parameters, the keep list, efforts; commands that edit them; the document.
"""

from unladen.plan.commands import (
    Adopt,
    ChooseEmbed,
    ChooseImages,
    Command,
    Pick,
    Propose,
    SetKeep,
    SetPicture,
    SetScope,
    SetSettings,
    Switch,
    TakeEffort,
)
from unladen.plan.document import Keep, Plan, change_as_json
from unladen.plan.efforts import EFFORTS, Effort
from unladen.plan.embed_choices import EmbedChoice
from unladen.plan.image_choices import ImageChoice, ImageScope, Proposal, choices_for, proposals

__all__ = [
    "EFFORTS", "Adopt", "ChooseEmbed", "ChooseImages", "Command", "Effort", "EmbedChoice", "ImageChoice", "ImageScope", "Keep", "Pick",
    "Plan", "Proposal", "Propose", "SetKeep", "SetPicture", "SetScope", "SetSettings", "Switch", "TakeEffort", "change_as_json",
    "choices_for", "proposals",
]  # fmt: skip
