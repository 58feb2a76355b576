"""What is stored: sites with their latest baseline and result, and jobs. Bodies lie in files beside the database."""

from __future__ import annotations

import secrets
import uuid
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.db import models
from django.utils import timezone

STALE_AFTER = timedelta(seconds=20)
MOST_ATTEMPTS = 3


def _token() -> str:
    return secrets.token_hex(16)


class Site(models.Model):
    """One uploaded site. `index` lists the capture's exchanges; documents are those of the core."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="sites")
    name = models.CharField(max_length=200)
    created = models.DateTimeField(default=timezone.now)
    preview_token = models.CharField(max_length=32, default=_token, unique=True)
    allowance = models.PositiveBigIntegerField(default=1_000_000)  # bytes of one page; common practice, no source
    index: models.JSONField[Any, Any] = models.JSONField()
    # {"weigh_ins": records, "excess": [...], "notices": [...], "plan": plan, "pictures": {...}, "taken": ISO time}
    baseline: models.JSONField[Any, Any] = models.JSONField(null=True)
    plan: models.JSONField[Any, Any] = models.JSONField(null=True)
    # {"ledger": ..., "records": [...], "pairs": [...], "index": ..., "taken": ISO time}
    result: models.JSONField[Any, Any] = models.JSONField(null=True)

    class Meta:
        ordering = ["-created"]

    def __str__(self) -> str:
        return self.name


class Job(models.Model):
    """Long work on a site. Every write of a running job carries its attempt, so that an orphan writes nothing."""

    class State(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    class Kind(models.TextChoices):
        WEIGH = "weigh"
        LIGHTEN = "lighten"
        CARRY_OUT = "carry_out"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="jobs")
    kind = models.CharField(max_length=20, choices=Kind.choices)
    params: models.JSONField[Any, Any] = models.JSONField(default=dict)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    created = models.DateTimeField(default=timezone.now)
    heartbeat = models.DateTimeField(null=True)
    attempt = models.PositiveIntegerField(default=0)
    cancel = models.BooleanField(default=False)
    stage = models.CharField(max_length=40, blank=True)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    note = models.CharField(max_length=300, blank=True)
    error = models.TextField(blank=True)

    class Meta:
        ordering = ["-created"]

    def __str__(self) -> str:
        return f"{self.kind} of {self.site_id}, {self.state}"

    @property
    def active(self) -> bool:
        """Whether it waits or runs."""
        return self.state in (self.State.WAITING, self.State.RUNNING)
