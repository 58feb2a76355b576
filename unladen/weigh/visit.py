"""One visit to a page: load, wait until it is quiet, ask what is there, put the byte log beside it."""

from __future__ import annotations

import asyncio
import contextlib
from collections import defaultdict, deque
from pathlib import Path
from typing import Any
from urllib.parse import urljoin, urlsplit

from playwright.async_api import Error as PlaywrightError
from playwright.async_api import Page

from unladen.capture import Capture
from unladen.capture.addresses import canonical
from unladen.capture.mediatypes import media_type_of
from unladen.raster.probe import ImageRefused, probe
from unladen.replay import Served
from unladen.weigh.browser import Browser, target_of
from unladen.weigh.conditions import Conditions
from unladen.weigh.kinds import kind_of
from unladen.weigh.model import Request, ShownImage, Visit
from unladen.weigh.picture import take_picture
from unladen.weigh.protocol import ProtocolClosed
from unladen.weigh.recorder import Recorder, Seen

QUIET = 0.5  # s without a request under way
LIMIT = 30.0  # s
MOST_NAVIGATIONS = 5
_ANSWER_WITHIN = 10.0  # s for a script of ours in the page
_MOST_ERRORS = 50

_SHOWN = (Path(__file__).parent / "shown.js").read_text()
_TIMES = """() => { const n = performance.getEntriesByType("navigation")[0];
return {ready: n.domContentLoadedEventEnd, load: n.loadEventEnd, height: document.documentElement.scrollHeight,
icons: [...document.querySelectorAll("link[rel~=icon],link[rel~=apple-touch-icon]")].map(l => l.href)}; }"""


class Watch:
    """Collects what goes wrong in a page, in words."""

    def __init__(self, page: Page) -> None:
        self.errors: list[str] = []
        self.crashed = False
        page.on("pageerror", lambda error: self._add(f"script error: {error.message}"))
        page.on("crash", lambda _: self._crash())
        page.on("dialog", self._dialog)

    def _add(self, text: str) -> None:
        if len(self.errors) < _MOST_ERRORS:
            self.errors.append(text[:500])

    def _crash(self) -> None:
        self.crashed = True
        self._add("the page crashed its tab")

    async def _dialog(self, dialog: Any) -> None:
        self._add(f"opened a dialog: {dialog.message[:100]}")
        await dialog.dismiss()


async def load(page: Page, recorder: Recorder, watch: Watch, url: str) -> bool:
    """Go to a page and wait until it is quiet; what prevents that becomes an error. Whether scripts can run in it."""
    try:
        await page.goto(url, wait_until="commit", timeout=LIMIT * 1000)
    except PlaywrightError as error:
        watch.errors.append(f"the page did not load: {error.message.splitlines()[0][:200]}")
        return False
    idle = asyncio.ensure_future(recorder.idle(QUIET, LIMIT, MOST_NAVIGATIONS))
    while not idle.done():
        await asyncio.wait([idle], timeout=0.1)
        if watch.crashed:
            idle.cancel()
            return False
    if trouble := idle.result():
        watch.errors.append(trouble)
    return True


async def ask(page: Page, script: str) -> Any:
    """The result of a script in the page, or None when the page does not answer in time."""
    try:
        return await asyncio.wait_for(page.evaluate(script), _ANSWER_WITHIN)
    except (PlaywrightError, TimeoutError):
        return None


async def visit(browser: Browser, url: str, conditions: Conditions, *, picture: bool = False) -> Visit:
    """A first visit, cold; raises nothing for what a page does wrong."""
    context, page = await browser.open(conditions.device)
    recorder = Recorder(browser.protocol)
    watch = Watch(page)
    result = Visit()
    mark = len(browser.replay.log)
    icons: list[str] = []
    try:
        await recorder.attach(await target_of(page))
        alive = await load(page, recorder, watch, url)
        seen, served = list(recorder.seen), browser.replay.log[mark:]
        if alive and (times := await ask(page, _TIMES)):
            result.content_ready_ms, result.load_ms = times["ready"], times["load"]
            result.page_height = times["height"]
            icons = times["icons"]
            shown = await ask(page, _SHOWN) or []
            result.images = [_with_natural_size(browser.replay.capture, ShownImage(**image)) for image in shown]
            if picture:
                result.picture = await take_picture(page, conditions.device.width, result.page_height, "jpeg")
    finally:
        recorder.detach()
        with contextlib.suppress(PlaywrightError, ProtocolClosed):
            await context.close()
    result.errors = watch.errors
    result.requests = join(seen, served, {canonical(icon) for icon in [*icons, urljoin(url, "/favicon.ico")]})
    capture = browser.replay.capture
    for request in result.requests:
        exchange = capture.lookup(request.url)
        request.decoded = exchange.size if exchange and request.body and request.status == 200 else request.body
    return result


