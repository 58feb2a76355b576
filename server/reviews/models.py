"""Reviews of runs by clients, their answers, and what a user puts on top of reports."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models
from django.utils import timezone

from server.sites.models import Run, Site


class ReviewState(models.TextChoices):
    """Whether a review can still be answered."""

    OPEN = "open"
    WITHDRAWN = "withdrawn"
    EXPIRED = "expired"


class AnswerKind(models.TextChoices):
    """What can be said of a topic."""

    ACCEPT = "accept"
    REFUSE = "refuse"
    ASK = "ask"


class Letterhead(models.Model):
    """What a user puts on top of reports and reviews; `logo` is a data URL of our own making."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="letterhead")
    name = models.CharField(max_length=200, blank=True)
    logo = models.TextField(blank=True)
    words = models.TextField(blank=True)

    def __str__(self) -> str:
        return self.name


class Review(models.Model):
    """A link by which somebody without an account judges a run. The link itself is not kept, only its digest
    (SHA-256).
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="reviews")
    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="reviews")
    # Who made the link: it ends with that user's access to the site.
    maker = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    digest = models.CharField(max_length=64, unique=True)
    # As Django hashes passwords; "" for none.
    password = models.CharField(max_length=128, blank=True)
    name = models.CharField(max_length=100, blank=True)
    made = models.DateTimeField(default=timezone.now)
    until = models.DateTimeField()
    withdrawn = models.BooleanField(default=False)
    opened = models.DateTimeField(null=True)
    # Wrong passwords in a row, and until when no more are taken.
    failures = models.PositiveIntegerField(default=0)
    shut_until = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made"]

    def __str__(self) -> str:
        return self.name or f"review of {self.made:%Y-%m-%d}"

    @property
    def state(self) -> ReviewState:
        """Whether it can still be answered."""
        if self.withdrawn:
            return ReviewState.WITHDRAWN
        return ReviewState.OPEN if timezone.now() < self.until else ReviewState.EXPIRED


class Answer(models.Model):
    """What somebody said of a topic of a review; the latest one counts, earlier ones stay as history."""

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="answers")
    topic = models.CharField(max_length=2100)
    kind = models.CharField(max_length=6, choices=AnswerKind.choices)
    word = models.TextField(blank=True)
    who = models.CharField(max_length=100, blank=True)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.who}: {self.kind} {self.topic}"
