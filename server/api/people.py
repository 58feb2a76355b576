"""Who may look at a site or edit it, and what was done with it by whom."""

from __future__ import annotations

from typing import Any, cast
from uuid import UUID

from django.contrib.auth.models import User
from django.db import transaction
from django.http import HttpRequest
from ninja.errors import HttpError

from server.api.reading import ERRORS, owner_of, site_of
from server.api.routing import ApiRouter
from server.api.schemas.people import DoneRow, People, PersonIn, PersonOut
from server.audit import audited
from server.reviews.models import Review
from server.sites.models import AuditEntry, PreviewKey, Share, Site

router = ApiRouter(tags=["people"])
_MOST, _SHOWN = 50, 200  # people of a site, rows of what was done


def _people(site: Site) -> People:
    rows = site.shares.select_related("user")
    return People(
        owner=site.owner.get_username(),
        people=[PersonOut(username=row.user.get_username(), role=cast(Any, row.role)) for row in rows],
    )


@router.get("sites/{site_id}/people", response={200: People, **ERRORS})
def people(request: HttpRequest, site_id: UUID) -> People:
    """Whose the site is, and who was let in."""
    return _people(site_of(request, site_id))


@router.put("sites/{site_id}/people/{username}", response={200: People, **ERRORS})
@audited("gave access")
def let_in(request: HttpRequest, site_id: UUID, username: str, body: PersonIn) -> People:
    """Let somebody look at the site or edit it; only its owner can."""
    site = site_of(request, site_id, "own")
    user = User.objects.filter(username=username, is_active=True).first()
    if user is None:
        raise HttpError(422, f"No active user is called {username[:150]}. Check the name.")
    if user == site.owner:
        raise HttpError(422, "You own this site already.")
    with transaction.atomic():
        if site.shares.exclude(user=user).count() >= _MOST:
            raise HttpError(409, f"A site can be shared with {_MOST} people at most. Remove somebody first.")
        Share.objects.update_or_create(site=site, user=user, defaults={"role": body.role})
    return _people(site)


@router.delete("sites/{site_id}/people/{username}", response={200: People | None, **ERRORS})
@audited("removed access")
def shut_out(request: HttpRequest, site_id: UUID, username: str) -> People | None:
    """Have somebody not see the site any more. Its owner can, and everybody can leave."""
    leaves = owner_of(request).get_username() == username
    site = site_of(request, site_id, "look" if leaves else "own")
    gone, _ = site.shares.filter(user__username=username).delete()
    if not gone:
        raise HttpError(404, "This user has no access.")
    # Links that they made end too; answers given by them stay.
    Review.objects.filter(site=site, maker__username=username).update(withdrawn=True)
    # Previews are opened by keys of their own, which are made anew for those who may still see them.
    PreviewKey.objects.filter(site=site).delete()
    return None if leaves else _people(site)


@router.get("sites/{site_id}/done", response={200: list[DoneRow], **ERRORS})
def done(request: HttpRequest, site_id: UUID) -> list[DoneRow]:
    """What was done with the site, the latest first."""
    site = site_of(request, site_id)
    rows = AuditEntry.objects.filter(site=str(site.pk), status__lt=400)[:_SHOWN]
    return [DoneRow(at=row.at, who=row.who, what=row.what) for row in rows]
