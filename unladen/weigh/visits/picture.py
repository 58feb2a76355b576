"""Pictures of whole pages, one pixel per CSS px."""

from __future__ import annotations

import asyncio
import base64
import contextlib
import io
from collections.abc import Sequence
from typing import Any, Literal

from PIL import Image
from playwright.async_api import Error as PlaywrightError
from playwright.async_api import Page

TALLEST = 12_000  # px; what lies below is not in the picture
_WITHIN = 15.0  # s
_STRIP_WITHIN = 60.0  # s; on a busy machine too


async def take_picture(page: Page, width: int, height: float, format: Literal["png", "jpeg"]) -> bytes:
    """The page from its top, or nothing when it cannot be painted. The window keeps its size, so nothing moves."""
    clip = {"x": 0, "y": 0, "width": width, "height": min(max(height, 1), TALLEST), "scale": 1}
    wanted: dict[str, Any] = {"format": format, "clip": clip}
    wanted |= {"captureBeyondViewport": True, "optimizeForSpeed": True}
    if format == "jpeg":
        wanted["quality"] = 75
    try:
        session = await page.context.new_cdp_session(page)
        taken = await asyncio.wait_for(session.send("Page.captureScreenshot", wanted), _WITHIN)
        await session.detach()
    except (PlaywrightError, TimeoutError):
        return b""
    return base64.b64decode(taken["data"])


STRIP = 4_000  # CSS px
_MOST_STRIPS = 80


async def take_strips(page: Page, width: int, height: float) -> list[tuple[str, int, bytes]]:
    """The whole page from its top in strips: name, height in CSS px and PNG of each; b"" where it cannot be painted."""
    found = []
    session = await page.context.new_cdp_session(page)
    for number in range(_MOST_STRIPS):
        top = number * STRIP
        tall = int(min(STRIP, max(height, 1) - top))
        if tall <= 0:
            break
        clip = {"x": 0, "y": top, "width": width, "height": tall, "scale": 1}
        wanted = {"format": "png", "clip": clip, "captureBeyondViewport": True, "optimizeForSpeed": True}
        try:
            taken = await asyncio.wait_for(session.send("Page.captureScreenshot", wanted), _STRIP_WITHIN)
        except (PlaywrightError, TimeoutError):
            break
        found.append((f"strip {number}", tall, base64.b64decode(taken["data"])))
    with contextlib.suppress(PlaywrightError):
        await session.detach()
    return found


async def take_window(page: Page) -> bytes:
    """A PNG of what the window shows, or nothing."""
    try:
        session = await page.context.new_cdp_session(page)
        wanted = {"format": "png", "optimizeForSpeed": True}
        taken = await asyncio.wait_for(session.send("Page.captureScreenshot", wanted), _STRIP_WITHIN)
        await session.detach()
    except (PlaywrightError, TimeoutError):
        return b""
    return base64.b64decode(taken["data"])


def with_frames(picture: bytes, shown: Sequence[tuple[bytes, float, float, float, float]]) -> bytes:
    """A JPEG of a page with pictures (PNG) of its frames put in at x, y, width, height in CSS px.

    Chromium paints frames of other hosts only once they are in sight, so that they are blank in a picture of the whole.
    """
    if not picture or not shown:
        return picture
    page = Image.open(io.BytesIO(picture)).convert("RGB")
    for data, x, y, width, height in shown:
        frame = Image.open(io.BytesIO(data)).convert("RGB")
        page.paste(frame.resize((max(1, round(width)), max(1, round(height)))), (round(x), round(y)))
    out = io.BytesIO()
    page.save(out, "JPEG", quality=80)
    return out.getvalue()
