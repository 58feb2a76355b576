"""A page brought to rest and looked at by all probes."""

from __future__ import annotations

import asyncio
import contextlib
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from playwright.async_api import Error as PlaywrightError

from unladen.capture import Capture
from unladen.capture.addresses import canonical
from unladen.check.probes import Observation, Probe, Scene, probes, styles
from unladen.check.probes.elements import elements_of
from unladen.check.probes.picture import PICTURE
from unladen.check.probes.spec import Focus, ask_frame, pass_time
from unladen.check.rest import DEAF, come_to_rest, frames_of
from unladen.page_scripts import in_page
from unladen.weigh.chromium.browser import Browser, target_of
from unladen.weigh.chromium.recorder import Recorder
from unladen.weigh.records.conditions import Device
from unladen.weigh.visits.picture import MOST_STRIPS, STRIP, lay_out_for_pictures
from unladen.weigh.visits.visit import Watch, load
from unladen.weigh.visits.walk import WalkOrders

_AT_ONCE = 4
_QUIET = 0.1  # s without a request; that all is there is found by other means
_TALLEST = 400_000  # CSS px that a page which grows by itself is followed down
_PASSES = 6000  # ms of the page's own time that its long timers get
_THROUGH_WITHIN = 240.0  # s
_SETTLED_WITHIN = 20.0  # s
_STEP_WITHIN = 5.0  # s
_WAITS = "() => Boolean(document.querySelector('script[data-unladen],[loading=lazy]'))"
_STILL, _THROUGH, _CONFINE, _ARRIVED = (in_page(name) for name in ("still", "through", "confine", "arrived"))
_INSTEAD = (
    "() => window[Symbol.for('unladen.places')].places().filter(([e]) => e.dataset.instead || 'still' in "
    "e.dataset).map((r) => r[1])"
)
_HUSH = "(on) => window[Symbol.for('unladen.watch')].hush(on)"  # whether the page hears of other sizes of the window
_ORDER = ("at rest", "acting", "at the end")


@dataclass(frozen=True, slots=True)
class Snapshot:
    """What the probes saw of a page, by their names; `alive`: it loaded and its scripts answer.

    `restless`: why it did not come to rest, if it did not; `reads`: what was in each file that it asked for, by URL;
    `instead`: the places where something stands in for something else; `whole`: all probes have looked, not some of
    them; `left`: what was not looked at, in words.
    """

    alive: bool
    observations: Mapping[str, Observation] = field(default_factory=dict)
    restless: str = ""
    reads: Mapping[str, str] = field(default_factory=dict)
    instead: tuple[str, ...] = ()
    whole: bool = True
    left: tuple[str, ...] = ()

    def values(self, probe: str) -> Mapping[str, Any]:
        """What a probe saw, nothing where it did not look."""
        seen = self.observations.get(probe)
        return seen.values if seen else {}

    @property
    def names(self) -> dict[str, Any]:
        """What people would call each element, by place."""
        return dict(self.values("layout").get("names") or {})

    @property
    def boxes(self) -> dict[str, Any]:
        """Where each element is, by place: x, y, width, height in CSS px."""
        return dict(self.values("layout").get("boxes") or ())

    @property
    def strips(self) -> list[bytes]:
        """The PNG strips of the page from its top, none where none could be taken."""
        seen = self.observations.get(PICTURE)
        return [seen.bodies[name] for name, _ in seen.values["strips"]] if seen else []

    @property
    def width(self) -> int:
        """That of the picture in CSS px, 0 where there is none."""
        return int(self.values(PICTURE).get("width", 0))


# What to do after a look at rest: end with this look; read computed styles there and go on; or go on.
AtRest = Callable[[Device, Snapshot], Snapshot | Focus | None]


