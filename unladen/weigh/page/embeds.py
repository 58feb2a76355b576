"""The frames of a page: where they stand, what stands in them, what they say, how they look."""

from __future__ import annotations

import asyncio
import base64
import contextlib
from dataclasses import dataclass, field
from typing import Any

from playwright.async_api import ElementHandle, Page
from playwright.async_api import Error as PlaywrightError

from unladen.capture.store import BodyStore
from unladen.page_scripts import in_page

_MOST = 40  # frames of a page
_WITHIN = 5.0  # s for one answer of a frame
_SMALLEST = 40  # CSS px of a side; smaller ones show nothing that a picture could stand for
_LARGEST = 4000  # CSS px of a side
_FRAME, _INSIDE = in_page("embed"), in_page("embedded")
# While its picture is taken a frame stands alone, whatever lies over it; what is out of sight is not painted.
_ALONE = "*{visibility:hidden!important}[data-unladen-frame],[data-unladen-frame] *{visibility:visible!important}"
_HIDE = f"""(frame) => {{ frame.dataset.unladenFrame = ""; const style = document.createElement("style");
style.dataset.unladen = "alone"; style.textContent = "{_ALONE}"; document.documentElement.append(style);
frame.scrollIntoView({{ block: "center", behavior: "instant" }});
return new Promise((done) => requestAnimationFrame(() => setTimeout(() =>
  requestAnimationFrame(() => done(true)), 30))); }}"""
_SHOW = """(frame) => { delete frame.dataset.unladenFrame;
document.querySelector("style[data-unladen=alone]")?.remove(); }"""


@dataclass(slots=True)
class Above:
    """An element around a frame: tag, attributes, and the `min-height` in CSS px that would keep its height."""

    tag: str
    attrs: dict[str, str]
    height: float


@dataclass(slots=True)
class Inside:
    """What was counted in a frame. `poster`: a picture that it offers of itself, by address.

    `messages` are those from the page; `blocking`: long tasks beyond 50 ms each, in ms.
    """

    name: str = ""
    poster: str = ""
    films: int = 0
    plays: int = 0
    tiles: int = 0
    canvases: int = 0
    fields: int = 0
    images: int = 0
    links: int = 0
    frames: int = 0
    messages: int = 0
    blocking: float = 0.0


@dataclass(slots=True)
class Embed:
    """A frame at the end of a visit. Lengths are CSS px; `x`, `y` count from the top left of the page.

    `url` is what the page gives it, "" for one whose document stands in the page; `document` the address of what it
    shows. `above` are the elements around it, the nearest first. `heard` counts its messages to the page, and
    `listeners` what the page has to hear any with. `reachable`: a pointer gets to it, and not to something that lies
    over it. `picture` is the digest of a PNG of `picture_width` px, "" where none could be taken.
    """

    url: str
    selector: str
    title: str
    x: float
    y: float
    width: float
    height: float
    visible: bool
    first_view: bool
    reachable: bool = True
    above: list[Above] = field(default_factory=list)
    loading: str = ""
    allows: str = ""
    heard: int = 0
    listeners: int = 0
    resized: bool = False
    document: str = ""
    inside: Inside = field(default_factory=Inside)
    picture: str = ""
    picture_width: int = 0

    @classmethod
    def from_record(cls, record: dict[str, Any]) -> Embed:
        """The embed that `asdict` gave, also after a way through JSON."""
        above = [Above(**entry) for entry in record["above"]]
        inside = {"messages" if name == "told" else name: value for name, value in record["inside"].items()}
        return cls(**record | {"above": above, "inside": Inside(**inside)})


async def find_embeds(page: Page, store: BodyStore, density: float) -> list[Embed]:
    """All frames of a page, with pictures of those that show something of another's. It may be scrolled anywhere."""
    embeds: list[Embed] = []
    handles: list[ElementHandle] = []
    with contextlib.suppress(PlaywrightError):
        handles = await page.query_selector_all("iframe")
    listeners = await _listeners(page) if handles else 0
    for handle in handles[:_MOST]:
        with contextlib.suppress(PlaywrightError, TimeoutError, TypeError):
            facts = await asyncio.wait_for(handle.evaluate(_FRAME), _WITHIN)
            facts["above"] = [Above(**entry) for entry in facts["above"]]
            embed = Embed(**facts, listeners=listeners)
            embeds.append(embed)
            if frame := await asyncio.wait_for(handle.content_frame(), _WITHIN):
                embed.document = frame.url
                embed.inside = Inside(**await asyncio.wait_for(frame.evaluate(_INSIDE), _WITHIN))
            if embed.url.startswith("http") and embed.visible and embed.document.startswith("http"):
                picture = await _picture(page, handle, embed, density)
                if picture:
                    embed.picture, embed.picture_width = store.put(picture), int.from_bytes(picture[16:20])  # IHDR
    return embeds


async def _listeners(page: Page) -> int:
    """How many listeners for messages the page has beside ours."""
    with contextlib.suppress(PlaywrightError, KeyError):
        session = await page.context.new_cdp_session(page)
        window = await session.send("Runtime.evaluate", {"expression": "window"})
        answer = await session.send("DOMDebugger.getEventListeners", {"objectId": window["result"]["objectId"]})
        await session.detach()
        return max(0, sum(entry["type"] == "message" for entry in answer["listeners"]) - 1)
    return 0


async def _picture(page: Page, handle: ElementHandle, embed: Embed, density: float) -> bytes:
    """A PNG of a frame alone, as many px as the device shows."""
    if not (_SMALLEST <= embed.width <= _LARGEST and _SMALLEST <= embed.height <= _LARGEST):
        return b""
    clip = {"x": embed.x, "y": embed.y, "width": embed.width, "height": embed.height, "scale": density}
    wanted = {"format": "png", "clip": clip, "captureBeyondViewport": True, "optimizeForSpeed": True}
    try:
        await asyncio.wait_for(handle.evaluate(_HIDE), _WITHIN)
        session = await page.context.new_cdp_session(page)
        taken = await asyncio.wait_for(session.send("Page.captureScreenshot", wanted), 2 * _WITHIN)
        await session.detach()
        return base64.b64decode(taken["data"])
    except (PlaywrightError, TimeoutError):
        return b""
    finally:
        with contextlib.suppress(PlaywrightError, TimeoutError):
            await asyncio.wait_for(handle.evaluate(_SHOW), _WITHIN)
