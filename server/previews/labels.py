"""The host names of a preview: one for each site, side and host, so that uploaded pages share an origin with nothing.

`found-TOKEN.HOST` is the site's own host, `h2.found-TOKEN.HOST` another one of its recording. A side that is made for one
change stands between them: `h2.CHANGE.with-TOKEN.HOST`, with a short digest of the change's id.
"""

from __future__ import annotations

import hashlib
import re
from typing import Literal, NamedTuple
from urllib.parse import quote_plus

from django.conf import settings

from server.sites.models import Site

# As found; as the shown run left it; as the plan is now, not checked; the plan with and without one change.
Side = Literal["found", "now", "plan", "with", "without"]
# Shows any file of the capture by its address; a path that no site is likely to have.
FILE_PATH = "/.unladen/file"
_LABEL = re.compile(
    r"(?:(?P<host>h\d{1,3})\.)?(?:(?P<change>[0-9a-f]{12})\.(?=with))?(?P<side>found|now|plan|with|without)-(?P<token>[0-9a-f]{32})"
)


class Spot(NamedTuple):
    """What a host name asks for: `change` is a digest by `short`, or "" where no change is meant; `host` "" the own one."""

    side: Side
    token: str
    change: str = ""
    host: str = ""

    @property
    def origin(self) -> str:
        """Without a slash at its end."""
        return f"http://{self._host}"

    @property
    def origins(self) -> str:
        """This and all other hosts of the same copy, as a list of sources for a policy."""
        own = self._replace(host="")
        return f"{own.origin} http://*.{own._host}"

    @property
    def _host(self) -> str:
        name = ".".join(filter(None, (self.host, self.change, f"{self.side}-{self.token}")))
        return f"{name}.{settings.PREVIEW_HOST}:{settings.PREVIEW_PORT}"


def short(change: str) -> str:
    """A change's id as a part of a host name."""
    return hashlib.sha256(change.encode()).hexdigest()[:12]


def preview_address(site: Site, side: Side, change: str = "") -> str:
    """The address of a preview's first page."""
    return Spot(side, site.preview_token, short(change) if change else "").origin + "/"


def file_address(site: Site, side: str, url: str) -> str:
    """The address at which any file of the site's capture can be seen, those of other hosts too."""
    root = preview_address(site, "now" if side == "now" and site.run_id else "found")
    return f"{root}{FILE_PATH.lstrip('/')}?url={quote_plus(url)}"


def read_host(host: str) -> Spot | None:
    """What a Host header asks for, or None."""
    found = _LABEL.fullmatch(host.partition(":")[0].removesuffix("." + settings.PREVIEW_HOST))
    if found is None or (found["side"] in ("with", "without")) != bool(found["change"]):
        return None
    return Spot(found["side"], found["token"], found["change"] or "", found["host"] or "")  # type: ignore[arg-type]
