"""A site recorded from its own address.

The browser visits live pages, and what they were answered becomes a capture.
"""

from __future__ import annotations

import contextlib
from collections import deque
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from http import HTTPStatus
from urllib.parse import urldefrag, urljoin, urlsplit

from playwright.async_api import Error as PlaywrightError

from unladen.capture import BodyStore, Capture
from unladen.capture.addresses import canonical
from unladen.capture.choosing import matches
from unladen.capture.mediatypes import is_page
from unladen.capture.recorded import Response, capture_of_responses
from unladen.capture.sitemaps import listed, sitemaps_at
from unladen.errors import BadInput, Notice
from unladen.progress import Progress
from unladen.replay.live import LiveServer
from unladen.replay.upstream import Allowed, Limits
from unladen.weigh.chromium.browser import Browser, target_of
from unladen.weigh.chromium.protocol import ProtocolClosed
from unladen.weigh.chromium.recorder import Recorder
from unladen.weigh.records.conditions import DEVICES, USUAL_DEVICES, Device
from unladen.weigh.visits.group_fetch import VisitedGroups
from unladen.weigh.visits.visit import LIMIT, MOST_NAVIGATIONS, QUIET, SCROLL, Watch, ask, load

MOST_PAGES, MOST_DEPTH = 2000, 5
_VISITED_EACH = 50  # pages of a recording of which every one is visited; of larger ones those are that differ
_ROOM_FOR_MANY = 2_000_000_000  # bytes of all bodies
_LINKS = "() => [...document.querySelectorAll('a[href]')].map((a) => a.href).slice(0, 2000)"
_REDIRECTS = (301, 302, 303, 307, 308)


@dataclass(frozen=True, slots=True)
class Visiting:
    """How far a recording goes: links followed to this depth, pages, bytes of all bodies, seconds for one answer.

    `listed` are further addresses of the site to visit, `sitemap` has those of its sitemap visited, and of all that
    is found only what fits one of the patterns `only` counts (the first page always does).
    """

    depth: int = 0
    pages: int = 1
    total: int = 300_000_000
    seconds: float = 30.0
    sitemap: bool = False
    listed: tuple[str, ...] = ()
    only: tuple[str, ...] = ()

    @property
    def visits_each(self) -> bool:
        """Whether a browser sees every page, and not just the first of its kind."""
        return self.pages <= _VISITED_EACH

    def __post_init__(self) -> None:
        if not 0 <= self.depth <= MOST_DEPTH or not 1 <= self.pages <= MOST_PAGES:
            raise BadInput("visit", f"follows links 0 to {MOST_DEPTH} deep, over 1 to {MOST_PAGES:,} pages")


def address_from(text: str) -> str:
    """The address as a browser would take it; raises `BadInput` for what is not http or https."""
    text = text.strip()
    if "://" not in text:
        text = "https://" + text
    try:
        parts = urlsplit(text)
        valid = parts.scheme in ("http", "https") and bool(parts.hostname) and (parts.port or 80) < 65_536
    except ValueError:
        valid = False
    if not valid:
        raise BadInput(text[:200], "is not the address of a web page; use http or https")
    if parts.username or parts.password:
        raise BadInput(parts.hostname or "", "contains a password; use an address without one")
    return canonical(text)


def record_site(
    address: str,
    store: BodyStore,
    progress: Progress,
    visiting: Visiting | None = None,
    allowed: Allowed | None = None,
    devices: Sequence[str] = USUAL_DEVICES,
) -> Capture:
    """A capture of a live page and those it links to on the same site, third parties and all.

    Of more than fifty pages those are visited that are built like no page before; the others are fetched with what
    they name.

    Raises `BadInput` when the first page cannot be had, `BrowserMissing` and `Cancelled`.
    """
    visiting = visiting or Visiting()
    start = address_from(address)
    limits = Limits(seconds=visiting.seconds)
    total = visiting.total if visiting.visits_each else max(visiting.total, _ROOM_FOR_MANY)
    server = LiveServer(start, store, allowed or Allowed(), limits, total)
    with server, Browser(server) as browser:
        waiting, known, pages = deque([(start, 0)]), {start}, dict[str, None]()
        kinds = VisitedGroups(server)

        def add(links: Iterable[str], depth: int) -> None:
            for link in links:
                target = _same_site(link, start)
                if target and target not in known and _counts(target, visiting):
                    known.add(target)
                    waiting.append((target, depth))

        while waiting and len(pages) < visiting.pages:
            url, depth = waiting.popleft()
            progress.step("record", len(pages), min(visiting.pages, len(known)), url)
            first = not pages
            taken = None if first or visiting.visits_each else kinds.take(url)
            final, links = taken or _visit_all(
                browser, server, url, [DEVICES[name] for name in devices], strict=first
            )
            if not final or final in pages or not (first or _counts(final, visiting)):
                continue
            pages[final] = None
            known.add(final)
            if taken is None:
                kinds.visited(final)
            if first:
                start = final
                add((urljoin(start, line) for line in visiting.listed), 0)
                if visiting.sitemap:
                    named = listed(sitemaps_at(start, server.read), server.read, start)
                    server.notices += named.notices
                    if not named.pages:
                        server.notices.append(Notice(start, "has no sitemap that names pages"))
                    add(named.pages, 0)
            if depth < visiting.depth:
                add(links, depth + 1)
        responses = list(server.responses.values())
        notices = list(server.notices)
    progress.step("record", len(pages), len(pages))
    return capture_of_responses(address, responses, store, notices, list(pages))


