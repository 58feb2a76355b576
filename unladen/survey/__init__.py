"""What could go: one module per kind of excess."""

from unladen.survey.evidence import Evidence, ImageUse
from unladen.survey.finding import Excess, survey

__all__ = ["Evidence", "Excess", "ImageUse", "survey"]
