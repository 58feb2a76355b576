"""Who may sign in, how often one may try, and from where a request comes."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from server.errors import problem

_LOOPBACK = ("127.0.0.1", "::1")


def address_of(request: HttpRequest) -> str:
    """The caller's address: what a front on this machine says, where there is one, or that of the connection."""
    address = str(request.META.get("REMOTE_ADDR") or "127.0.0.1")
    forwarded = request.headers.get("X-Real-IP", "")
    return forwarded if forwarded and settings.IS_BEHIND_TLS and address in _LOOPBACK else address


def too_often(request: HttpRequest, response: HttpResponse | None = None, credentials: Any = None) -> HttpResponse:
    """For who has tried too many wrong passwords."""
    minutes = int(settings.AXES_COOLOFF_TIME.total_seconds() // 60)
    return problem(request, 429, f"Too many wrong passwords. Wait {minutes} minutes, then try again.")
