"""The preview server: uploaded pages under origins of their own, sandboxed, reaching nothing but themselves."""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Iterable
from http import HTTPStatus
from typing import Any
from urllib.parse import parse_qs, quote

import django
from django.conf import settings
from django.utils.html import escape

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
django.setup()

from django.db import close_old_connections  # noqa: E402

from server.previews.copies import copy_at  # noqa: E402
from server.previews.labels import FILE_PATH, Spot, read_host  # noqa: E402
from unladen.page_scripts import in_page  # noqa: E402
from unladen.replay.answer import Answer  # noqa: E402
from unladen.replay.moved import SCRIPT_PATH, Moved  # noqa: E402

_KEPT = ("content-type", "content-encoding", "etag", "vary", "accept-ranges", "content-range", "location")
_NOTHING = Answer(404, (("content-type", "text/plain"),), b"There is no such preview.\n")
_GONE = Answer(404, (("content-type", "text/plain"),), b"This preview is gone.\n")
StartResponse = Callable[[str, list[tuple[str, str]]], Any]


def _policy(spot: Spot | None) -> str:
    """No origin, no windows, no forms; of all hosts only those of the same copy. Frames of it stand in our own
    pages.
    """
    here = spot.origins if spot else "'none'"
    ours = " ".join(f"http://{host}:* https://{host}:*" for host in settings.ALLOWED_HOSTS)
    return (
        f"frame-ancestors {here} {ours}; webrtc 'block'; "
        f"sandbox allow-scripts; default-src {here} data: blob: 'unsafe-inline' 'unsafe-eval'; "
        f"connect-src {here} data: blob:; frame-src {here}; form-action 'none'; base-uri {here}"
    )


def _alone(spot: Spot | None) -> str:
    """For a single file in a tab of its own, where a script could send the tab, and the address in it, elsewhere."""
    here = spot.origins if spot else "'none'"
    return (
        f"sandbox; default-src 'none'; img-src {here} data:; media-src {here}; style-src 'unsafe-inline'; "
        "frame-ancestors 'none'"
    )


def _framed(spot: Spot, path: str) -> tuple[str, bytes]:
    """A page of ours, by policy and body, that holds the preview in a frame, which cannot leave it for other hosts."""
    rest = "frame-ancestors 'none'; base-uri 'none'; form-action 'none'"
    policy = f"default-src 'none'; style-src 'unsafe-inline'; frame-src {spot.origins}; {rest}"
    return policy, (
        '<!doctype html><meta charset="utf-8"><title>Preview</title>'
        "<style>html,body{margin:0;height:100%}iframe{display:block;border:0;width:100%;height:100%}</style>"
        f'<iframe title="Preview" referrerpolicy="no-referrer" src="{escape(path)}"></iframe>'
    ).encode()


def respond(host: str, path: str, headers: dict[str, str], method: str = "GET") -> Answer:
    """What the preview under this host answers."""
    spot = read_host(host)
    copy = copy_at(spot) if spot else None
    if spot is None or copy is None or method not in ("GET", "HEAD"):
        return _NOTHING
    if headers.get("service-worker"):
        return _NOTHING  # a page without an origin has none
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
    settings = json.dumps({"hosts": dict(copy.origins)})
    text = f"{in_page('bar')};\n{in_page('live')}({settings});\n"
    return Answer(200, (("content-type", "text/javascript"),), text.encode())


def _asked_for(environ: dict[str, Any]) -> str:
    """Path and query as they were sent: `PATH_INFO` does not tell a coded slash from another."""
    sent = str(environ.get("RAW_URI", ""))
    if sent.startswith("/"):
        return sent.partition("#")[0]
    path = quote(environ.get("PATH_INFO", "/").encode("latin-1"))
    return f"{path}?{environ['QUERY_STRING']}" if environ.get("QUERY_STRING") else path


def application(environ: dict[str, Any], start_response: StartResponse) -> Iterable[bytes]:
    """WSGI."""
    path = _asked_for(environ)
    headers = {
        "range": environ.get("HTTP_RANGE", ""),
        "if-none-match": environ.get("HTTP_IF_NONE_MATCH", ""),
        "service-worker": environ.get("HTTP_SERVICE_WORKER", ""),
    }
    host = environ.get("HTTP_HOST", "")
    close_old_connections()
    try:
        response = respond(host, path, headers, environ["REQUEST_METHOD"])
    finally:
        close_old_connections()
    # A recording's other fields, such as cookies, are not for this host.
    kept = [(name, value) for name, value in response.headers if name in _KEPT]
    spot, body, policy = read_host(host), response.body, _policy(read_host(host))
    if environ.get("HTTP_SEC_FETCH_DEST") == "document":
        if path.partition("?")[0] == FILE_PATH:
            policy = _alone(spot)
        elif (
            spot is not None and response.status == 200 and dict(kept).get("content-type", "").startswith("text/html")
        ):
            policy, body = _framed(spot, path)
            kept = [("content-type", "text/html; charset=utf-8")]
    kept += [
        ("Content-Security-Policy", policy),
        ("Vary", "Sec-Fetch-Dest"),
        ("X-DNS-Prefetch-Control", "off"),
        # Pages without an origin ask for fonts, modules and data as strangers; there is nothing here that needs a key.
        ("Access-Control-Allow-Origin", "*"),
        ("Cache-Control", "no-cache"),
        ("X-Content-Type-Options", "nosniff"),
        ("Referrer-Policy", "no-referrer"),
        ("Content-Length", str(len(body))),
    ]
    phrase = HTTPStatus(response.status).phrase if response.status in set(HTTPStatus) else "Unknown"
    start_response(f"{response.status} {phrase}", kept)
    return [] if environ["REQUEST_METHOD"] == "HEAD" else [body]
