"""The report as one HTML file that needs nothing else."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from jinja2 import Environment, FileSystemLoader, StrictUndefined
from markupsafe import Markup

from unladen.ledger.report.content import Report
from unladen.ledger.report.drawings import legend
from unladen.ledger.report.face import face_rules
from unladen.ledger.report.sections import parts_of, pictures_of, sides, summary_of


def _plain(value: Any) -> Any:
    """Texts of people and sites without line breaks and runs of spaces; what is markup already stays."""
    return " ".join(value.split()) if isinstance(value, str) and not isinstance(value, Markup) else value


_TEMPLATES = Environment(
    loader=FileSystemLoader(Path(__file__).resolve().parent / "templates"),
    autoescape=True,
    undefined=StrictUndefined,
    finalize=_plain,
    trim_blocks=True,
    lstrip_blocks=True,
    keep_trailing_newline=True,
)


def report_html(report: Report, *, short: bool = False) -> str:
    """The report; texts of people and sites stand in it as text and nothing else. `short` leaves the appendix out."""
    logo = report.sender.logo
    pictures = pictures_of(report)
    context = {
        "report": report,
        "logo": logo if logo.startswith("data:image/") else "",
        "summary": summary_of(report, pictures),
        "parts": parts_of(report, pictures, short=short),
        "legend": legend(sides(report.ledger)),
    }
    template = _TEMPLATES.get_template("report.html")
    # The face is cut to the characters of the text, so the text comes first.
    return template.render(context, faces=Markup(face_rules(template.render(context, faces=""))))
