"""The preview server: uploaded pages under origins of their own, sandboxed, reaching nothing but themselves."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable
from functools import lru_cache
from http import HTTPStatus
from typing import Any
from urllib.parse import parse_qs, quote, urljoin

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
django.setup()

from django.db import close_old_connections  # noqa: E402
from django.db.models.fields.json import KeyTextTransform  # noqa: E402

from server.previews.labels import FILE_PATH, Side, read_host  # noqa: E402
from server.sites import storage  # noqa: E402
from server.sites.models import Site  # noqa: E402
from unladen.capture import Capture  # noqa: E402
from unladen.capture.addresses import site_path  # noqa: E402
from unladen.replay.answer import Answer, answer  # noqa: E402

_POLICY = (
    "sandbox allow-scripts; default-src 'self' data: blob: 'unsafe-inline' 'unsafe-eval'; "
    "connect-src 'self'; form-action 'none'; frame-src 'none'"
)
_TOKEN_LENGTH = 32
_KEPT = ("content-type", "content-encoding", "etag", "vary", "accept-ranges", "content-range", "location")
_NOTHING = Answer(404, (("content-type", "text/plain"),), b"There is no such preview.\n")
StartResponse = Callable[[str, list[tuple[str, str]]], Any]


def _capture(side: Side, token: str) -> Capture | None:
    sites = Site.objects.filter(preview_token=token).annotate(read=KeyTextTransform("taken", "baseline"))
    site = sites.values("run_id", "read").first() if len(token) == _TOKEN_LENGTH else None
    if site is None or (side == "now" and site["run_id"] is None):
        return None
    # What was found changes with a newer copy of the site, what is there now with the run that is shown.
    return _kept(side, token, str(site["run_id"] if side == "now" else site["read"]))


@lru_cache(maxsize=8)
def _kept(side: Side, token: str, stamp: str) -> Capture | None:
    site = Site.objects.select_related("run").get(preview_token=token)
    return storage.lightened_of(site) if side == "now" else storage.capture_of(site)


def respond(host: str, path: str, headers: dict[str, str], method: str = "GET") -> Answer:
    """What the preview under this host answers."""
    named = read_host(host)
    capture = _capture(*named) if named else None
    if capture is None or method not in ("GET", "HEAD"):
        return _NOTHING
    if path.partition("?")[0] == FILE_PATH:
        wanted = parse_qs(path.partition("?")[2]).get("url", [""])[0]
        return _here(capture, answer(capture, method, wanted, headers)) if capture.lookup(wanted) else _NOTHING
    if path == "/" and capture.lookup(capture.base_url) is None:
        first = site_path(capture.base_url, capture.pages()[0].url)
        return Answer(302, (("location", first),))
    try:
        return _here(capture, answer(capture, method, capture.base_url + path.lstrip("/"), headers))
    except KeyError:  # the site was deleted a moment ago
        return Answer(404, (("content-type", "text/plain"),), b"This preview is gone.\n")


def _here(capture: Capture, found: Answer) -> Answer:
    """Redirects within the site stay on the preview; those that lead elsewhere lead nowhere."""
    target = dict(found.headers).get("location")
    if target is None:
        return found
    url = urljoin(capture.base_url, target)
    if not capture.owns(url):
        return _NOTHING
    fields = tuple(field for field in found.headers if field[0] != "location")
    return Answer(found.status, (*fields, ("location", site_path(capture.base_url, url))))


def application(environ: dict[str, Any], start_response: StartResponse) -> Iterable[bytes]:
    """WSGI."""
    path = quote(environ.get("PATH_INFO", "/").encode("latin-1"))
    if environ.get("QUERY_STRING"):
        path += "?" + environ["QUERY_STRING"]
    headers = {
        "range": environ.get("HTTP_RANGE", ""),
        "if-none-match": environ.get("HTTP_IF_NONE_MATCH", ""),
    }
    close_old_connections()
    try:
        found = respond(environ.get("HTTP_HOST", ""), path, headers, environ["REQUEST_METHOD"])
    finally:
        close_old_connections()
    # A recording's other fields, such as cookies, are not for this host.
    kept = [(name, value) for name, value in found.headers if name in _KEPT]
    kept += [
        ("Content-Security-Policy", _POLICY),
        ("Cache-Control", "no-cache"),
        ("X-Content-Type-Options", "nosniff"),
        ("Referrer-Policy", "no-referrer"),
        ("Content-Length", str(len(found.body))),
    ]
    phrase = HTTPStatus(found.status).phrase if found.status in set(HTTPStatus) else "Unknown"
    start_response(f"{found.status} {phrase}", kept)
    return [] if environ["REQUEST_METHOD"] == "HEAD" else [found.body]
