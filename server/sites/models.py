"""What is stored.

Sites, their plans and runs, their weigh-ins, walks and jobs. Bodies lie in files beside the database.
"""

from __future__ import annotations

import secrets
import uuid
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.db import models
from django.utils import timezone

from server.sites.documents import Archive, Baseline, DocumentField, Evidence, Hand, Watched, Weighed

STALE_AFTER = timedelta(seconds=20)
MOST_ATTEMPTS = 3


def _token() -> str:
    return secrets.token_hex(16)


class Site(models.Model):
    """One uploaded site. `index` lists the capture's exchanges; documents are those of the core.

    `head` is the plan as it stands, `run` the result that is shown; both point at one of many.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="sites")
    name = models.CharField(max_length=200)
    created = models.DateTimeField(default=timezone.now)
    # Bytes that it takes on the disk, as of the last job.
    stored = models.PositiveBigIntegerField(default=0)
    allowance = models.PositiveBigIntegerField(default=1_000_000)  # bytes of one page; common practice, no source
    index: models.JSONField[Any, Any] = models.JSONField()
    baseline: models.JSONField[Baseline | None, Baseline | None] = DocumentField(Baseline, null=True)
    head = models.ForeignKey("PlanVersion", null=True, on_delete=models.SET_NULL, related_name="+")
    run = models.ForeignKey("Run", null=True, on_delete=models.SET_NULL, related_name="+")
    # All images of the site, as the core's inventory lists them
    images: models.JSONField[Any, Any] = models.JSONField(default=list)
    # What pages may weigh besides: the limits of the core's document.
    limits: models.JSONField[Any, Any] = models.JSONField(default=list)
    hand: models.JSONField[Hand, Hand] = DocumentField(Hand, default=Hand)
    # How its user keeps it in order.
    tags: models.JSONField[Any, Any] = models.JSONField(default=list)
    archived = models.BooleanField(default=False)
    # How often its live site is weighed again, where that is, and who is written to when it grew.
    watch = models.CharField(max_length=10, blank=True, choices=[("daily", "daily"), ("weekly", "weekly")])
    watch_address = models.CharField(max_length=2000, blank=True)
    watch_mail = models.CharField(max_length=254, blank=True)
    watched: models.JSONField[Watched, Watched] = DocumentField(Watched, default=Watched)
    # Whose hosts and paths are, as the user says: [{"pattern", "kind", "name"}]
    rules: models.JSONField[Any, Any] = models.JSONField(default=list)
    # What the user wants of walks, by page: {"/index.html": {"own": [steps], "off": [keys]}}
    walking: models.JSONField[Any, Any] = models.JSONField(default=dict)
    # Whether its first list is without what takes long to try out.
    unrefined = models.BooleanField(default=False)

    class Meta:
        ordering = ["-created"]

    def __str__(self) -> str:
        return self.name

    @property
    def known(self) -> Baseline:
        """The baseline, an empty one where the site has not been weighed."""
        return self.baseline or Baseline()


class Share(models.Model):
    """Somebody beside the owner who may look at a site, or edit it too."""

    class Role(models.TextChoices):
        LOOK = "look"
        EDIT = "edit"

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="shares")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="shares")
    role = models.CharField(max_length=4, choices=Role.choices, default=Role.LOOK)

    class Meta:
        ordering = ["user__username"]
        constraints = [models.UniqueConstraint(fields=["site", "user"], name="one_share_a_user")]

    def __str__(self) -> str:
        return f"{self.user_id} may {self.role} at {self.site_id}"


class PreviewKey(models.Model):
    """What the host names of a site's previews hold, for one session and some hours."""

    token = models.CharField(max_length=32, default=_token, unique=True)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="preview_keys")
    # A digest of the session's key.
    session = models.CharField(max_length=64, blank=True)
    until = models.DateTimeField()

    class Meta:
        ordering = ["until"]
        indexes = [models.Index(fields=["site", "session"])]

    def __str__(self) -> str:
        return f"{self.site_id} until {self.until:%Y-%m-%d %H:%M}"


class AuditEntry(models.Model):
    """One entry of the audit log, what somebody did or was refused: `what` in words, `about` the site's name then,
    `status` of the answer.

    It names people and sites rather than pointing at them, since it outlives both.
    """

    at = models.DateTimeField(default=timezone.now)
    who = models.CharField(max_length=150, blank=True)
    address = models.CharField(max_length=45, blank=True)
    what = models.CharField(max_length=100)
    about = models.CharField(max_length=200, blank=True)
    # The site's key, so that those who have it see what was done with it.
    site = models.CharField(max_length=36, blank=True, db_index=True)
    status = models.PositiveSmallIntegerField()

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"{self.who} {self.what} {self.about} ({self.status})"


class PlanVersion(models.Model):
    """A plan as it stood after an edit; it never changes. `document` is that of the core."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="versions")
    parent = models.ForeignKey("self", null=True, on_delete=models.SET_NULL, related_name="+")
    name = models.CharField(max_length=100, blank=True)
    document: models.JSONField[Any, Any] = models.JSONField()
    # How many changes are on: the list of versions would else read them all.
    wanted = models.PositiveIntegerField(default=0)
    made = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["made", "id"]

    def __str__(self) -> str:
        return self.name or f"plan of {self.made:%Y-%m-%d %H:%M:%S}"


class StoredPreset(models.Model):
    """A ready-made plan of a user's own; `document` is that of the core."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="presets")
    name = models.CharField(max_length=60)
    document: models.JSONField[Any, Any] = models.JSONField()

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["owner", "name"], name="one_preset_a_name")]

    def __str__(self) -> str:
        return self.name