class SnapshotTaker:
    """Looks at pages of captures through a browser; the same page of the same capture is looked at in the same way.

    `orders` is what the user wants of walks, by the URL of the page.
    """

    def __init__(self, browser: Browser, orders: Mapping[str, WalkOrders] | None = None) -> None:
        self.browser = browser
        self.orders = orders or {}

    def look_all(
        self,
        capture: Capture,
        page_checks: Sequence[tuple[str, Device]],
        *,
        quick: bool = False,
        glances: Collection[Device] = (),
        only: Collection[str] = (),
        until: str = "",
        focus: Mapping[Device, Focus] | None = None,
        at_rest: AtRest | None = None,
    ) -> list[Snapshot]:
        """Looks at several pages, by URL, a few at a time, since most of a look is waiting; quick ones on `glances`.

        With the probes that `only` names, if it names any, and walks as far as the step of these words (`until`).
        `focus` says where computed styles are read, by device, where they are. `at_rest` is told what was seen before
        anything is done to the page and says how it goes on. Raises nothing for what a page does wrong. A page that
        did not come to rest is looked at once more.
        """

        async def all_of_them() -> list[Snapshot]:
            gate = asyncio.Semaphore(_AT_ONCE)

            async def one(url: str, device: Device) -> Snapshot:
                asked = probes(quick=quick or device in glances, only=only)
                async with gate:
                    for _ in range(2):
                        snapshot = await self._look(
                            capture, url, device, asked, until, (focus or {}).get(device), at_rest
                        )
                        if snapshot.alive and not snapshot.restless:
                            break
                    return snapshot

            return list(await asyncio.gather(*(one(url, device) for url, device in page_checks)))

        with self.browser.serving(capture):
            return self.browser.run(all_of_them())

    async def _look(
        self,
        capture: Capture,
        url: str,
        device: Device,
        asked: Sequence[Probe],
        until: str,
        focus: Focus | None,
        at_rest: AtRest | None,
    ) -> Snapshot:
        context, page, protocol = await self.browser.open_still(device)
        recorder = Recorder(protocol)
        watch = Watch(page, recorder)
        try:
            await recorder.attach(await target_of(page))
            if not await load(page, recorder, watch, url, quiet=_QUIET):
                return Snapshot(alive=False)
            orders = self.orders.get(url, WalkOrders())
            scene = Scene(
                page,
                url,
                device,
                recorder,
                watch,
                capture,
                [],
                _nothing,
                orders=orders,
                until=until,
                focus=focus,
            )
            return await self._observe(scene, asked, at_rest)
        finally:
            recorder.detach()
            with contextlib.suppress(PlaywrightError):
                await context.close()

    async def _observe(self, scene: Scene, asked: Sequence[Probe], at_rest: AtRest | None) -> Snapshot:
        why = await settle(scene)
        if why is None:
            return Snapshot(alive=False)

        async def rest() -> str:
            return await come_to_rest(scene, _STEP_WITHIN)

        scene.rest = rest
        for _, frame in scene.frames:
            await ask_frame(frame, _CONFINE)
        await scene.ask(_HUSH, True)
        await lay_out_for_pictures(scene.page)
        await scene.ask(_HUSH, False)
        result = await elements_of(scene)
        if result is None:
            return Snapshot(alive=False)
        scene.found = result
        scene.instead = tuple(prefix + place for prefix, places in await scene.ask(_INSTEAD) for place in places)
        if result["elements"] > result["most"]:
            scene.left.append(f"the {result['elements'] - result['most']:,} last of {result['elements']:,} elements")
        if result["height"] > MOST_STRIPS * STRIP:
            scene.left.append(f"the picture of what lies below {MOST_STRIPS * STRIP:,} px")
        seen: dict[str, Observation] = {}

        def snapshot() -> Snapshot:
            urls = dict.fromkeys([*(canonical(entry.url) for entry in scene.recorder.seen), *sorted(scene.asked)])
            reads = {url: scene.capture.content(url) for url in urls}
            whole = all(probe.name in seen for probe in probes())
            return Snapshot(not scene.watch.crashed, dict(seen), why, reads, scene.instead, whole, tuple(scene.left))

        for when in _ORDER:
            for probe in asked:
                if probe.when == when:
                    seen[probe.name] = await probe.observe(scene)
            if when == _ORDER[0] and at_rest and not why:
                then = await asyncio.to_thread(at_rest, scene.device, snapshot())
                if isinstance(then, Snapshot):
                    return then
                if then is not None:
                    scene.focus = then
                    seen[styles.STYLES] = await styles.PROBE.observe(scene)
        return snapshot()


async def _nothing() -> str:
    return ""


async def settle(scene: Scene) -> str | None:
    """Bring a page to rest, all of it loaded; returns why not if that does not come, None if it does not answer."""
    # The browser takes the pointer to be in a corner until it is told otherwise, and points at what stands there.
    with contextlib.suppress(PlaywrightError, TimeoutError):
        await asyncio.wait_for(scene.page.mouse.move(-9, -9), _STEP_WITHIN)
    if await ask_frame(scene.page.main_frame, _STILL, within=_SETTLED_WITHIN) is None:
        return None
    for frame in scene.page.frames[1:]:
        await ask_frame(frame, _STILL, within=_STEP_WITHIN)
    scene.frames = await frames_of(scene.page)
    why = await come_to_rest(scene, _SETTLED_WITHIN)
    # What did not rest in that time is not waited for over and over.
    within = _STEP_WITHIN if why else _SETTLED_WITHIN
    for _, frame in scene.frames:
        ran = None if why == DEAF else await pass_time(frame, _PASSES, _SETTLED_WITHIN)
        if ran is None and frame is scene.page.main_frame:
            return None
    why = await come_to_rest(scene, min(within, _STEP_WITHIN))
    scene.arrived = await ask_frame(scene.page.main_frame, _ARRIVED) or {}
    # What came only on the way down is painted on a second one.
    for turn in range(2):
        if why == DEAF or (turn and not await ask_frame(scene.page.main_frame, _WAITS)):
            break
        reached = await ask_frame(scene.page.main_frame, _THROUGH, _TALLEST, _THROUGH_WITHIN)
        if reached is None:
            return None
        if not reached and not turn:
            scene.left.append(f"what lies below {_TALLEST:,} px, as the page grows while one scrolls")
        for frame in scene.page.frames[1:]:
            await ask_frame(frame, _STILL, within=_STEP_WITHIN)
        scene.frames = await frames_of(scene.page)
        why = await come_to_rest(scene, within)
    return None if why == DEAF else why
