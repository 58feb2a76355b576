"""Changes, their scope and parameters, the keep list, efforts; the plan as a document."""

from unladen.plan.choosing import Choice, ImageScope, Proposal, carried_over, proposals, with_choices
from unladen.plan.document import Keep, Plan
from unladen.plan.efforts import EFFORTS, Effort
from unladen.plan.model import PHASES, Change
from unladen.plan.settings import LIKENESS, ImageSettings
from unladen.plan.wanted import PICTURES, EmbedChoice, pictures_for, with_embed, with_picture

__all__ = [
    "EFFORTS", "LIKENESS", "PHASES", "PICTURES", "Change", "Choice", "Effort", "EmbedChoice", "ImageScope", "ImageSettings", "Keep", "Plan",
    "Proposal", "carried_over", "pictures_for", "proposals", "with_choices", "with_embed", "with_picture",
]  # fmt: skip