class Run(models.Model):
    """A version of the plan carried out, with its proof. It never changes but for its state."""

    class State(models.TextChoices):
        DONE = "done"
        # Of an older copy of the site: history, and not to be handed over.
        OUTDATED = "outdated"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="runs")
    version = models.ForeignKey(PlanVersion, on_delete=models.CASCADE, related_name="runs")
    state = models.CharField(max_length=10, choices=State.choices, default=State.DONE)
    # Documents of the core: the ledger, and the capture's exchanges.
    ledger: models.JSONField[Any, Any] = models.JSONField()
    evidence: models.JSONField[Evidence, Evidence] = DocumentField(Evidence)
    index: models.JSONField[Any, Any] = models.JSONField()
    weighed: models.JSONField[Weighed, Weighed] = DocumentField(Weighed)
    archive: models.JSONField[Archive, Archive] = DocumentField(Archive)
    made = models.DateTimeField(default=timezone.now)
    # Whether some of what it set aside waits for a longer search, which may bring it back.
    open = models.BooleanField(default=False)

    class Meta:
        ordering = ["-made", "id"]

    def __str__(self) -> str:
        return f"run of {self.made:%Y-%m-%d %H:%M:%S}"


class StoredWeighIn(models.Model):
    """A weigh-in of a page of a site as found or as lightened. `record` and `summary` are documents of the core.

    The pinned ones, and those that a baseline or a run stands on, are not deleted.
    """

    class Side(models.TextChoices):
        FOUND = "found"
        NOW = "now"
        # The live site at some later time.
        LIVE = "live"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="weigh_ins")
    side = models.CharField(max_length=5, choices=Side.choices)
    page = models.CharField(max_length=2000)
    device = models.CharField(max_length=40)
    conditions = models.CharField(max_length=200)
    taken = models.DateTimeField(default=timezone.now)
    name = models.CharField(max_length=100, blank=True)
    pinned = models.BooleanField(default=False)
    # The published element of the format, and beside it {"picture": name, "shown": [...]}.
    summary: models.JSONField[Any, Any] = models.JSONField()
    record: models.JSONField[Any, Any] = models.JSONField()

    class Meta:
        ordering = ["taken", "id"]
        indexes = [models.Index(fields=["site", "page"])]

    def __str__(self) -> str:
        return f"{self.page} {self.side}, {self.conditions}"


class StoredWalk(models.Model):
    """The latest walk over a page of a site on a device; `record` is a document of the core."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="walks")
    page = models.CharField(max_length=2000)
    device = models.CharField(max_length=40)
    taken = models.DateTimeField(default=timezone.now)
    record: models.JSONField[Any, Any] = models.JSONField()

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["site", "page", "device"], name="one_walk")]

    def __str__(self) -> str:
        return f"{self.page} on {self.device}"


class Job(models.Model):
    """Long work on a site. Every write of a running job carries its attempt, so that an orphan writes nothing."""

    class State(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    class Kind(models.TextChoices):
        """All kinds there are; `work.py` says what each does."""

        RECORD = "record"
        WEIGH = "weigh"
        WEIGH_MORE = "weigh_more"
        WALK = "walk"
        SURVEY = "survey"
        LIGHTEN = "lighten"
        CARRY_OUT = "carry_out"
        PROPOSE = "propose"
        ENCODE = "encode"
        REFINE = "refine"
        NARROW = "narrow"
        VISIT_AGAIN = "visit_again"
        WATCH = "watch"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="jobs")
    kind = models.CharField(max_length=20, choices=Kind.choices)
    params: models.JSONField[Any, Any] = models.JSONField(default=dict)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    created = models.DateTimeField(default=timezone.now)
    heartbeat = models.DateTimeField(null=True)
    attempt = models.PositiveIntegerField(default=0)
    cancel = models.BooleanField(default=False)
    # A paused job waits at its next step; an easy one does one thing at a time, with rests between.
    paused = models.BooleanField(default=False)
    easy = models.BooleanField(default=False)
    stage = models.CharField(max_length=40, blank=True)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    note = models.CharField(max_length=300, blank=True)
    error = models.TextField(blank=True)
    # What its check has found of pages so far: [{"page", "device", "proven", "text"}]
    proofs: models.JSONField[Any, Any] = models.JSONField(default=list)

    class Meta:
        ordering = ["-created"]

    def __str__(self) -> str:
        return f"{self.kind} of {self.site_id}, {self.state}"

    @property
    def active(self) -> bool:
        """Whether it waits or runs."""
        return self.state in (self.State.WAITING, self.State.RUNNING)

    @property
    def aside(self) -> bool:
        """Whether it steps back for whatever its user wants done."""
        return self.kind in ASIDE


# What steps back for whatever its user wants done.
ASIDE = (Job.Kind.REFINE, Job.Kind.NARROW, Job.Kind.WATCH)
