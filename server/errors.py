"""What is answered when something goes wrong outside the API's own handlers: one body for all, and a reason."""

from __future__ import annotations

import errno
import logging
import sqlite3
import sys

from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse, JsonResponse, UnreadablePostError

log = logging.getLogger(__name__)

API = "/api/"
_FULL = "The server's disk is full. Nothing was changed. Free some space and try again."
_BUSY = "The server's database is busy. Try again in a moment."
_BROKEN = "The server cannot read its database. The administrator should run ./mule doctor."


def problem(request: HttpRequest, status: int, detail: str) -> HttpResponse:
    """An error as the API tells it, or as plain text where no program asked."""
    if request.path.startswith(API):
        return JsonResponse({"detail": detail}, status=status)
    return HttpResponse(detail + "\n", status=status, content_type="text/plain; charset=utf-8")


def reason_of(error: BaseException) -> tuple[int, str] | None:
    """Status and words for a failure of the machine or the connection; None for what is a mistake of ours."""
    cause: BaseException | None = error
    while cause is not None:
        if isinstance(cause, UnreadablePostError):
            return 408, "The request was interrupted or too slow. Try again."
        if isinstance(cause, OSError) and cause.errno in (errno.ENOSPC, errno.EDQUOT):
            return 507, _FULL
        if isinstance(cause, sqlite3.Error | DatabaseError):
            return _of_database(str(cause))
        cause = cause.__cause__
    return None


def _of_database(words: str) -> tuple[int, str] | None:
    if "full" in words or "disk I/O" in words:
        return 507, _FULL
    if "locked" in words or "busy" in words:
        return 503, _BUSY
    if any(word in words for word in ("malformed", "not a database", "unable to open", "no such table", "readonly")):
        return 503, _BROKEN
    return None


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:
    """For what Django finds suspicious, such as too many fields."""
    return problem(request, 400, "The request is malformed.")


def forbidden(request: HttpRequest, exception: Exception | None = None, reason: str = "") -> HttpResponse:
    """Also for a request without the token that our own pages send."""
    return problem(request, 403, "Request blocked. Reload the page and try again.")


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """For addresses that nothing answers."""
    return problem(request, 404, "Nothing exists at this address.")


def failed(request: HttpRequest) -> HttpResponse:
    """For exceptions that nobody caught; the log has them."""
    error = sys.exc_info()[1]
    known = reason_of(error) if error is not None else None
    return problem(request, *(known or (500, "The server failed. Its log shows the cause.")))
