"""A page brought to rest and looked at by all probes."""

from __future__ import annotations

import asyncio
import contextlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from playwright.async_api import Error as PlaywrightError

from unladen.capture import Capture
from unladen.check.probes import Observation, Scene, probes
from unladen.check.probes.picture import PICTURE
from unladen.inpage import in_page
from unladen.weigh.chromium.browser import Browser, target_of
from unladen.weigh.chromium.recorder import Recorder
from unladen.weigh.records.conditions import Device
from unladen.weigh.visits.visit import QUIET, Watch, ask, load

# A moment in the past for every look, so that clocks and countdowns show the same.
_CLOCK = 1_700_000_000_000
_SETTLE_LIMIT = 10.0
_AT_ONCE = 4
_WAITS = "() => Boolean(document.querySelector('script[data-unladen=loader],[loading=lazy]'))"
_SETTLE, _LOOK = in_page("settle"), in_page("look")
_ORDER = ("at rest", "acting", "at the end")


@dataclass(frozen=True, slots=True)
class Look:
    """What the probes saw of a page, by their names; `alive`: it loaded and its scripts answer."""

    alive: bool
    observations: Mapping[str, Observation] = field(default_factory=dict)

    @property
    def picture(self) -> bytes:
        """The PNG of the page, empty where none could be taken."""
        seen = self.observations.get(PICTURE)
        return seen.bodies.get(PICTURE, b"") if seen else b""

    @property
    def width(self) -> int:
        """That of the picture in CSS px, 0 where there is none."""
        seen = self.observations.get(PICTURE)
        return int(seen.values.get("width", 0)) if seen else 0


class Checker:
    """Looks at pages of captures through a browser; the same page of the same capture is looked at in the same way."""

    def __init__(self, browser: Browser) -> None:
        self.browser = browser

    def look_all(self, capture: Capture, spots: Sequence[tuple[str, Device]]) -> list[Look]:
        """Looks at several pages, by URL, a few at a time, since most of a look is waiting.

        Raises nothing for what a page does wrong.
        """

        async def all_of_them() -> list[Look]:
            gate = asyncio.Semaphore(_AT_ONCE)

            async def one(url: str, device: Device) -> Look:
                async with gate:
                    return await self._look(url, device)

            return list(await asyncio.gather(*(one(url, device) for url, device in spots)))

        with self.browser.serving(capture):
            return self.browser.run(all_of_them())

    async def _look(self, url: str, device: Device) -> Look:
        context, page = await self.browser.open(device, still=True)
        recorder = Recorder(self.browser.protocol)
        watch = Watch(page)

        async def calm() -> None:
            await recorder.idle(QUIET / 2, _SETTLE_LIMIT, 10_000)

        try:
            await page.clock.set_fixed_time(_CLOCK)
            await recorder.attach(await target_of(page))
            if not await load(page, recorder, watch, url) or await ask(page, _SETTLE) is None:
                return Look(alive=False)
            await calm()
            if await ask(page, _WAITS):  # what came only on the way down is painted on a second one
                await ask(page, _SETTLE)
                await calm()
            found = await ask(page, _LOOK)
            if found is None:
                return Look(alive=False)
            scene = Scene(page, url, device, recorder, watch, found, calm)
            ordered = sorted(probes(), key=lambda probe: _ORDER.index(probe.when))
            return Look(True, {probe.name: await probe.observe(scene) for probe in ordered})
        finally:
            recorder.detach()
            with contextlib.suppress(PlaywrightError):
                await context.close()
