"""The plan of a site as a row of versions, of which one is the head. Edits never start work."""

from __future__ import annotations

from collections.abc import Sequence
from uuid import UUID

from django.db import transaction

from server.sites.models import PlanVersion, Site
from unladen.errors import UnladenError
from unladen.plan import Command, Plan
from unladen.plan.history import redo_to, undo_to

MOST_VERSIONS = 200  # older ones that nothing stands on and nobody named go


class NoPlan(UnladenError):
    """The site has not been weighed yet."""


class Stale(UnladenError):
    """The plan was edited elsewhere since."""


def plan_of(version: PlanVersion) -> Plan:
    """The plan that a version holds."""
    return Plan.from_json(version.document)


def head_of(site: Site) -> PlanVersion:
    """The plan as it stands; raises `NoPlan`."""
    if site.head is None:
        raise NoPlan("The site has not been weighed yet.")
    return site.head


@transaction.atomic
def edit(site: Site, base: UUID | None, commands: Sequence[Command]) -> PlanVersion:
    """The head after these commands, all of them or none; an edit that makes no difference makes no version.

    `base` is the version that the edit was made for: raises `Stale` where it is not the head any more; None is for work
    of the server's own, which edits whatever the head is. Raises `NoPlan` and `BadInput`.
    """
    fresh = Site.objects.select_related("head").get(pk=site.pk)
    head = head_of(fresh)
    if base is not None and head.pk != base:
        raise Stale("The plan was changed meanwhile, here or in another window.")
    before = after = plan_of(head)
    for command in commands:
        after = command.apply(after)
    if after == before:
        return head
    return _advance(fresh, PlanVersion.objects.create(site=fresh, parent=head, document=after.as_json()))


@transaction.atomic
def begin(site: Site, plan: Plan) -> PlanVersion:
    """A plan for a site that has none."""
    return _advance(site, PlanVersion.objects.create(site=site, document=plan.as_json()))


@transaction.atomic
def apart(site: Site, parent: PlanVersion, plan: Plan) -> PlanVersion:
    """A version beside the head, for a run that was carried out of it."""
    return PlanVersion.objects.create(site=site, parent=parent, document=plan.as_json())


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


def before(site: Site) -> UUID | None:
    """The version that undo leads to."""
    return undo_to(_pairs(site), site.head_id) if site.head_id else None


def after(site: Site) -> UUID | None:
    """The version that redo leads to."""
    return redo_to(_pairs(site), site.head_id) if site.head_id else None


@transaction.atomic
def go_to(site: Site, version: UUID) -> PlanVersion:
    """Make a version of the site the head; raises `PlanVersion.DoesNotExist`."""
    found = site.versions.get(pk=version)
    Site.objects.filter(pk=site.pk).update(head=found)
    return found
