"""The plan of a site as a row of versions, of which one is the head. Edits never start work."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache
from typing import Any
from uuid import UUID

from django.db import transaction

from server.sites import storage
from server.sites.models import PlanVersion, Site
from unladen.errors import UnladenError
from unladen.plan import Command, Plan, change_as_json
from unladen.plan.document import FORMAT
from unladen.plan.history import redo_to, undo_to
from unladen.remedies import Change
from unladen.remedies.styles.trim_styles import TrimParams, Went, went
from unladen.survey import SiteFacts
from unladen.survey.code.kept_rules import Stays, staying

_MEANWHILE = "The plan was changed in another window. Your edit is tried again."
MOST_VERSIONS = 200  # older ones that nothing stands on and nobody named go


class NoPlan(UnladenError):
    """The site is not weighed yet. Weigh it first."""


class Stale(UnladenError):
    """The plan was edited elsewhere since."""


class _Read:
    """What a version holds: the document in the format of now and, once somebody asks for it, the plan made of it."""

    def __init__(self, document: dict[str, Any], plan: Plan | None = None) -> None:
        self.document = document
        self._plan = plan

    @property
    def plan(self) -> Plan:
        if self._plan is None:
            self._plan = Plan.from_json(self.document)
        return self._plan


class _Latest:
    """The versions used last, since a plan may hold thousands of changes and a version never changes."""

    MOST = 8

    def __init__(self) -> None:
        self._known: OrderedDict[UUID, _Read] = OrderedDict()
        self._lock = threading.Lock()

    def of(self, version: UUID) -> _Read:
        """Raises `PlanVersion.DoesNotExist`."""
        with self._lock:
            known = self._known.get(version)
        if known is None:
            known = _Read(PlanVersion.objects.values_list("document", flat=True).get(pk=version))
            if known.document["format"] != FORMAT:
                known = _Read(known.plan.as_json(), known.plan)
        return self.keep(version, known)

    def keep(self, version: UUID, read: _Read) -> _Read:
        """Know this version from now on, in the place of the one that was not used for longest."""
        with self._lock:
            self._known[version] = read
            self._known.move_to_end(version)
            while len(self._known) > self.MOST:
                self._known.popitem(last=False)
        return read


_latest = _Latest()


def plan_of(version: PlanVersion) -> Plan:
    """The plan that a version holds."""
    return _latest.of(version.pk).plan


@lru_cache(maxsize=16)
def _went(site: UUID, taken: str, change: Change[TrimParams]) -> Went:
    return went(storage.capture_of(Site.objects.get(pk=site)), change)


def rules_of(site: Site, change: Change[TrimParams]) -> Went:
    """What a trim takes out of the site as it was weighed; kept for the next question about the same."""
    return _went(site.pk, str(site.known.taken), change)


@lru_cache(maxsize=8)
def _staying(site: UUID, taken: str, change: Change[TrimParams]) -> list[Stays]:
    row = Site.objects.get(pk=site)
    return staying(SiteFacts.of(storage.capture_of(row), storage.seen_of(row)), change)


def staying_in(site: Site, change: Change[TrimParams]) -> list[Stays]:
    """What a trim leaves in the site's style sheets, as these were weighed, and what keeps it."""
    return _staying(site.pk, str(site.known.taken), change)


def document_of(version: PlanVersion) -> dict[str, Any]:
    """The published document of that plan, which nobody may change; there sooner than the plan."""
    return _latest.of(version.pk).document


def _new_version(site: Site, parent: PlanVersion | None, plan: Plan) -> PlanVersion:
    """A version of this plan; changes that are those of its parent are not written down anew."""
    same: dict[int, dict[str, Any]] = {}
    if parent is not None:
        old = _latest.of(parent.pk)
        same = {id(change): row for change, row in zip(old.plan.changes, old.document["changes"], strict=True)}
    rows = [same.get(id(change)) or change_as_json(change) for change in plan.changes]
    document = replace(plan, changes=()).as_json() | {"changes": rows}
    wanted = sum(change.on for change in plan.changes)
    version = PlanVersion.objects.create(site=site, parent=parent, document=document, wanted=wanted)
    _latest.keep(version.pk, _Read(document, plan))
    return version


def head_of(site: Site) -> PlanVersion:
    """The plan as it stands; raises `NoPlan`."""
    if site.head is None:
        raise NoPlan("The site is not weighed yet. Weigh it first.")
    return site.head


@transaction.atomic
def edit(site: Site, base: UUID | None, commands: Sequence[Command]) -> PlanVersion:
    """The head after these commands, all of them or none; an edit that makes no difference makes no version.

    `base` is the version that the edit was made for: raises `Stale` where it is not the head any more; None is for work
    of the server's own, which edits whatever the head is. Raises `NoPlan` and `BadInput`.
    """
    fresh = Site.objects.select_related("head").defer("images", "index", "baseline", "head__document").get(pk=site.pk)
    head = head_of(fresh)
    if base is not None and head.pk != base:
        raise Stale(_MEANWHILE)
    before = after = plan_of(head)
    for command in commands:
        after = command.apply(after)
    if after == before:
        return head
    return _advance(fresh, _new_version(fresh, head, after))


@transaction.atomic
def begin(site: Site, plan: Plan) -> PlanVersion:
    """A plan for a site that has none."""
    return _advance(site, _new_version(site, None, plan))


@transaction.atomic
def apart(site: Site, plan: Plan) -> PlanVersion:
    """A version beside the others, for a run of a plan that was edited meanwhile; neither undo nor redo leads to it."""
    return _new_version(site, None, plan)


def _advance(site: Site, version: PlanVersion) -> PlanVersion:
    Site.objects.filter(pk=site.pk).update(head=version)
    _forget_old(site)
    return version


def _forget_old(site: Site) -> None:
    spare = site.versions.filter(name="", runs=None).order_by("-made").values_list("pk", flat=True)
    if too_old := list(spare[MOST_VERSIONS:]):
        site.versions.filter(pk__in=too_old).delete()


def _pairs(site: Site) -> list[tuple[UUID, UUID | None]]:
    return list(site.versions.order_by("made", "id").values_list("pk", "parent_id"))


def steps(site: Site) -> tuple[UUID | None, UUID | None]:
    """The versions that undo and redo lead to."""
    if site.head_id is None:
        return None, None
    pairs = _pairs(site)
    return undo_to(pairs, site.head_id), redo_to(pairs, site.head_id)


@transaction.atomic
def go_to(site: Site, base: UUID, version: UUID) -> PlanVersion:
    """Make a version of the site the head, in the place of `base`; raises `Stale` and `PlanVersion.DoesNotExist`."""
    result = site.versions.defer("document").get(pk=version)
    if not Site.objects.filter(pk=site.pk, head=base).update(head=result):
        raise Stale(_MEANWHILE)
    return result
