"""Audit log of API requests: each request that changes something or downloads a result, as a row."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import cache
from uuid import UUID

from django.contrib.auth.models import User
from django.http import HttpRequest, HttpResponse
from ninja.operation import PathView
from ninja.router import BoundRouter

from server.accounts import address_of
from server.audit import words_of
from server.errors import API
from server.sites.models import AuditEntry, Site

_MOST = 20_000  # rows kept
_EVERY = 500  # rows after which those beyond go
_SITE = re.compile(r"/api/sites/(?P<site>[0-9a-f-]{36})(?P<rest>/.*)?")
_KEY = re.compile(
    r"/[0-9a-f-]{36}(?=/|$)|(?<=/api/review)/[^/]+"
)  # a review's link opens it, so it is not written down


class Log:
    """Notes what callers did once it is done, and what they were refused."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if not request.path.startswith(API):
            return self.get_response(request)
        match = _SITE.fullmatch(request.path)
        before = request.user.get_username()
        # Before the site may be gone; what only reads needs no name.
        changes = request.method not in ("GET", "HEAD")
        about = _name(match["site"]) if match and changes else ""
        response = self.get_response(request)
        words = _words_of(request)
        # A database that is busy is not waited for once more.
        if response.status_code == 503 or (not words and not changes):
            return response
        name = before or (request.user.get_username() if isinstance(request.user, User) else "")
        key = match["site"] if match else ""
        _note(
            name,
            address_of(request),
            words or _KEY.sub("/…", f"{request.method} {request.path.removeprefix(API)}"),
            about or (_name(key) if key else ""),
            key,
            response.status_code,
        )
        return response


def _words_of(request: HttpRequest) -> str:
    """The words that the route of a request declares, "" where no route has this address and method."""
    match = request.resolver_match
    return routes().get((request.method or "", match.route), "") if match else ""


@cache
def routes() -> dict[tuple[str, str], str]:
    """The audit words of every route of the API, "" where it declares none, by method and address pattern."""
    from server.api.main import api

    routes = {}
    for router in api._get_bound_routers():
        for pattern, path_view in zip(router.urls_paths(router.prefix), _views(router), strict=True):
            for operation in path_view.operations:
                for method in operation.methods:
                    routes[method, f"{API.lstrip('/')}{pattern.pattern}"] = words_of(operation.view_func)
    return routes


def _views(router: BoundRouter) -> list[PathView]:
    """The view of each address pattern that a router gives: one for each of its operations."""
    return [view for view in router.path_operations.values() for _ in view.operations]


def _name(key: str) -> str:
    try:
        return Site.objects.filter(pk=UUID(key)).values_list("name", flat=True).first() or key
    except ValueError:
        return key


def _note(who: str, address: str, what: str, about: str, site: str, status: int) -> None:
    row = AuditEntry.objects.create(
        who=who[:150], address=address[:45], what=what[:100], about=about[:200], site=site, status=status
    )
    if row.pk % _EVERY == 0:
        AuditEntry.objects.filter(pk__lte=row.pk - _MOST).delete()
