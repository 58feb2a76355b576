"""Views beside the API."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.models import User
from django.core import signing
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect
from django.views.decorators.http import require_safe

from server.errors import problem

_SALT = "unladen.enter"
_VALID_FOR = 3600  # s
_OVER = "This address was used already or is older than an hour. Start ./mule demo again to get a new one."


def entry_token(user: User) -> str:
    """What the demo's address ends with; it signs this user in, once and within an hour."""
    return signing.dumps([user.get_username(), str(user.last_login)], salt=_SALT)


@require_safe
def enter(request: HttpRequest, token: str) -> HttpResponse:
    """Sign the demo user in. Exists in the demo only."""
    if not settings.IS_DEMO:
        raise Http404
    try:
        username, last = signing.loads(token, salt=_SALT, max_age=_VALID_FOR)
        user = User.objects.get(username=username)
    except (signing.BadSignature, User.DoesNotExist, ValueError):
        return problem(request, 404, _OVER)
    if str(user.last_login) != last:
        return problem(request, 404, _OVER)
    login(request, user, "django.contrib.auth.backends.ModelBackend")
    return HttpResponseRedirect("/")


@require_safe
def front_end(request: HttpRequest) -> HttpResponse:
    """The single page of the front end, for every address that it routes itself."""
    index = settings.WEB_DIR / "index.html"
    if not index.exists():
        return HttpResponse("The front end is not built. Run ./mule start.", status=503, content_type="text/plain")
    return HttpResponse(index.read_bytes(), headers={"Cache-Control": "no-cache"})
