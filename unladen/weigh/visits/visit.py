"""One visit to a page: load, wait until it is quiet, ask what is there, put the byte log beside it."""

from __future__ import annotations

import asyncio
import contextlib
import re
from collections.abc import Callable
from functools import partial
from typing import Any
from urllib.parse import urljoin

from playwright.async_api import Error as PlaywrightError
from playwright.async_api import Page

from unladen.capture.addresses import canonical
from unladen.page_scripts import in_page
from unladen.weigh.chromium.browser import Browser, another_page, target_of
from unladen.weigh.chromium.protocol import ProtocolClosed
from unladen.weigh.chromium.recorder import Recorder
from unladen.weigh.page.embeds import find_embeds
from unladen.weigh.page.films import FILMS, ShownFilm
from unladen.weigh.page.layout import measure_layout
from unladen.weigh.page.matching import Matching, selectors_of
from unladen.weigh.page.painted import with_natural_size
from unladen.weigh.records.conditions import Conditions, Link
from unladen.weigh.records.model import LargestPaint, PageFacts, ShownImage, Structure, Timings, Visit
from unladen.weigh.visits.joining import Places, completed, join
from unladen.weigh.visits.picture import take_picture, with_frames

QUIET = 0.5  # s without a request under way
LIMIT = 30.0  # s
MOST_NAVIGATIONS = 5
_ANSWER_WITHIN = 10.0  # s for a script of ours in the page
_SCROLL_WITHIN = 20.0  # s
_MOST_ERRORS = 50
MOST_FRAMES, MOST_LINES = 500, 5_000  # of one visit
_OWN = re.compile(
    r"The resource |Blocked script execution in |\[|Failed to load|<link|Error with Permissions|Canvas2D|GL "
    r"|Ignoring Event"
)
_LONG_TASK = 50.0  # ms; W3C Long Tasks
# Layout Instability (W3C WICG): a window of shifts ends after a gap of 1 s or a length of 5 s.
_SHIFT_GAP, _SHIFT_WINDOW = 1000.0, 5000.0

_SHOWN, _TIMES, _STRUCTURE = in_page("shown"), in_page("times"), in_page("structure")
# In steps of less than a window, each with time for a frame, so that whatever watches what is in sight sees all of it.
SCROLL = """async () => {
const frame = () => new Promise((done) => { setTimeout(done, 100); requestAnimationFrame(() => setTimeout(done, 12));
});
const end = () => document.documentElement.scrollHeight - innerHeight;
for (let y = 0, i = 0; i < 80; i++) { y = Math.min(y + innerHeight * 0.9, end()); scrollTo(0, y); await frame();
if (y >= end()) break; }
return true; }"""


class Watch:
    """Collects what goes wrong in a page, in words; ends a page that says too much or makes too many frames."""

    def __init__(self, page: Page, recorder: Recorder) -> None:
        self._recorder = recorder
        self._lines = self._frames = 0
        self.errors: list[str] = []
        self.warnings: list[str] = []
        self.crashed = False
        page.on("pageerror", self._error)
        page.on("crash", lambda _: self._crash())
        page.on("dialog", self._dialog)
        page.on("console", self._console)
        page.on("frameattached", lambda _: self._frame())

    def _frame(self) -> None:
        self._frames += 1
        if self._frames > MOST_FRAMES:
            self._recorder.end(f"the page made more than {MOST_FRAMES:,} frames")

    def _line(self) -> None:
        self._lines += 1
        if self._lines > MOST_LINES:
            self._recorder.end(f"the page wrote more than {MOST_LINES:,} lines to the console")

    def _add(self, text: str) -> None:
        if len(self.errors) < _MOST_ERRORS:
            self.errors.append(text[:500])

    def _error(self, error: PlaywrightError) -> None:
        self._line()
        self._add(f"script error: {error.message}")

    def _console(self, message: Any) -> None:
        """What scripts warn of; what the browser says of its own work, such as an unused preload, is none of that."""
        self._line()
        text = str(message.text)
        if message.type in ("warning", "error") and len(self.warnings) < _MOST_ERRORS and not _OWN.match(text):
            self.warnings.append(text[:500])

    def _crash(self) -> None:
        self.crashed = True
        self._add(self._recorder.flooded or "the page crashed its tab")

    async def _dialog(self, dialog: Any) -> None:
        self._add(f"opened a dialog: {dialog.message[:100]}")
        # A page that leaves while it asks takes its dialog along.
        with contextlib.suppress(PlaywrightError):
            await dialog.dismiss()


def _limit(link: Link) -> float:
    """How long a page may load, in s: a slow link gets as long as it takes for 8 MB, up to ten minutes."""
    return min(600.0, max(LIMIT, 8_000_000 / link.bytes_per_ms / 1000 + LIMIT)) if link.rate else LIMIT


async def load(
    page: Page,
    recorder: Recorder,
    watch: Watch,
    url: str,
    calm: Callable[[], None] | None = None,
    quiet: float = QUIET,
) -> bool:
    """Go to a page and wait until it is quiet; what prevents that becomes an error. Whether scripts can run in it."""
    limit = _limit(recorder.link)
    try:
        await page.goto(url, wait_until="commit", timeout=limit * 1000)
    except PlaywrightError as error:
        watch.errors.append(f"the page did not load: {error.message.splitlines()[0][:200]}")
        return False
    idle = asyncio.ensure_future(recorder.idle(quiet, limit, MOST_NAVIGATIONS, calm))
    while not idle.done():
        await asyncio.wait([idle], timeout=0.1)
        if watch.crashed:
            idle.cancel()
            return False
    if (trouble := idle.result()) and trouble not in watch.errors:
        watch.errors.append(trouble)
    return not recorder.flooded


