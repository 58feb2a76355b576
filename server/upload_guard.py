"""Looks at who asks and how much comes before the first byte of a long request is read."""

from __future__ import annotations

import re
from collections.abc import Callable

from django.conf import settings
from django.contrib.auth.models import User
from django.http import HttpRequest, HttpResponse, HttpResponseNotAllowed
from django.middleware.csrf import CsrfViewMiddleware

from server.errors import API, problem
from server.front import SHORT_BODY
from server.sites.models import Site
from server.sites.quota import megabytes, room_of

_AROUND = 64_000  # bytes of a form around its file
_UPLOADS = re.compile(r"/api/sites(?:/(?P<site>[0-9a-f-]{36})/newer|/visit)?")


class UploadGuard:
    """Refuses long bodies of strangers, bodies that are too long or of no stated length, and what finds no room."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self._refused(request) or self.get_response(request)
        if isinstance(response, HttpResponseNotAllowed) and request.path.startswith(API):
            refusal = problem(request, 405, f"This address accepts {response['Allow']} only.")
            refusal["Allow"] = response["Allow"]
            return refusal
        return response

    def _refused(self, request: HttpRequest) -> HttpResponse | None:
        if "chunked" in request.headers.get("Transfer-Encoding", "").lower():
            return problem(request, 411, "Content-Length is required.")
        given = request.META.get("CONTENT_LENGTH") or "0"
        length = int(given) if given.isdigit() else 0
        upload = request.method == "POST" and _UPLOADS.fullmatch(request.path)
        if length <= SHORT_BODY and not upload:
            return None
        if not isinstance(request.user, User):
            return problem(request, 401, "You are not signed in. Sign in first.")
        if refusal := _without_token(request):
            return refusal
        if upload and (room := self._no_room(request, self._pays(request.user, upload["site"]), length)):
            return room
        if upload and not request.path.endswith("/visit"):
            return None
        form = request.content_type == "multipart/form-data"
        most = settings.DOCUMENT_LIMIT if form else settings.DATA_UPLOAD_MAX_MEMORY_SIZE
        if length > most + _AROUND:
            return problem(request, 413, f"The request is larger than the limit of {megabytes(most)}.")
        return None

    @staticmethod
    def _pays(user: User, site: str | None) -> User:
        """Whose room it takes: a newer copy lies with the site's owner."""
        row = Site.objects.filter(pk=site).select_related("owner").first() if site else None
        return row.owner if row else user

    @staticmethod
    def _no_room(request: HttpRequest, user: User, length: int) -> HttpResponse | None:
        """For what would bring a site: its size, as far as it is known, and what the user has already."""
        if length > settings.UPLOAD_LIMIT + _AROUND:
            return problem(request, 413, f"The file is larger than the limit of {megabytes(settings.UPLOAD_LIMIT)}.")
        room = room_of(user)
        if room.used + length > room.most:
            use = f"Your sites use {megabytes(room.used)} of your quota of {megabytes(room.most)}."
            message = f"{use} Delete a site to free space."
            return problem(request, 413, message)
        return None


def _without_token(request: HttpRequest) -> HttpResponse | None:
    """What Django says of the token in the header. It would look into the body first, and read all of it."""
    head = HttpRequest()
    head.META, head.COOKIES, head.path, head.method = dict(request.META), request.COOKIES, request.path, "PUT"
    head._dont_enforce_csrf_checks = getattr(request, "_dont_enforce_csrf_checks", False)  # type: ignore[attr-defined]
    _TOKENS.process_request(head)
    return _TOKENS.process_view(head, _never_called, (), {})


def _never_called(request: HttpRequest) -> HttpResponse:
    raise AssertionError("only its head is looked at")


_TOKENS = CsrfViewMiddleware(_never_called)
