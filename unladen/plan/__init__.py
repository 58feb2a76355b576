"""Changes, their scope and parameters, the keep list, efforts; the plan as a document."""

from unladen.plan.document import Keep, Plan
from unladen.plan.efforts import EFFORTS, Effort
from unladen.plan.model import PHASES, Change

__all__ = ["EFFORTS", "PHASES", "Change", "Effort", "Keep", "Plan"]