async def ask(page: Page, script: str, within: float = _ANSWER_WITHIN) -> Any:
    """The result of a script in the page, or None when the page does not answer in time."""
    try:
        return await asyncio.wait_for(page.evaluate(script), within)
    except (PlaywrightError, TimeoutError):
        return None


async def visit(
    browser: Browser,
    url: str,
    conditions: Conditions,
    *,
    picture: bool = False,
    facts: bool = True,
    layout: bool = False,
    more: bool = False,
) -> tuple[Visit, PageFacts]:
    """A visit under these conditions, and the facts of the page; raises nothing for what a page does wrong.

    `facts` asks also what is shown where, how the page is built and what scrolling brings, `layout` how wide images
    are in other windows (not on phones, whose window is what it is). With `more` to come, the next visit's window is
    opened while this one waits for quiet.
    """
    context, page = await browser.open(conditions.device)
    try:
        if conditions.visit == "repeat":
            await _warm(browser, page, url)
            page = await another_page(context)
        calm = partial(browser.open_ahead, conditions.device) if more else None
        layout = layout and not conditions.device.mobile
        return await _measure(browser, page, url, conditions, picture=picture, facts=facts, layout=layout, calm=calm)
    finally:
        with contextlib.suppress(PlaywrightError, ProtocolClosed):
            await context.close()


async def _warm(browser: Browser, page: Page, url: str) -> None:
    """The first visit of a visitor who comes again: it fills the cache and is not measured."""
    recorder = Recorder(browser.protocol)
    try:
        await recorder.attach(await target_of(page))
        await load(page, recorder, Watch(page, recorder), url)
    finally:
        recorder.detach()
    await page.close()


async def _measure(
    browser: Browser,
    page: Page,
    url: str,
    conditions: Conditions,
    *,
    picture: bool,
    facts: bool,
    layout: bool,
    calm: Callable[[], None] | None,
) -> tuple[Visit, PageFacts]:
    recorder = Recorder(browser.protocol, conditions.link)
    watch = Watch(page, recorder)
    result, page_facts = Visit(), PageFacts()
    log, mark = browser.replay.log, len(browser.replay.log)
    capture = browser.replay.capture
    icons = {canonical(urljoin(url, "/favicon.ico"))}
    with browser.bounded(recorder):
        try:
            await recorder.attach(await target_of(page))
            alive = await load(page, recorder, watch, url, calm)
            seen, served = list(recorder.seen), log[mark:]
            if alive and (times := await ask(page, _TIMES)):
                result.timings, result.largest = timings_of(times), _largest(times["largest"])
                page_facts.page_height, page_facts.view_width = times["height"], times["view"]
                icons |= {canonical(icon) for icon in times["icons"] if icon.startswith("http")}
                if picture:
                    page_facts.picture = await take_picture(
                        page, conditions.device.width, page_facts.page_height, "jpeg"
                    )
                if facts:
                    shown = await ask(page, _SHOWN) or []
                    page_facts.images = [with_natural_size(capture, ShownImage(**image)) for image in shown]
                    page_facts.films = [ShownFilm(**film) for film in await ask(page, FILMS) or []]
                    if structure := await ask(page, _STRUCTURE):
                        page_facts.structure = Structure.from_record(structure)
                    matching = Matching(selectors_of(capture, url))
                    await matching.ask(page)
                    result.errors = list(watch.errors)
                    heard, came = len(recorder.seen), len(log)
                    await ask(page, SCROLL, _SCROLL_WITHIN)
                    await recorder.idle(QUIET / 4, LIMIT, MOST_NAVIGATIONS)
                    page_facts.embeds = await find_embeds(page, capture.store, conditions.device.density)
                    frames = [
                        (capture.store.get(e.picture), e.x, e.y, e.width, e.height)
                        for e in page_facts.embeds
                        if e.picture
                    ]
                    page_facts.picture = with_frames(page_facts.picture, frames)
                    await matching.ask(page)
                    page_facts.matched, page_facts.names = matching.matched, matching.names
                    page_facts.first = matching.first
                    page_facts.scrolled = completed(
                        capture, join(recorder.seen[heard:], log[came:], icons, earlier=seen)
                    )
                if layout:
                    page_facts.layout = await measure_layout(page, conditions.device.height)
        finally:
            recorder.detach()
    result.errors = result.errors or watch.errors
    result.requests = completed(capture, join(seen, served, icons, place=Places(capture)))
    return result, page_facts


def timings_of(times: dict[str, Any]) -> Timings:
    """Timings from what a page tells (see times.js)."""
    paint, end = times["paint"], times["load"]
    late = [(start, length) for start, length in times["tasks"] if start + length > paint and start < end]
    return Timings(
        first_paint=paint,
        largest_paint=(times["largest"] or {}).get("ms", paint),
        content_ready=times["ready"],
        load=end,
        blocking=sum(max(0.0, length - _LONG_TASK) for _, length in late),
        shift=layout_shift([(moment, value) for moment, value in times["shifts"]]),
    )


def layout_shift(shifts: list[tuple[float, float]]) -> float:
    """The largest sum of shifts in one window, from (ms, impact fraction x distance fraction) pairs in order."""
    most = total = begin = last = 0.0
    for moment, value in shifts:
        if total and moment - last < _SHIFT_GAP and moment - begin < _SHIFT_WINDOW:
            total += value
        else:
            total, begin = value, moment
        last = moment
        most = max(most, total)
    return most


def _largest(found: dict[str, Any] | None) -> LargestPaint:
    return LargestPaint(**{name: value for name, value in (found or {}).items() if name != "ms"})
