"""Accounts, for administrators; for all others none of this exists."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.contrib.sessions.models import Session
from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Count, Sum
from django.http import Http404, HttpRequest
from django.shortcuts import get_object_or_404
from ninja.errors import HttpError

from server.api.reading import ERRORS, owner_of
from server.api.routing import ApiRouter
from server.api.schemas.users import DeedOut, UserEdit, UserIn, UserOut
from server.audit import audited
from server.sites.models import AuditEntry, PreviewKey

router = ApiRouter(tags=["users"])
_SHOWN = 300  # deeds


def _administrator(request: HttpRequest) -> User:
    user = owner_of(request)
    if not user.is_staff:
        raise Http404
    return user


def _all() -> list[UserOut]:
    rows = User.objects.annotate(count=Count("sites"), bytes=Sum("sites__stored")).order_by("username")
    return [
        UserOut(
            username=row.username,
            active=row.is_active,
            admin=row.is_staff,
            last_login=row.last_login,
            sites=row.count,
            stored=row.bytes or 0,
        )
        for row in rows
    ]


@router.get("users", response={200: list[UserOut], **ERRORS})
def list_users(request: HttpRequest) -> list[UserOut]:
    """All accounts."""
    _administrator(request)
    return _all()


@router.post("users", response={200: list[UserOut], **ERRORS})
@audited("created a user")
def add_user(request: HttpRequest, body: UserIn) -> list[UserOut]:
    """Make an account."""
    _administrator(request)
    if User.objects.filter(username__iexact=body.username).exists():
        raise HttpError(409, f"The user {body.username} exists already. Choose another name.")
    user = User(username=body.username, is_staff=body.admin)
    _give(user, body.password)
    user.save()
    return _all()


@router.patch("users/{username}", response={200: list[UserOut], **ERRORS})
@audited("edited a user")
def edit_user(request: HttpRequest, username: str, body: UserEdit) -> list[UserOut]:
    """Shut an account off or let it in again, make it an administrator's, give it a new password."""
    admin = _administrator(request)
    user = get_object_or_404(User, username=username)
    if user == admin and (body.active is False or body.admin is False):
        raise HttpError(409, "You cannot lock yourself out. Ask another administrator.")
    with transaction.atomic():
        if body.active is not None:
            user.is_active = body.active
        if body.admin is not None:
            user.is_staff = body.admin
        if body.password is not None:
            _give(user, body.password)
        user.save()
    if body.active is False:
        _sign_out_everywhere(user)
    return _all()


@router.get("deeds", response={200: list[DeedOut], **ERRORS})
def list_deeds(request: HttpRequest, who: str = "") -> list[DeedOut]:
    """What was done last, by everybody or by one."""
    _administrator(request)
    rows = AuditEntry.objects.filter(who=who) if who else AuditEntry.objects.all()
    return [DeedOut.from_orm(row) for row in rows[:_SHOWN]]


def _give(user: User, password: str) -> None:
    try:
        validate_password(password, user)
    except ValidationError as error:
        raise HttpError(422, " ".join(error.messages)) from None
    user.set_password(password)


def _sign_out_everywhere(user: User) -> None:
    for session in Session.objects.all().iterator():
        if session.get_decoded().get("_auth_user_id") == str(user.pk):
            session.delete()
    PreviewKey.objects.filter(site__owner=user).delete()