def _counts(url: str, visiting: Visiting) -> bool:
    """Whether a page is one of those that were asked for."""
    path = urlsplit(url).path or "/"
    return not visiting.only or any(matches(pattern, path) for pattern in visiting.only)


def _same_site(link: str, start: str) -> str | None:
    try:
        url = canonical(urldefrag(link).url)
    except ValueError:
        return None
    parts, home = urlsplit(url), urlsplit(start)
    return url if (parts.scheme, parts.netloc) == (home.scheme, home.netloc) else None


def _visit_all(
    browser: Browser, server: LiveServer, url: str, devices: Sequence[Device], *, strict: bool
) -> tuple[str, list[str]]:
    """Where the page is in the end, and its links; nothing for a page that is none (an error when `strict`)."""
    final, links = "", list[str]()
    for device in devices:
        trouble, result = browser.run(_visit_live(browser, server, url, device))
        links += result
        try:
            final = _final(server, url, trouble)
        except BadInput:
            if strict:
                raise
            return "", []
    return final, links


def _final(server: LiveServer, url: str, trouble: list[str]) -> str:
    """The address of the document after its redirects; raises `BadInput` when there is none."""
    seen: list[str] = []
    here: str | None = url
    answers = {canonical(address): response for (address, _), response in server.responses.items()}
    while here is not None and here not in seen and len(seen) < 25:
        seen.append(here)
        problem = next((reason for address, reason in server.problems.items() if canonical(address) == here), "")
        response = answers.get(here)
        if response is None:
            raise BadInput(url, problem or (trouble[0] if trouble else "did not respond"))
        if response.status not in _REDIRECTS:
            _expect_page(url, response)
            return here
        here = _location(response)
    raise BadInput(url, "redirects in a circle")


def _location(response: Response) -> str | None:
    location = dict(response.headers).get("location", "")
    return canonical(urljoin(response.url, location)) if location else None


def _expect_page(url: str, response: Response) -> None:
    headers = dict(response.headers)
    if response.status == 401:
        raise BadInput(url, "asks for a login; such pages cannot be recorded")
    if response.status != 200:
        phrase = HTTPStatus(response.status).phrase if response.status in set(HTTPStatus) else "an unknown status"
        raise BadInput(url, f"responds with {response.status} {phrase}")
    media_type = headers.get("content-type", "text/html").partition(";")[0].strip().lower()
    if headers.get("content-disposition", "").lower().startswith("attachment") or not is_page(media_type):
        raise BadInput(url, f"offers a file to download ({media_type}), not a page")


async def _visit_live(browser: Browser, server: LiveServer, url: str, device: Device) -> tuple[list[str], list[str]]:
    """What went wrong on a visit with a scroll to the end, and the links of the page."""
    context, page = await browser.open(device)
    recorder = Recorder(browser.protocol)
    watch = Watch(page, recorder)
    links: list[str] = []
    server.asked_for = lambda address: canonical(address) in {canonical(entry.url) for entry in list(recorder.seen)}
    try:
        await recorder.attach(await target_of(page))
        if await load(page, recorder, watch, url):
            await ask(page, SCROLL, 20)
            await recorder.idle(QUIET, LIMIT / 2, MOST_NAVIGATIONS)
            links = await ask(page, _LINKS) or []
    except (PlaywrightError, ProtocolClosed) as error:
        watch.errors.append(str(error).splitlines()[0][:200])
    finally:
        recorder.detach()
        with contextlib.suppress(PlaywrightError, ProtocolClosed):
            await context.close()
    return watch.errors, links
