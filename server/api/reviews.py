"""Reviews: for their makers, and for clients who have nothing but a link."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Query
from ninja.errors import HttpError

from server.accounts import address_of
from server.api.reading import ERRORS, FILE, Anyone, owner_of, site_of
from server.api.reports import sender_of
from server.api.routing import ApiRouter
from server.api.schemas.showing import (
    AnswerIn,
    AnswerOut,
    PasswordIn,
    ReviewIn,
    ReviewMade,
    ReviewOut,
    ReviewRow,
    ShotOut,
    TopicOut,
)
from server.audit import audited
from server.reviews import reviewing
from server.reviews.models import Answer, AnswerKind, Review
from server.sites import storage
from server.sites.encoding import encoded
from server.sites.models import Site
from unladen.check import PageCheck
from unladen.ledger import read_ledger
from unladen.ledger.topics import Topic
from unladen.lighten import THUMBNAIL
from unladen.raster.formats import MEDIA_TYPES
from unladen.raster.recode import Recipe

router = ApiRouter(tags=["reviews"])
# For people with a link and no account. What they may read is the review, and pictures that it names.
open_router = ApiRouter(tags=["review"], auth=Anyone())
_NONE = "No review has this link. Check that the link is complete."
_WIDTHS = (390, 800, 1280)  # px of pictures of pages
_LOCKED = ReviewOut(
    locked=True,
    site="",
    name="",
    sender="",
    logo="",
    words="",
    until=None,
    shots=[],
    topics=[],
    answers=[],
    pictures=[],
)
_KEPT = {"Cache-Control": "private, max-age=86400"}


def _topics(review: Review) -> list[TopicOut]:
    return [_topic(topic) for topic in reviewing.topics(review)]


def _topic(topic: Topic) -> TopicOut:
    return TopicOut(
        id=topic.id,
        title=topic.title,
        why=topic.why,
        targets=list(topic.targets[:200]),
        pages=list(topic.pages),
        bytes=topic.bytes,
        requests=topic.requests,
    )


def _answers(review: Review) -> list[AnswerOut]:
    return [_answer(answer) for answer in reviewing.latest(review).values()]


def _answer(answer: Answer) -> AnswerOut:
    return AnswerOut(topic=answer.topic, kind=AnswerKind(answer.kind), word=answer.word, who=answer.who, at=answer.at)


def _row(site: Site, review: Review) -> ReviewRow:
    return ReviewRow(
        id=review.pk,
        name=review.name,
        state=review.state,
        made=review.made,
        until=review.until,
        opened=review.opened,
        password=bool(review.password),
        shown=review.run_id == site.run_id,
        topics=_topics(review),
        answers=_answers(review),
        history=review.answers.count(),
    )


@router.get("sites/{site_id}/reviews", response={200: list[ReviewRow], **ERRORS})
def all_of(request: HttpRequest, site_id: UUID) -> list[ReviewRow]:
    """All reviews of a site, the latest first, with what was answered."""
    site = site_of(request, site_id)
    return [_row(site, review) for review in site.reviews.select_related("site", "run")]


@router.post("sites/{site_id}/reviews", response={200: ReviewMade, **ERRORS})
@audited("created a review link")
def make(request: HttpRequest, site_id: UUID, body: ReviewIn) -> ReviewMade:
    """A link to the run that is shown, for somebody without an account."""
    site = site_of(request, site_id)
    if site.run is None:
        raise HttpError(409, "No run yet. Build the plan before you create a link.")
    review, token = reviewing.make(
        site, site.run, owner_of(request), days=body.days, password=body.password, name=body.name
    )
    return ReviewMade(address=request.build_absolute_uri(f"/review/{token}"), review=_row(site, review))


@router.post("sites/{site_id}/reviews/{review_id}/withdraw", response={200: ReviewRow, **ERRORS})
@audited("withdrew a review link")
def withdraw(request: HttpRequest, site_id: UUID, review_id: UUID) -> ReviewRow:
    """Let the link lead nowhere from now on; what was answered stays."""
    site = site_of(request, site_id)
    review = get_object_or_404(Review.objects.select_related("site", "run"), pk=review_id, site=site)
    review.withdrawn = True
    review.save(update_fields=["withdrawn"])
    return _row(site, review)


def _found(request: HttpRequest, token: str) -> Review:
    review = reviewing.find(token, address_of(request))
    if review is None:
        raise HttpError(404, _NONE)
    return review


def _is_open(request: HttpRequest, review: Review) -> bool:
    return not review.password or request.session.get(_key(review)) == review.password


def _key(review: Review) -> str:
    return f"review-{review.pk}"


def _opened(request: HttpRequest, token: str) -> Review:
    review = _found(request, token)
    if not _is_open(request, review):
        raise HttpError(403, "This review needs a password.")
    return review


@open_router.get("review/{token}", response={200: ReviewOut, **ERRORS})
def show(request: HttpRequest, token: str) -> ReviewOut:
    """All of a review: pages with their pictures, changes in words, and what was answered by now."""
    get_token(request)  # sends the cookie that answers need
    review = _found(request, token)
    return _whole(review) if _is_open(request, review) else _LOCKED


def _whole(review: Review) -> ReviewOut:
    if review.opened is None:
        Review.objects.filter(pk=review.pk).update(opened=timezone.now())
    site, sender = review.site, sender_of(review.site.owner)
    known = {image["path"] for image in site.images if image["format"]}
    topics = _topics(review)
    return ReviewOut(
        locked=False,
        site=site.name,
        name=review.name,
        sender=sender.name,
        logo=sender.logo,
        words=sender.words,
        until=review.until,
        shots=_shots(review),
        topics=topics,
        answers=_answers(review),
        pictures=sorted(known & {target for topic in topics for target in topic.targets[:1]}),
    )


def _pairs(review: Review) -> list[PageCheck]:
    return [PageCheck.from_json(row) for row in review.run.evidence.pairs]


def _shots(review: Review) -> list[ShotOut]:
    ledger = read_ledger(review.run.ledger)
    sides = [{(row["page"], row["device"]): row for row in ledger[side]} for side in ("before", "after")]
    shots = []
    for pair in _pairs(review):
        key = pair.page, pair.device
        if key in sides[0] and key in sides[1] and pair.before and pair.after:
            rows = [side[key] for side in sides]
            shots.append(
                ShotOut(
                    page=pair.page,
                    device=pair.device,
                    before=pair.before,
                    after=pair.after,
                    width=pair.width,
                    bytes=[row["transferred"] for row in rows],
                    requests=[row["requests"] for row in rows],
                )
            )
    return shots


@open_router.post("review/{token}/open", response={200: ReviewOut, **ERRORS})
@audited("opened a review")
def unlock(request: HttpRequest, token: str, body: PasswordIn) -> ReviewOut:
    """Open a review that has a password."""
    review = _found(request, token)
    if review.password and not reviewing.opens(review, body.password):
        raise HttpError(403, "Wrong password.")
    request.session[_key(review)] = review.password
    return _whole(review)


@open_router.post("review/{token}/answers", response={200: list[AnswerOut], **ERRORS})
@audited("answered a review")
def answer(request: HttpRequest, token: str, body: AnswerIn) -> list[AnswerOut]:
    """Accept a topic, refuse it with a word, or ask; the answers that count, by topic."""
    review = _opened(request, token)
    topic = next((topic for topic in reviewing.topics(review) if topic.id == body.topic), None)
    if topic is None:
        raise HttpError(404, "The review has no such change. Reload the page.")
    if body.kind != AnswerKind.ACCEPT and not body.word.strip():
        raise HttpError(422, "Enter your reason or question.")
    reviewing.answer(review, topic, body.kind, body.word, body.who)
    return _answers(review)


@open_router.get("review/{token}/pages/{name}", response=ERRORS, openapi_extra=FILE)
def page_picture(request: HttpRequest, token: str, name: str, width: Query[int] = 800) -> HttpResponse:
    """A picture of a page at a width (390, 800 or 1280 px), of our own making; no other can be named."""
    review = _opened(request, token)
    if width not in _WIDTHS or name not in {name for pair in _pairs(review) for name in (pair.before, pair.after)}:
        raise HttpError(404, "This picture does not exist. Reload the page.")
    recipe = Recipe(width=width, format="WEBP", quality=80, always=True)
    return _picture(review, name, recipe)


@open_router.get("review/{token}/images", response=ERRORS, openapi_extra=FILE)
def image_picture(request: HttpRequest, token: str, path: Query[str]) -> HttpResponse:
    """A small picture of an image that a topic is about."""
    review = _opened(request, token)
    asked = {target for topic in reviewing.topics(review) for target in topic.targets}
    image = next((row for row in review.site.images if row["path"] == path and row["format"]), None)
    if image is None or path not in asked:
        raise HttpError(404, "This picture does not exist. Reload the page.")
    return _picture(review, image["digest"], THUMBNAIL)


def _picture(review: Review, digest: str, recipe: Recipe) -> HttpResponse:
    outcome = encoded(storage.store(review.site_id), digest, recipe)
    if outcome.refused:
        raise HttpError(404, outcome.refused)
    body = storage.work_cache(review.site_id).body(outcome)
    return HttpResponse(body, content_type=MEDIA_TYPES[outcome.format], headers=_KEPT)
