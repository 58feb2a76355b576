"""What could go: one module per kind of excess; `surveyors.py` lists them."""

from unladen.survey.findings import Facts, Finding
from unladen.survey.images.inventory import SiteImage, inventory
from unladen.survey.proposing import Surveyed, survey
from unladen.survey.site_facts import ImageUse, SiteFacts, SurveyInputs
from unladen.survey.surveyors import fact_types

__all__ = [
    "Facts",
    "Finding",
    "ImageUse",
    "SiteFacts",
    "SiteImage",
    "SurveyInputs",
    "Surveyed",
    "fact_types",
    "inventory",
    "survey",
]  # fmt: skip
