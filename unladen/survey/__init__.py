"""What could go: one module per kind of excess."""

from unladen.survey.evidence import Evidence, ImageUse
from unladen.survey.finding import Excess, survey
from unladen.survey.inventory import SiteImage, inventory

__all__ = ["Evidence", "Excess", "ImageUse", "SiteImage", "inventory", "survey"]