def join(seen: list[Seen], served: list[Served], icons: set[str]) -> list[Request]:
    """Requests as the browser tells them with the bytes that the server counted, joined by URL in order.

    Icons of the site, and hosts that only the browser itself asks for, are left out; all else that was served is in,
    so the sum over the requests is the sum over the log.
    """
    waiting: defaultdict[str, deque[Served]] = defaultdict(deque)
    for answered in served:
        if answered.method != "OPTIONS":
            waiting[canonical(answered.url)].append(answered)
    begin = min((entry.started for entry in seen), default=0.0)
    found: list[Request] = []
    hosts = {urlsplit(entry.url).hostname for entry in seen}
    for entry in seen:
        key = canonical(entry.url)
        if key in icons and entry.resource_type == "Other":
            continue
        if entry.taken_back and not waiting[key]:
            continue  # it never reached the server
        request = Request(
            url=key,
            kind=kind_of(entry.resource_type, entry.media_type),
            status=entry.status,
            frame=entry.frame,
            initiator=entry.initiator,
            initiator_type=entry.initiator_type,
            started=round((entry.started - begin) * 1000, 2),
            ended=round((entry.ended - begin) * 1000, 2) if entry.ended else 0.0,
            cached=entry.cached,
            failed=entry.failed,
        )
        request.missing = entry.missing
        if not entry.cached and waiting[key]:
            answer = waiting[key].popleft()
            request.body, request.status = answer.body, answer.status
            request.missing = answer.status == 404
        found.append(request)
    for key, left in waiting.items():
        if key in icons or urlsplit(key).hostname not in hosts:
            continue
        for answer in left:
            kind = kind_of("", media_type_of(urlsplit(key).path))
            found.append(
                Request(url=key, kind=kind, status=answer.status, body=answer.body, missing=answer.status == 404)
            )
    return found


def _with_natural_size(capture: Capture, image: ShownImage) -> ShownImage:
    """Natural sizes come from the files: what a page reports is corrected by density, and CSS images report none."""
    exchange = capture.lookup(image.url)
    if exchange is None:
        return image
    try:
        info = probe_cached(capture, exchange.digest)
    except ImageRefused:
        return image
    if image.via in ("background", "css", "poster", "svg", "input"):
        image.natural_width, image.natural_height = info
        if image.via == "background":
            _paint_background(image)
    elif image.natural_width:
        image.natural_width, image.natural_height = info
    return image


_probed: dict[str, tuple[int, int]] = {}


def probe_cached(capture: Capture, digest: str) -> tuple[int, int]:
    """Width and height in px of an image of the capture; raises `ImageRefused`."""
    if digest not in _probed:
        info = probe(capture.store.get(digest))
        _probed[digest] = (info.width, info.height)
    return _probed[digest]


def _paint_background(image: ShownImage) -> None:
    """The painted size of a background bitmap (CSS Backgrounds and Borders Level 3, 3.9 background-size)."""
    width, height = image.paint_width, image.paint_height
    across, down = width / image.natural_width, height / image.natural_height
    if image.fit in ("cover", "contain"):
        scale = max(across, down) if image.fit == "cover" else min(across, down)
        image.paint_width, image.paint_height = image.natural_width * scale, image.natural_height * scale
        return
    first, _, second = image.fit.partition(" ")
    wide, high = _length(first, width), _length(second or "auto", height)
    ratio = image.natural_width / image.natural_height
    if wide is None and high is None:
        wide, high = float(image.natural_width), float(image.natural_height)
    image.paint_width = wide if wide is not None else (high or 0) * ratio
    image.paint_height = high if high is not None else image.paint_width / ratio


def _length(value: str, whole: float) -> float | None:
    if value.endswith("%"):
        return float(value[:-1]) / 100 * whole
    if value.endswith("px"):
        return float(value[:-2])
    return None
