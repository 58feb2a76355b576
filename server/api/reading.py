"""What all of the API's parts share: whose site it is, answers that need not be sent again, files to take away."""

from __future__ import annotations

import hashlib
import json
from typing import Literal, cast, get_args
from uuid import UUID

from django.conf import settings
from django.contrib.auth.models import User
from django.db.models import Q, QuerySet
from django.http import FileResponse, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.text import slugify
from ninja.errors import HttpError
from ninja.security import APIKeyCookie

from server.api.schemas.common import Problem
from server.previews.labels import period, viewer_of
from server.sites import runs
from server.sites.models import Run, Share, Site

ERRORS = dict.fromkeys((400, 401, 403, 404, 409, 410, 413, 422, 429), Problem)
FILE = {"responses": {200: {"description": "The file"}}}  # for `openapi_extra`
# What somebody may do with a site, each with what those before it may.
Role = Literal["look", "edit", "own"]
ROLES: tuple[Role, ...] = get_args(Role)
READ = {304: None, **ERRORS}


class Anyone(APIKeyCookie):
    """Lets everybody in, but checks the CSRF token, which a route without any `auth` would not."""

    param_name = settings.SESSION_COOKIE_NAME

    def authenticate(self, request: HttpRequest, key: str | None) -> str:
        """Never refuses."""
        return "anyone"


def owner_of(request: HttpRequest) -> User:
    """The caller, whom the router let in."""
    assert isinstance(request.user, User)
    return request.user


def sites_of(request: HttpRequest) -> QuerySet[Site]:
    """The sites that the caller owns or was let in to, with their runs, without what is large: that is read when
    somebody asks for it.
    """
    user = owner_of(request)
    shared = Share.objects.filter(user=user).values("site")
    rows = Site.objects.filter(Q(owner=user) | Q(pk__in=shared)).select_related("run", "owner")
    return rows.defer("images", "index", "run__ledger", "run__evidence", "run__index")


def role_of(request: HttpRequest, site: Site) -> Role:
    """What the caller may do with a site that is among `sites_of`: one of `ROLES`."""
    if site.owner_id == owner_of(request).pk:
        return "own"
    return cast(Role, Share.objects.values_list("role", flat=True).get(site=site, user=owner_of(request)))


def expect_role(request: HttpRequest, site: Site, least: Role | None = None) -> None:
    """Raises 403 where the caller may do less than this; who says nothing may look, and edit by all but reading."""
    least = least or ("look" if request.method in ("GET", "HEAD") else "edit")
    role = role_of(request, site)
    if ROLES.index(role) < ROLES.index(least):
        may = "view this site" if role == "look" else "edit this site"
        raise HttpError(403, f"You may only {may}. Ask the owner, {site.owner.get_username()}, for more rights.")


def site_of(request: HttpRequest, site_id: UUID, least: Role | None = None) -> Site:
    """A site of the caller's, with its plan and run; for those who were not let in it does not exist.

    The caller must be able to do as much as `least` says, see `expect_role`.
    """
    rows = sites_of(request).select_related("head", "run__version").defer("head__document", "run__version__document")
    site = get_object_or_404(rows, pk=site_id)
    expect_role(request, site, least)
    return site


def unchanged(request: HttpRequest, response: HttpResponse, *state: object) -> bool:
    """Whether the caller has the answer for this state already.

    The answer's tag is set either way (RFC 9110, 8.8.3).
    """
    # Answers may hold addresses of previews.
    whole = (state, viewer_of(request), period())
    tag = f'"{hashlib.sha256(repr(whole).encode()).hexdigest()[:32]}"'
    response["ETag"] = tag
    response["Cache-Control"] = "private, no-cache"
    return tag in request.headers.get("If-None-Match", "")


def as_it_is(body: object, response: HttpResponse | None = None) -> HttpResponse:
    """Plain values that are an endpoint's answer already: they are sent without going through its schema again.

    `response` holds the header fields that go with it.
    """
    answer = HttpResponse(json.dumps(body), content_type="application/json")
    for name, value in response.items() if response is not None else ():
        answer.setdefault(name, value)
    return answer


def slug_of(site: Site) -> str:
    """The site's name as a part of a file's name."""
    return slugify(site.name) or "site"


def json_file(site: Site, what: str, document: object) -> HttpResponse:
    """A document to take away."""
    return file(json.dumps(document, indent=1), "application/json", f"{slug_of(site)}-{what}.json")


def file(text: str, media_type: str, name: str) -> HttpResponse:
    """A text to take away."""
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return HttpResponse(text, content_type=media_type, headers=headers)


def run_of(site: Site) -> Run:
    """The run that is shown."""
    if site.run is None:
        raise HttpError(404, "No run yet, so nothing to hand over.")
    return site.run


def archive(site: Site, name: str) -> FileResponse:
    """One of the archives of the run that is shown."""
    path = runs.archive_of(run_of(site), name)
    return FileResponse(path.open("rb"), as_attachment=True, filename=f"{slug_of(site)}-{name}.zip")
