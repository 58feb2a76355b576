"""Pictures of whole pages, one pixel per CSS px."""

from __future__ import annotations

import asyncio
import base64
import io
from collections.abc import Sequence
from typing import Any, Literal

from PIL import Image
from playwright.async_api import Error as PlaywrightError
from playwright.async_api import Page

from unladen.weigh.chromium.browser import session_of

TALLEST = 12_000  # px; what lies below is not in the picture
_WITHIN = 15.0  # s
_STRIP_WITHIN = 60.0  # s; on a busy machine too
STRIP = 4_000  # CSS px
MOST_STRIPS = 80


async def take_picture(page: Page, width: int, height: float, format: Literal["png", "jpeg"]) -> bytes:
    """The page from its top, or nothing when it cannot be painted. The window keeps its size, so nothing moves."""
    wanted = {"format": format, "clip": _clip(0, width, min(max(height, 1), TALLEST)), "captureBeyondViewport": True}
    return await _taken(page, wanted | ({"quality": 75} if format == "jpeg" else {}), _WITHIN)


async def take_strips(page: Page, width: int, height: float, density: float) -> list[tuple[str, int, bytes]]:
    """The whole page from its top in strips: name, height in CSS px and PNG of each; fewer where it cannot be painted.

    The browser has `density` px for each CSS px by itself, and does not merely pretend to.
    """
    strips = []
    for number in range(MOST_STRIPS):
        tall = int(min(STRIP, max(height, 1) - number * STRIP))
        if tall <= 0:
            break
        wanted = {
            "format": "png",
            "clip": _clip(number * STRIP, width, tall, 1 / density),
            "captureBeyondViewport": True,
        }
        strip = await _taken(page, wanted, _STRIP_WITHIN)
        if not strip:
            break
        strips.append((f"strip {number}", tall, strip))
    return strips


async def lay_out_for_pictures(page: Page) -> None:
    """Have the browser lay the page out as it does for a picture: of some it makes lines of other heights from then
    on.
    """
    await _taken(page, {"format": "png", "clip": _clip(0, 1, 1), "captureBeyondViewport": True}, _STRIP_WITHIN)


async def take_window(page: Page, box: Sequence[float], density: float) -> bytes:
    """A PNG of what the window shows, one pixel per CSS px, or nothing.

    `box` is where the window is on the page: x, y, width and height in CSS px.
    """
    x, y, width, height = box
    clip = {"x": x, "y": y, "width": width, "height": height, "scale": 1 / density}
    return await _taken(page, {"format": "png", "clip": clip}, _STRIP_WITHIN)


def _clip(top: float, width: int, height: float, scale: float = 1) -> dict[str, float]:
    return {"x": 0, "y": top, "width": width, "height": height, "scale": scale}


async def _taken(page: Page, wanted: dict[str, Any], within: float) -> bytes:
    try:
        session = await session_of(page)
        command = session.send("Page.captureScreenshot", {"optimizeForSpeed": True, **wanted})
        taken = await asyncio.wait_for(command, within)
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
