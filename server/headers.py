"""Response headers of the application's own origin."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from server.previews.labels import address_of


def _policy() -> str:
    previews = address_of(f"*.{settings.PREVIEW_HOST}")  # pictures of uploads, and sandboxed frames
    return (
        "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob: "
        f"{previews}; "
        f"font-src 'self'; connect-src 'self'; frame-src {previews}; object-src 'none'; base-uri 'none'; "
        "form-action 'self'; frame-ancestors 'none'"
    )


class ContentSecurity:
    """Nothing from another host runs in the application's origin."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        response.headers.setdefault("Content-Security-Policy", _policy())
        return response
