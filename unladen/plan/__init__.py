"""Changes, their scope and parameters, the keep list, efforts; the plan as a document."""

from unladen.plan.choosing import Choice, ImageScope, Proposal, carried_over, proposals, with_choices
from unladen.plan.document import Keep, Plan
from unladen.plan.efforts import EFFORTS, Effort
from unladen.plan.model import PHASES, Change
from unladen.plan.settings import LIKENESS, ImageSettings

__all__ = [
    "EFFORTS", "LIKENESS", "PHASES", "Change", "Choice", "Effort", "ImageScope", "ImageSettings", "Keep", "Plan",
    "Proposal", "carried_over", "proposals", "with_choices",
]  # fmt: skip
