"""A page brought to rest and looked at: picture, boxes of the elements, errors, missing files, broken images."""

from __future__ import annotations

import asyncio
import contextlib
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import urljoin

from playwright.async_api import Error as PlaywrightError

from unladen.capture.addresses import canonical
from unladen.check.opening import open_stills
from unladen.weigh.browser import Browser, target_of
from unladen.weigh.conditions import Device
from unladen.weigh.picture import take_picture
from unladen.weigh.recorder import Recorder
from unladen.weigh.visit import QUIET, Watch, ask, load

Box = tuple[float, float, float, float]

# A moment in the past for every look, so that clocks and countdowns show the same.
_CLOCK = 1_700_000_000_000
_SETTLE_LIMIT = 10.0
_AT_ONCE = 4
_WAITS = "() => Boolean(document.querySelector('script[data-unladen=loader],[loading=lazy]'))"
_HERE = Path(__file__).parent
_SETTLE = (_HERE / "settle.js").read_text()
_LOOK = (_HERE / "look.js").read_text()


@dataclass(slots=True)
class Look:
    """`boxes` maps an element's place in the tree to x, y, width, height in CSS px; `picture` is a PNG.

    `stills` are the boxes of frames with a still in them, `stuck` names those that do not open what they stand for.
    """

    alive: bool
    picture: bytes = b""
    order: list[str] = field(default_factory=list)
    boxes: dict[str, Box] = field(default_factory=dict)
    broken: set[str] = field(default_factory=set)
    errors: list[str] = field(default_factory=list)
    missing: set[str] = field(default_factory=set)
    stills: list[Box] = field(default_factory=list)
    stuck: list[str] = field(default_factory=list)


class Checker:
    """Looks at pages through a browser; the same page of the same replay server is looked at in the same way."""

    def __init__(self, browser: Browser) -> None:
        self.browser = browser

    def look(self, url: str, device: Device) -> Look:
        """One look at a page; raises nothing for what the page does wrong."""
        return self.look_all([(url, device)])[0]

    def look_all(self, spots: Sequence[tuple[str, Device]]) -> list[Look]:
        """Looks at several pages of the same capture, a few at a time, since most of a look is waiting."""

        async def all_of_them() -> list[Look]:
            gate = asyncio.Semaphore(_AT_ONCE)

            async def one(url: str, device: Device) -> Look:
                async with gate:
                    return await self._look(url, device)

            return list(await asyncio.gather(*(one(url, device) for url, device in spots)))

        return self.browser.run(all_of_them())

    async def _look(self, url: str, device: Device) -> Look:
        context, page = await self.browser.open(device, still=True)
        recorder = Recorder(self.browser.protocol)
        watch = Watch(page)
        result = Look(alive=False)
        try:
            await page.clock.set_fixed_time(_CLOCK)
            await recorder.attach(await target_of(page))
            if await load(page, recorder, watch, url) and await ask(page, _SETTLE) is not None:
                await recorder.idle(QUIET / 2, _SETTLE_LIMIT, 10_000)
                if await ask(page, _WAITS):  # what came only on the way down is painted on a second one
                    await ask(page, _SETTLE)
                    await recorder.idle(QUIET / 2, _SETTLE_LIMIT, 10_000)
                seen = await ask(page, _LOOK)
                if seen is not None:
                    result.alive = True
                    result.order = [place for place, _ in seen["boxes"]]
                    result.boxes = {place: tuple(box) for place, box in seen["boxes"]}
                    result.broken = set(seen["broken"])
                    result.picture = await take_picture(page, device.width, seen["height"], "png")
                    result.stills = [tuple(box) for box in seen["stills"]]
                    if result.stills:
                        result.stuck = await open_stills(page)
                        await recorder.idle(QUIET / 2, _SETTLE_LIMIT, 10_000)
        finally:
            recorder.detach()
            with contextlib.suppress(PlaywrightError):
                await context.close()
        result.errors = [error for error in watch.errors if not error.startswith("opened a dialog")]
        icon = urljoin(url, "/favicon.ico")
        lost = (seen.url for seen in recorder.seen if seen.missing)
        result.missing = {canonical(address) for address in lost if address != icon}
        return result
