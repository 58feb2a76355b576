"""The preview server: uploaded pages under origins of their own, sandboxed, reaching nothing but themselves."""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Iterable
from http import HTTPStatus
from typing import Any
from urllib.parse import parse_qs, quote

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
django.setup()

from django.db import close_old_connections  # noqa: E402

from server.previews.copies import copy_at  # noqa: E402
from server.previews.labels import FILE_PATH, Spot, read_host  # noqa: E402
from unladen.inpage import in_page  # noqa: E402
from unladen.replay.answer import Answer  # noqa: E402
from unladen.replay.moved import SCRIPT_PATH, Moved  # noqa: E402

_KEPT = ("content-type", "content-encoding", "etag", "vary", "accept-ranges", "content-range", "location")
_NOTHING = Answer(404, (("content-type", "text/plain"),), b"There is no such preview.\n")
_GONE = Answer(404, (("content-type", "text/plain"),), b"This preview is gone.\n")
StartResponse = Callable[[str, list[tuple[str, str]]], Any]


def _policy(spot: Spot | None) -> str:
    """No origin, no windows, no forms; of all hosts only those of the same copy."""
    here = spot.origins if spot else "'none'"
    return (
        f"sandbox allow-scripts; default-src {here} data: blob: 'unsafe-inline' 'unsafe-eval'; "
        f"connect-src {here} data: blob:; frame-src {here} data: blob:; form-action 'none'; base-uri {here}"
    )


def respond(host: str, path: str, headers: dict[str, str], method: str = "GET") -> Answer:
    """What the preview under this host answers."""
    spot = read_host(host)
    copy = copy_at(spot) if spot else None
    if spot is None or copy is None or method not in ("GET", "HEAD"):
        return _NOTHING
    plain, _, query = path.partition("?")
    try:
        if plain == SCRIPT_PATH:
            return _script(copy)
        if plain == FILE_PATH:
            wanted = parse_qs(query).get("url", [""])[0]
            return copy.file(wanted, headers, method) if copy.capture.lookup(wanted) else _NOTHING
        return copy.answer(spot.host, path, headers, method)
    except (KeyError, FileNotFoundError):  # the site was deleted a moment ago
        return _GONE


def _script(copy: Moved) -> Answer:
    told = json.dumps({"hosts": dict(copy.origins)})
    return Answer(200, (("content-type", "text/javascript"),), f"{in_page('live')}({told});\n".encode())


def application(environ: dict[str, Any], start_response: StartResponse) -> Iterable[bytes]:
    """WSGI."""
    path = quote(environ.get("PATH_INFO", "/").encode("latin-1"))
    if environ.get("QUERY_STRING"):
        path += "?" + environ["QUERY_STRING"]
    headers = {
        "range": environ.get("HTTP_RANGE", ""),
        "if-none-match": environ.get("HTTP_IF_NONE_MATCH", ""),
    }
    host = environ.get("HTTP_HOST", "")
    close_old_connections()
    try:
        found = respond(host, path, headers, environ["REQUEST_METHOD"])
    finally:
        close_old_connections()
    # A recording's other fields, such as cookies, are not for this host.
    kept = [(name, value) for name, value in found.headers if name in _KEPT]
    kept += [
        ("Content-Security-Policy", _policy(read_host(host))),
        # Pages without an origin ask for fonts, modules and data as strangers; there is nothing here that needs a key.
        ("Access-Control-Allow-Origin", "*"),
        ("Cache-Control", "no-cache"),
        ("X-Content-Type-Options", "nosniff"),
        ("Referrer-Policy", "no-referrer"),
        ("Content-Length", str(len(found.body))),
    ]
    phrase = HTTPStatus(found.status).phrase if found.status in set(HTTPStatus) else "Unknown"
    start_response(f"{found.status} {phrase}", kept)
    return [] if environ["REQUEST_METHOD"] == "HEAD" else [found.body]
