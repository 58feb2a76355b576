"""Changes, their scope and parameters, the keep list, efforts; the plan as a document."""

from unladen.plan.document import Keep, Plan
from unladen.plan.efforts import EFFORTS, Effort
from unladen.plan.model import PHASES, Change
from unladen.plan.settings import LIKENESS, ImageSettings

__all__ = ["EFFORTS", "LIKENESS", "PHASES", "Change", "Effort", "ImageSettings", "Keep", "Plan"]
