"""Stills pressed, to see that each brings what it stands for."""

from __future__ import annotations

import asyncio
import contextlib

from playwright.async_api import Error as PlaywrightError
from playwright.async_api import Frame, Page

from unladen.check.pairs import Difference
from unladen.check.probes.spec import Observation, Probe, Scene

_MOST = 12
_WITHIN = 10.0  # s
# Both ways of a still: its button, or the link that stands there where no script may run.
_PRESS = """() => { const wanted = document.querySelector("a.s") ?? document.querySelector("button.s");
if (!wanted) return "gone"; if (wanted.target === "_blank") return "elsewhere"; wanted.click(); return "pressed"; }"""


async def observe(scene: Scene) -> Observation:
    """The titles of those that open nothing."""
    if not scene.found["stills"]:
        return Observation({"stuck": []})
    stuck = await open_stills(scene.page)
    await scene.rest()
    return Observation({"stuck": stuck})


def compare(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """Those that opened something before, or were not there."""
    known = {*before.values["stuck"], *again.values["stuck"]}
    return [
        Difference("still", f"the placeholder of “{title}” does not open its embed")
        for title in after.values["stuck"]
        if title not in known
    ]


async def open_stills(page: Page) -> list[str]:
    """Press the button of each still; returns the titles of the frames in which nothing else came."""
    stuck = []
    handles = await page.query_selector_all("iframe[data-still]")
    for handle in handles[:_MOST]:
        title = await handle.get_attribute("title") or "a frame"
        try:
            frame = await asyncio.wait_for(handle.content_frame(), _WITHIN)
            if frame and frame.url.startswith("http"):
                continue  # in a window of this width nothing stands in for it
            pressed = await asyncio.wait_for(frame.evaluate(_PRESS), _WITHIN) if frame else "gone"
        except (PlaywrightError, TimeoutError):
            pressed = "pressed"  # a still that is taken away at once cannot answer any more
        if pressed == "elsewhere":
            continue
        if frame is None or pressed != "pressed" or not await _left(frame):
            stuck.append(title)
    return stuck


async def _left(frame: Frame) -> bool:
    """Whether a frame shows a document of its own address, or gave way to another, by now or soon."""
    for _ in range(int(_WITHIN / 0.05)):
        with contextlib.suppress(PlaywrightError):
            if frame.url.startswith("http") or frame.is_detached():
                return True
        await asyncio.sleep(0.05)
    return False


PROBE = Probe("stills", observe, compare, when="acting")
