"""Stills opened, to see that each brings what it stands for."""

from __future__ import annotations

import asyncio
import contextlib

from playwright.async_api import Error as PlaywrightError
from playwright.async_api import Frame, Page

_MOST = 12
_WITHIN = 10.0  # s
# Both ways of a still: its button, or the link that stands there where no script may run.
_PRESS = """() => { const wanted = document.querySelector("a.s") ?? document.querySelector("button.s");
if (!wanted) return "gone"; if (wanted.target === "_blank") return "elsewhere"; wanted.click(); return "pressed"; }"""


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
