"""What could go: one module per kind of excess; `surveyors.py` lists them."""

from unladen.survey.excess import Excess, Facts
from unladen.survey.finding import Surveyed, survey
from unladen.survey.images.inventory import SiteImage, inventory
from unladen.survey.site_facts import ImageUse, SiteFacts, SurveyInputs
from unladen.survey.surveyors import fact_types

__all__ = [
    "Excess",
    "Facts",
    "ImageUse",
    "SiteFacts",
    "SiteImage",
    "SurveyInputs",
    "Surveyed",
    "fact_types",
    "inventory",
    "survey",
]  # fmt: skip
