"""Rest as a condition: nothing under way, nothing missing, nothing that still changes the page."""

from __future__ import annotations

import asyncio

from playwright.async_api import Error as PlaywrightError
from playwright.async_api import Frame, Page

from unladen.check.probes.spec import Scene, ask_frame
from unladen.page_scripts import in_page

_REST = in_page("rest")
# How long (ms) a document does not change that rests: a frame.
REST = {"quiet": 16}
_MOST_FRAMES = 24
_ANSWERS_WITHIN = 3.0  # s
# A frame that may run no scripts, or has none of ours, cannot be asked.
_ANSWERS = "() => window[Symbol.for('unladen.watch')]?.wait(1).then(() => true) ?? false"
DEAF = "the page does not answer"
_PLACE = """(e) => "still" in e.dataset ? null : window[Symbol.for("unladen.places")].places()
  .find((row) => row[0] === e)?.[1] ?? null"""


async def come_to_rest(scene: Scene, within: float) -> str:
    """Wait until all frames and the network are at rest; returns what stands in the way, "" if nothing does.

    Whatever is slow is waited for up to `within` seconds, in which the page may be moving or a file under way.
    """
    loop = asyncio.get_running_loop()
    begin = loop.time()
    while True:
        asked = len(scene.recorder.seen)
        limit = max(100, 1000 * (within - (loop.time() - begin)))
        wanted = {"limit": limit, **REST}
        answers = await asyncio.gather(*(ask_frame(f, _REST, wanted, within + 30) for _, f in scene.frames))
        if answers[0] is None:
            return DEAF
        why = next(filter(None, answers), "")
        if not why and not scene.recorder.busy() and len(scene.recorder.seen) == asked:
            return ""
        if loop.time() - begin > within:
            return why or "a file is still under way"
        await asyncio.sleep(0.02)


async def frames_of(page: Page) -> list[tuple[str, Frame]]:
    """The frames that can be asked, the page first, each with what goes before the places of its elements."""
    frames: list[tuple[str, Frame]] = [("", page.main_frame)]
    prefixes = {page.main_frame: ""}
    for frame in page.frames[1 : 1 + _MOST_FRAMES]:
        parent = frame.parent_frame
        if parent not in prefixes or parent is None:
            continue
        try:
            element = await asyncio.wait_for(frame.frame_element(), 5)
            place = await asyncio.wait_for(element.evaluate(_PLACE), 5)
        except (PlaywrightError, TimeoutError):
            continue
        if place and await ask_frame(frame, _ANSWERS, within=_ANSWERS_WITHIN):
            prefixes[frame] = f"{prefixes[parent]}{place} >>> "
            frames.append((prefixes[frame], frame))
    return frames
