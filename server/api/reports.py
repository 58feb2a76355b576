"""The report of the run that is shown, and what its sender puts on top of it."""

from __future__ import annotations

from typing import Literal
from uuid import UUID

from django.contrib.auth.models import User
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import File, Query
from ninja.files import UploadedFile

from server.api.reading import ERRORS, FILE, file, owner_of, run_of, site_of, slug_of
from server.api.routing import ApiRouter
from server.api.schemas.showing import LetterheadIO
from server.audit import audited
from server.reviews import reviewing
from server.reviews.models import Letterhead
from server.sites import runs, storage
from server.sites.models import Run, Site
from unladen.check import PageCheck
from unladen.ledger.report import (
    MOST_LOGO,
    Refusal,
    Report,
    Sender,
    ledger_csv,
    logo_of,
    report_html,
    report_of,
    report_pdf,
)

router = ApiRouter(tags=["reports"])
_ANONYMOUS = "Somebody"


def sender_of(user: User) -> Sender:
    """What a user puts on top."""
    letterhead = Letterhead.objects.filter(user=user).first()
    return Sender(letterhead.name, letterhead.logo, letterhead.words) if letterhead else Sender()


def _report(site: Site, run: Run) -> Report:
    """The report of a run, with what clients refused."""
    pairs = [PageCheck.from_json(row) for row in run.evidence.pairs]
    refused = [
        Refusal(topic.title, answer.who or _ANONYMOUS, answer.word) for topic, answer in reviewing.refusals(site)
    ]
    excess = site.known.excess
    made = timezone.now().strftime("%Y-%m-%d")
    store = storage.store(site.pk)
    return report_of(site.name, runs.ledger_of(run), pairs, store, excess, sender_of(site.owner), made, refused)


@router.get("sites/{site_id}/report.html", response=ERRORS, openapi_extra=FILE)
@audited("downloaded a report")
def as_html(request: HttpRequest, site_id: UUID, short: Query[bool] = False) -> HttpResponse:
    """The report as one HTML file; `short` leaves the appendix out."""
    site = site_of(request, site_id)
    text = report_html(_report(site, run_of(site)), short=short)
    return file(text, "text/html; charset=utf-8", f"{slug_of(site)}-report.html")


@router.get("sites/{site_id}/report.pdf", response=ERRORS, openapi_extra=FILE)
@audited("downloaded a report")
def as_pdf(
    request: HttpRequest, site_id: UUID, paper: Query[Literal["A4", "Letter"]] = "A4", short: Query[bool] = False
) -> HttpResponse:
    """The same as PDF; `short` leaves the appendix out."""
    site = site_of(request, site_id)
    body = report_pdf(report_html(_report(site, run_of(site)), short=short), paper)
    headers = {"Content-Disposition": f'attachment; filename="{slug_of(site)}-report.pdf"'}
    return HttpResponse(body, content_type="application/pdf", headers=headers)


@router.get("sites/{site_id}/ledger.csv", response=ERRORS, openapi_extra=FILE)
@audited("downloaded a ledger")
def as_csv(request: HttpRequest, site_id: UUID) -> HttpResponse:
    """The lines of the ledger as a table."""
    site = site_of(request, site_id)
    return file(ledger_csv(runs.ledger_of(run_of(site))), "text/csv; charset=utf-8", f"{slug_of(site)}-ledger.csv")


@router.get("letterhead", response={200: LetterheadIO, **ERRORS})
def letterhead(request: HttpRequest) -> LetterheadIO:
    """What stands on top of the caller's reports and reviews."""
    sender = sender_of(owner_of(request))
    return LetterheadIO(name=sender.name, words=sender.words, logo=sender.logo)


@router.put("letterhead", response={200: LetterheadIO, **ERRORS})
@audited("changed the letterhead")
def change_letterhead(request: HttpRequest, body: LetterheadIO) -> LetterheadIO:
    """Set name and words; an empty `logo` takes the picture away, anything else leaves it."""
    known, _ = Letterhead.objects.get_or_create(user=owner_of(request))
    known.name, known.words = body.name.strip(), body.words
    known.logo = known.logo if body.logo else ""
    known.save()
    return letterhead(request)


@router.post("letterhead/logo", response={200: LetterheadIO, **ERRORS})
@audited("uploaded a logo")
def change_logo(request: HttpRequest, logo: File[UploadedFile]) -> LetterheadIO:
    """Hand a picture in, which is made anew from its pixels."""
    picture = logo_of(logo.read(MOST_LOGO + 1), logo.name or "the picture")
    known, _ = Letterhead.objects.get_or_create(user=owner_of(request))
    known.logo = picture
    known.save()
    return letterhead(request)
