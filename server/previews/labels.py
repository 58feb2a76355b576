"""The host names of a preview: one for each site, side and host, so that uploaded pages share an origin with nothing.

`found-TOKEN.HOST` is the site's own host, `h2.found-TOKEN.HOST` another one of its recording. A side that is made for
one change stands between them: `h2.CHANGE.with-TOKEN.HOST`, with a short digest of the change's id. The token is a
key that belongs to a session and expires.
"""

from __future__ import annotations

import hashlib
import re
from datetime import timedelta
from typing import Literal, NamedTuple
from urllib.parse import quote_plus

from django.conf import settings
from django.http import HttpRequest
from django.utils import timezone

from server.sites.models import PreviewKey, Site

# As found; as the shown run left it; as the plan is now, not checked; the plan with and without one change.
Side = Literal["found", "now", "plan", "with", "without"]
# Shows any file of the capture by its address; a path that no site is likely to have.
FILE_PATH = "/.unladen/file"
# A key is given out for so long, and holds once more as long.
FRESH_FOR = timedelta(hours=6)
_LABEL = re.compile(
    r"(?:(?P<host>h\d{1,3})\.)?(?:(?P<change>[0-9a-f]{12})\.(?=with))?(?P<side>found|now|plan|with|without)-(?P<token>[0-9a-f]{32})"
)


def address_of(name: str) -> str:
    """The origin at a host name; where a front speaks TLS, it does so at the usual port."""
    return f"https://{name}" if settings.IS_BEHIND_TLS else f"http://{name}:{settings.PREVIEW_PORT}"


class Spot(NamedTuple):
    """What a host name asks for: `change` is a digest by `short`, or "" where no change is meant; `host` "" the own
    one.
    """

    side: Side
    token: str
    change: str = ""
    host: str = ""

    @property
    def origin(self) -> str:
        """Without a slash at its end."""
        return address_of(self._host)

    @property
    def origins(self) -> str:
        """This and all other hosts of the same copy, as a list of sources for a policy."""
        own = self._replace(host="")
        return f"{own.origin} {address_of('*.' + own._host)}"

    @property
    def _host(self) -> str:
        name = ".".join(filter(None, (self.host, self.change, f"{self.side}-{self.token}")))
        return f"{name}.{settings.PREVIEW_HOST}"


def short(change: str) -> str:
    """A change's id as a part of a host name."""
    return hashlib.sha256(change.encode()).hexdigest()[:12]


def viewer_of(request: HttpRequest) -> str:
    """What stands for a session in the keys of previews, "" where there is none."""
    key = request.session.session_key or ""
    return hashlib.sha256(f"previews {key}".encode()).hexdigest() if key else ""


def period() -> int:
    """Changes as often as new keys come."""
    return int(timezone.now().timestamp() // FRESH_FOR.total_seconds())


def forget(viewer: str) -> None:
    """End the previews of a session."""
    PreviewKey.objects.filter(session=viewer).delete()


def _token(site: Site, viewer: str) -> str:
    """The key of a site for who reads it, a new one where the last has been there for long."""
    tokens: dict[str, str] = site.__dict__.setdefault("_previews", {})
    if viewer not in tokens:
        now = timezone.now()
        keys = PreviewKey.objects.filter(site=site, session=viewer)
        key = keys.filter(until__gt=now + FRESH_FOR).last()
        if key is None:
            PreviewKey.objects.filter(site=site, until__lt=now).delete()
            key = PreviewKey.objects.create(site=site, session=viewer, until=now + 2 * FRESH_FOR)
        tokens[viewer] = key.token
    return tokens[viewer]


def preview_address(site: Site, side: Side, change: str = "", *, viewer: str = "") -> str:
    """The address of a preview's first page, for some hours; `viewer`: whose session it is for (`viewer_of`)."""
    return Spot(side, _token(site, viewer), short(change) if change else "").origin + "/"


def file_address(site: Site, side: str, url: str, viewer: str) -> str:
    """The address at which any file of the site's capture can be seen, those of other hosts too."""
    root = preview_address(site, "now" if side == "now" and site.run_id else "found", viewer=viewer)
    return f"{root}{FILE_PATH.lstrip('/')}?url={quote_plus(url)}"


def read_host(host: str) -> Spot | None:
    """What a Host header asks for, or None."""
    match = _LABEL.fullmatch(host.partition(":")[0].removesuffix("." + settings.PREVIEW_HOST))
    if match is None or (match["side"] in ("with", "without")) != bool(match["change"]):
        return None
    return Spot(match["side"], match["token"], match["change"] or "", match["host"] or "")  # type: ignore[arg-type]
