"""Who did what: each request that changes something, or takes a result away, as a row for the administrator."""

from __future__ import annotations

import re
from collections.abc import Callable
from uuid import UUID

from django.contrib.auth.models import User
from django.http import HttpRequest, HttpResponse

from server.accounts import address_of
from server.errors import API
from server.sites.models import Deed, Site

_MOST = 20_000  # rows kept
_EVERY = 500  # rows after which those beyond go
_SITE = re.compile(r"/api/sites/(?P<site>[0-9a-f-]{36})(?P<rest>/.*)?")
# By method and what follows the site's key, or the whole path.
_WORDS = {
    ("POST", "/api/session"): "signed in",
    ("DELETE", "/api/session"): "signed out",
    ("POST", "/api/sites"): "handed a site in",
    ("POST", "/api/sites/visit"): "had a live site visited",
    ("POST", "/newer"): "handed a newer copy in",
    ("DELETE", ""): "deleted the site",
    ("POST", "/weigh"): "had it weighed",
    ("POST", "/lighten"): "had it lightened",
    ("POST", "/runs"): "had the plan carried out",
    ("POST", "/plan/commands"): "edited the plan",
    ("GET", "/lighter.zip"): "took the lighter site away",
    ("GET", "/changed.zip"): "took what changed away",
}


class Log:
    """Notes what callers did once it is done, and what they were refused."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        found = _SITE.fullmatch(request.path)
        kind = request.method or "", (found["rest"] or "") if found else request.path
        if not request.path.startswith(API) or (request.method in ("GET", "HEAD") and kind not in _WORDS):
            return self.get_response(request)
        before = request.user.get_username()
        about = _name(found["site"]) if found else ""  # before it may be gone
        response = self.get_response(request)
        name = before or (request.user.get_username() if isinstance(request.user, User) else "")
        words = _WORDS.get(kind, f"{kind[0]} {kind[1]}")
        _note(name, address_of(request), words, about, response.status_code)
        return response


def _name(key: str) -> str:
    try:
        return Site.objects.filter(pk=UUID(key)).values_list("name", flat=True).first() or key
    except ValueError:
        return key


def _note(who: str, address: str, what: str, about: str, status: int) -> None:
    row = Deed.objects.create(who=who[:150], address=address[:45], what=what[:100], about=about[:200], status=status)
    if row.pk % _EVERY == 0:
        Deed.objects.filter(pk__lte=row.pk - _MOST).delete()
