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
_KEY = re.compile(
    r"/[0-9a-f-]{36}(?=/|$)|(?<=/api/review)/[^/]+"
)  # a review's link opens it, so it is not written down
# What follows the last word of a path: a key, a name.
_PART = re.compile(r"(?<=/people)/[^/]+|(?<=/by-hand)/[^/]+|(?<=/weigh-ins)/[^/]+|/reviews/[^/]+(?=/withdraw)")
# By method and what follows the site's key, or the whole path.
_WORDS = {
    ("POST", "/api/session"): "signing in",
    ("DELETE", "/api/session"): "signing out",
    ("POST", "/api/sites"): "handing a site in",
    ("POST", "/api/sites/visit"): "having a live site visited",
    ("POST", "/newer"): "handing a newer copy in",
    ("DELETE", ""): "deleting the site",
    ("PATCH", ""): "setting what a page may weigh",
    ("POST", "/weigh"): "having it weighed",
    ("POST", "/pages"): "choosing its pages",
    ("POST", "/weigh-ins"): "having more weighed",
    ("POST", "/walk"): "having its pages walked over",
    ("PUT", "/walk"): "setting steps of a walk",
    ("PUT", "/rules"): "saying whose hosts are whose",
    ("POST", "/lighten"): "having it lightened",
    ("POST", "/runs"): "having the plan carried out",
    ("POST", "/plan/commands"): "editing the plan",
    ("POST", "/plan/document"): "taking a plan from a file",
    ("GET", "/lighter.zip"): "taking the lighter site away",
    ("GET", "/changed.zip"): "taking what changed away",
    ("POST", "/api/users"): "making an account",
    ("POST", "/reviews"): "making a review link",
    ("GET", "/report.html"): "taking a report away",
    ("GET", "/report.pdf"): "taking a report away",
    ("PUT", "/allowance"): "setting what pages may weigh",
    ("PUT", "/people"): "letting somebody in",
    ("DELETE", "/people"): "shutting somebody out",
    ("PUT", "/watch"): "setting how it is watched",
    ("POST", "/watch"): "having the live site weighed",
    ("POST", "/visit-again"): "having the live site visited",
    ("PUT", "/by-hand"): "ticking off what was put in by hand",
    ("POST", "/plan/go"): "going to another version of the plan",
    ("POST", "/images/settings"): "setting how images are treated",
    ("POST", "/withdraw"): "withdrawing a review link",
    ("PATCH", "/weigh-ins"): "pinning or naming a weigh-in",
    ("DELETE", "/weigh-ins"): "deleting a weigh-in",
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
        words = (
            _WORDS.get(kind)
            or _WORDS.get((kind[0], _PART.sub("", kind[1])))
            or _KEY.sub("/…", f"{kind[0]} {kind[1]}")
        )
        key = found["site"] if found else ""
        _note(name, address_of(request), words, about, key, response.status_code)
        return response


def _name(key: str) -> str:
    try:
        return Site.objects.filter(pk=UUID(key)).values_list("name", flat=True).first() or key
    except ValueError:
        return key


def _note(who: str, address: str, what: str, about: str, site: str, status: int) -> None:
    row = Deed.objects.create(
        who=who[:150], address=address[:45], what=what[:100], about=about[:200], site=site, status=status
    )
    if row.pk % _EVERY == 0:
        Deed.objects.filter(pk__lte=row.pk - _MOST).delete()
