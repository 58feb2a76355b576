"""Views beside the API."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.core import signing
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect
from django.views.decorators.http import require_safe

_SALT = "unladen.enter"
_VALID_FOR = 7 * 24 * 3600  # s


def entry_token(username: str) -> str:
    """What the demo's address ends with; it signs this user in."""
    return signing.dumps(username, salt=_SALT)


@require_safe
def enter(request: HttpRequest, token: str) -> HttpResponse:
    """Sign the demo user in. Exists in the demo only."""
    if not settings.IS_DEMO:
        raise Http404
    try:
        username = signing.loads(token, salt=_SALT, max_age=_VALID_FOR)
        user = get_user_model().objects.get(username=username)
    except (signing.BadSignature, get_user_model().DoesNotExist):
        raise Http404 from None
    login(request, user)
    return HttpResponseRedirect("/")


@require_safe
def front_end(request: HttpRequest) -> HttpResponse:
    """The single page of the front end, for every address that it routes itself."""
    index = settings.WEB_DIR / "index.html"
    if not index.exists():
        return HttpResponse("The front end is not built; run ./mule start.", status=503, content_type="text/plain")
    return HttpResponse(index.read_bytes(), headers={"Cache-Control": "no-cache"})
