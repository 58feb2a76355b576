"""The report: what was done to a site and what it brought, for those who were not there."""

from unladen.ledger.report.content import (
    MOST_LOGO,
    MOST_WORDS,
    Advice,
    Figures,
    Refusal,
    Report,
    Sender,
    Shot,
    figures_of,
    logo_of,
    remaining_advice,
    report_of,
)
from unladen.ledger.report.page import report_html
from unladen.ledger.report.pdf import PAPERS, report_pdf
from unladen.ledger.report.table import ledger_csv

__all__ = [
    "MOST_LOGO",
    "MOST_WORDS",
    "PAPERS",
    "Advice",
    "Figures",
    "Refusal",
    "Report",
    "Sender",
    "Shot",
    "figures_of",
    "ledger_csv",
    "logo_of",
    "remaining_advice",
    "report_html",
    "report_of",
    "report_pdf",
]  # fmt: skip
