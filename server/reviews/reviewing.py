"""Making reviews, finding them by their links, and what answers do to the plan."""

from __future__ import annotations

import hashlib
import secrets
from datetime import timedelta
from uuid import UUID

from django.contrib.auth.hashers import check_password, make_password
from django.contrib.auth.models import User
from django.core.cache import cache
from django.db import transaction
from django.db.models import F
from django.utils import timezone

from server.reviews.models import Answer, AnswerKind, Review, ReviewState
from server.sites import plans
from server.sites.models import Run, Site
from unladen.errors import BadInput, UnladenError
from unladen.ledger import read_ledger
from unladen.ledger.topics import Topic, topics_of
from unladen.plan import Switch

MOST_OPEN = 50  # reviews of a site
_MOST_ANSWERS = 5_000
_WRONG, _SHUT_FOR = 8, timedelta(minutes=10)
_STRANGERS, _CALLS, _WINDOW = (
    40,
    600,
    60,
)  # tries of links that are none, and calls in all, of an address in so many s


class TooOften(UnladenError):
    """Somebody asks more often than people do."""


class Closed(UnladenError):
    """A review that cannot be opened any more."""


def make(site: Site, run: Run, maker: User, *, days: int, password: str, name: str) -> tuple[Review, str]:
    """A new review and the token of its link, which is known only now; raises `BadInput`."""
    if site.reviews.filter(withdrawn=False, until__gt=timezone.now()).count() >= MOST_OPEN:
        raise BadInput(site.name, f"has {MOST_OPEN} open reviews, the most allowed. Withdraw one first.")
    token = secrets.token_urlsafe(32)
    review = Review.objects.create(
        site=site,
        run=run,
        maker=maker,
        digest=_digest(token),
        password=make_password(password) if password else "",
        name=name.strip(),
        until=timezone.now() + timedelta(days=days),
    )
    return review, token


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def find(token: str, address: str) -> Review | None:
    """The review of a link; None where there is none. Raises `TooOften` and, where it is over, `Closed`."""
    _count(f"review-calls-{address}", _CALLS)
    result = Review.objects.select_related("site", "run").defer("site__index", "site__images", "run__index")
    review = result.filter(digest=_digest(token)).first()
    if review is None:
        _count(f"review-strangers-{address}", _STRANGERS)
        return None
    if review.state == ReviewState.WITHDRAWN:
        raise Closed("This link was withdrawn. Ask the sender for a new one.")
    if review.state == ReviewState.EXPIRED:
        raise Closed(f"This link expired on {review.until:%d %B %Y}. Ask the sender for a new one.")
    return review


def _count(key: str, most: int) -> None:
    cache.add(key, 0, _WINDOW)
    try:
        if cache.incr(key) > most:
            raise TooOften("Too many requests. Wait a minute.")
    except ValueError:  # it has just run out
        cache.set(key, 1, _WINDOW)


def opens(review: Review, password: str) -> bool:
    """Whether this is its password; raises `TooOften` after several wrong ones."""
    if review.shut_until is not None and review.shut_until > timezone.now():
        raise TooOften("Too many wrong passwords. Wait ten minutes.")
    mine = Review.objects.filter(pk=review.pk)
    if check_password(password, review.password):
        mine.update(failures=0, shut_until=None)
        return True
    mine.update(failures=F("failures") + 1)
    if Review.objects.values_list("failures", flat=True).get(pk=review.pk) >= _WRONG:
        mine.update(failures=0, shut_until=timezone.now() + _SHUT_FOR)
    return False


def topics(review: Review) -> list[Topic]:
    """What it asks about."""
    return topics_of(read_ledger(review.run.ledger), review.site.known.excess)


def latest(review: Review) -> dict[str, Answer]:
    """The answers that count, by topic."""
    return {answer.topic: answer for answer in review.answers.all()}


@transaction.atomic
def answer(review: Review, topic: Topic, kind: str, word: str, who: str) -> Answer:
    """Note an answer; what is refused goes off in the plan, and what was refused and is accepted now comes on again."""
    if review.answers.count() >= _MOST_ANSWERS:
        raise TooOften("This review has too many answers. Ask the sender for a new link.")
    before = review.answers.filter(topic=topic.id).last()
    new = Answer.objects.create(review=review, topic=topic.id, kind=kind, word=word.strip(), who=who.strip())
    was_refused = before is not None and before.kind == AnswerKind.REFUSE
    if kind == AnswerKind.REFUSE or (was_refused and kind == AnswerKind.ACCEPT):
        _switch(review.site_id, topic, on=kind != AnswerKind.REFUSE)
    return new


def _switch(site_id: UUID, topic: Topic, *, on: bool) -> None:
    site = Site.objects.get(pk=site_id)
    here = {change.id for change in plans.plan_of(plans.head_of(site)).changes}
    if ids := tuple(id for id in topic.changes if id in here):
        plans.edit(site, None, [Switch(ids, on)])


def refusals(site: Site) -> list[tuple[Topic, Answer]]:
    """What clients refused of the run that is shown or of earlier ones, the latest first."""
    refusals = []
    for review in site.reviews.select_related("site", "run"):
        by_id = {topic.id: topic for topic in topics(review)}
        refused = (a for a in latest(review).values() if a.kind == AnswerKind.REFUSE and a.topic in by_id)
        refusals += [(by_id[each.topic], each) for each in refused]
    return sorted(refusals, key=lambda row: row[1].at, reverse=True)
