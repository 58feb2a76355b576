"""The API: its routers, who may call it, and one error body for all."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.contrib.auth.models import User
from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError
from ninja.parser import Parser
from ninja.security import SessionAuth

from server.accounts import has_to_wait, too_often
from server.api import (
    account,
    allowances,
    by_hand,
    images,
    people,
    plan_import,
    plans,
    presets,
    reports,
    reviews,
    sites,
    users,
    watching,
    weighing,
)
from server.api.reading import Anyone
from server.api.routing import ApiRouter
from server.api.schemas.common import Credentials, Problem, Session
from server.audit import audited
from server.errors import reason_of
from server.previews.labels import forget, viewer_of
from server.reviews.reviewing import Closed, TooOften
from server.sites.jobs import Busy, TooMany
from server.sites.plans import NoPlan, Stale
from server.sites.quota import Quota, room_of
from unladen.documents import read_json
from unladen.errors import UnladenError


class Strict(Parser):
    """Bodies by the same rules as documents: no halves of characters, no numbers out of range, not too deep."""

    def parse_body(self, request: HttpRequest) -> Any:
        return read_json(request.body, "the request")


class Api(NinjaAPI):
    """The API with the body of errors in its description, which no route's own models name."""

    def get_openapi_schema(self, **options: Any) -> Any:
        """The OpenAPI document."""
        document = super().get_openapi_schema(**options)
        document["components"]["schemas"].setdefault(Problem.__name__, Problem.model_json_schema())
        return document


api = Api(title="Unladen Mule", version="1", auth=SessionAuth(), docs_url=None, openapi_url=None, parser=Strict())


session = ApiRouter(tags=["session"], auth=Anyone())


def _session(request: HttpRequest) -> Session:
    get_token(request)  # sends the cookie that the front end needs for its other calls
    name = request.user.get_username() if request.user.is_authenticated else ""
    room = room_of(request.user) if isinstance(request.user, User) else Quota(0, settings.USER_LIMIT)
    return Session(
        username=name,
        preview_port=settings.PREVIEW_PORT,
        upload_limit=settings.UPLOAD_LIMIT,
        stored=room.used,
        storage_limit=room.most,
        admin=request.user.is_staff,
    )


@session.get("", response=Session, url_name="session")
def who(request: HttpRequest) -> Session:
    """Who is signed in."""
    return _session(request)


@session.post("", response={200: Session, 403: Problem})
@audited("signed in")
def sign_in(request: HttpRequest, credentials: Credentials) -> Session | HttpResponse:
    """Sign in with a user name and a password."""
    if has_to_wait(request):
        return too_often(request)
    user = authenticate(request, username=credentials.username, password=credentials.password)
    if user is None:
        raise HttpError(403, "Wrong user name or password.")
    login(request, user)
    return _session(request)


@session.delete("", response=Session)
@audited("signed out")
def sign_out(request: HttpRequest) -> Session:
    """Sign out; the previews of the session end with it."""
    forget(viewer_of(request))
    logout(request)
    return _session(request)


api.add_router("session", session)
api.add_router("", sites.router)
api.add_router("", plans.router)
api.add_router("", account.router)
api.add_router("", plan_import.router)
api.add_router("", presets.router)
api.add_router("", weighing.router)
api.add_router("", images.router)
api.add_router("", users.router)
api.add_router("", people.router)
api.add_router("", allowances.router)
api.add_router("", by_hand.router)
api.add_router("", watching.router)
api.add_router("", reports.router)
api.add_router("", reviews.router)
api.add_router("", reviews.open_router)


def _problem(request: HttpRequest, status: int, detail: str) -> HttpResponse:
    return api.create_response(request, Problem(detail=detail), status=status)


@api.exception_handler(AuthenticationError)
def _not_signed_in(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    return _problem(request, 401, "You are not signed in. Sign in first.")


@api.exception_handler(ValidationError)
def _invalid(request: HttpRequest, error: ValidationError) -> HttpResponse:
    first = error.errors[0] if error.errors else {}
    place = ".".join(str(part) for part in first.get("loc", ())[1:])
    return _problem(request, 422, f"{place}: {first.get('msg', 'is not valid')}")


@api.exception_handler(UnladenError)
def _bad_input(request: HttpRequest, error: UnladenError) -> HttpResponse:
    return _problem(request, 422, str(error))


@api.exception_handler(NoPlan)
@api.exception_handler(Stale)
def _conflict(request: HttpRequest, error: UnladenError) -> HttpResponse:
    return _problem(request, 409, str(error))


@api.exception_handler(OSError)
@api.exception_handler(DatabaseError)
def _machine(request: HttpRequest, error: Exception) -> HttpResponse:
    known = reason_of(error)
    if known is None:
        raise error
    return _problem(request, *known)


@api.exception_handler(TooMany)
def _too_many(request: HttpRequest, error: TooMany) -> HttpResponse:
    message = f"You have {settings.JOBS_OF_A_USER} waiting jobs, the most allowed. Stop a job or wait until one ends."
    return _problem(request, 429, message)


@api.exception_handler(TooOften)
def _too_often(request: HttpRequest, error: TooOften) -> HttpResponse:
    return _problem(request, 429, str(error))


@api.exception_handler(Closed)
def _closed(request: HttpRequest, error: Closed) -> HttpResponse:
    return _problem(request, 410, str(error))


@api.exception_handler(Busy)
def _busy(request: HttpRequest, error: Busy) -> HttpResponse:
    return _problem(request, 409, "Another job on this site is running. Wait until it ends, or stop it.")
