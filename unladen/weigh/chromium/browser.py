"""Headless Chromium, bound to a replay server, driven from a thread that all browsers of the process share."""

from __future__ import annotations

import asyncio
import contextlib
import os
import shutil
import threading
from collections.abc import Coroutine, Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from types import TracebackType
from typing import Any, TypeVar
from weakref import WeakKeyDictionary

from playwright.async_api import Browser as PlaywrightBrowser
from playwright.async_api import BrowserContext, CDPSession, Page
from playwright.async_api import Error as PlaywrightError

from unladen.capture import Capture
from unladen.errors import BrowserMissing
from unladen.page_scripts import in_page
from unladen.replay import ReplayServer
from unladen.weigh.chromium.driver import driver
from unladen.weigh.chromium.protocol import Protocol, ProtocolClosed
from unladen.weigh.chromium.recorder import MOST_REQUESTS, Recorder
from unladen.weigh.records.conditions import Device

T = TypeVar("T")

_SWITCHES = [
    "--disable-dev-shm-usage",
    "--disable-background-networking",
    "--disable-component-update",
    "--no-first-run",
    "--disable-sync",
    "--disable-default-apps",
    "--disable-domain-reliability",
    "--disable-client-side-phishing-detection",
    "--no-pings",
    "--dns-prefetch-disable",
    "--disable-quic",
    "--font-render-hinting=none",
    "--disable-lcd-text",
    "--force-color-profile=srgb",
    "--hide-scrollbars",
    # Lazy images and frames load as near to the window as on a usual link, not as on one that nothing is known of.
    "--blink-settings=lazyLoadingImageMarginPxUnknown=1250,lazyLoadingFrameMarginPxUnknown=2500",
    "--disable-features=OptimizationHints,MediaRouter,Translate,InterestFeedContentSuggestions,"
    "CertificateTransparencyComponentUpdater,AutofillServerCommunication,HttpsUpgrades,LocalNetworkAccessChecks,"
    "BlockInsecurePrivateNetworkRequests",
]
# For looks: a frame in which something changes is drawn as soon as it can be.
_WITHOUT_DELAY = ("--disable-frame-rate-limit", "--disable-gpu-vsync")
# The same random numbers every time, so that cache-busters repeat; no way around the resolver rules by WebRTC.
_INIT = """(() => { let s = 42; Math.random = () => { s = (s * 16807) % 2147483647; return s / 2147483647; };
for (const n of ["RTCPeerConnection", "webkitRTCPeerConnection", "RTCDataChannel", "WebTransport"]) delete window[n];
})();
""" + "\n".join(in_page(name) for name in ("selector", "backgrounds", "vitals", "talk"))

# A page is painted at one density and pictured at another. Hinted fonts depend on it, and which one they go by is a
# matter of chance where much else is going on.
_FONTS = Path(__file__).with_name("fonts.conf")
_LOOKED_AT = "\n".join(in_page(name) for name in ("pack", "places", "watch"))


def find_chromium() -> str:
    """The path of the browser; raises `BrowserMissing`.

    The build without a user interface goes first: the same engine, which opens a window in a fifth of the time.
    """
    named = os.environ.get("MULE_CHROMIUM", "")
    for candidate in [named] if named else ["chromium-headless-shell", "chromium", "chromium-browser"]:
        if path := shutil.which(candidate):
            return path
    where = f" at {named}" if named else ""
    raise BrowserMissing(
        f"Chromium was not found{where}; install Debian's package “chromium-headless-shell” and try again"
    )


class Browser:
    """A context manager. `run` executes a coroutine on the browser's loop and waits for it.

    The operating system's sandbox around the browser is on unless this runs as root, where Chromium refuses it.
    """

    def __init__(self, replay: ReplayServer) -> None:
        self.replay = replay
        self.version = ""
        self._driver = driver()
        self._browser: PlaywrightBrowser | None = None
        self.protocol: Protocol
        self._beside = ExitStack()
        self._serving = threading.RLock()
        self._twin: Browser | None = None
        self._ahead: tuple[Device, asyncio.Task[tuple[BrowserContext, Page]]] | None = None
        self._looking: dict[float, tuple[PlaywrightBrowser, Protocol]] = {}
        self._launching = asyncio.Lock()
        self._aborted = False

    @contextmanager
    def serving(self, capture: Capture) -> Iterator[None]:
        """Have this capture served while it lasts; whoever wants another one served waits until then."""
        with self._serving:
            self.replay.capture = capture
            yield

    def twin(self) -> Browser:
        """A second browser with a replay server of its own, started when first asked for; it ends with this one."""
        if self._twin is None:
            replay = self._beside.enter_context(ReplayServer(self.replay.capture))
            self._twin = self._beside.enter_context(Browser(replay))
        return self._twin

    def __enter__(self) -> Browser:
        executable = find_chromium()
        self.run(self._launch(executable))
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        try:
            self._beside.close()
        finally:
            self.run(self._stop())

    def run(self, work: Coroutine[Any, Any, T]) -> T:
        """The coroutine's result."""
        return self._driver.run(work)

    async def _launch(self, executable: str) -> None:
        self._browser, self.protocol = await self._started(executable)
        self.version = self._browser.version

    async def _started(self, executable: str, *switches: str) -> tuple[PlaywrightBrowser, Protocol]:
        # Spoken to through a pipe: a port of its own would let any program on the machine steer it and read files.
        browser = await self._driver.launch(
            executable_path=executable,
            headless=True,
            chromium_sandbox=os.geteuid() != 0,
            args=[*_SWITCHES, *switches, *self.replay.browser_arguments()],
            env=os.environ | {"FONTCONFIG_FILE": str(_FONTS)},
        )
        protocol = Protocol()
        try:
            await protocol.connect(browser)
        except BaseException:
            await browser.close()
            raise
        return browser, protocol

    async def _stop(self) -> None:
        if self._ahead is not None:
            await asyncio.wait([self._ahead[1]])
        for browser in (self._browser, *(other for other, _ in self._looking.values())):
            if browser is not None and browser.is_connected():
                with contextlib.suppress(PlaywrightError):  # it ended meanwhile
                    await browser.close()

    def begin(self) -> None:
        """Be there for work again, also after `abort`."""
        self._aborted = False

    def abort(self) -> None:
        """End the browser's processes at once, from any thread: whatever waits for it fails, and nothing more is opened
        until the next `begin`.
        """
        self._aborted = self._driver.has_aborted = True
        for protocol in (self.protocol, *(protocol for _, protocol in list(self._looking.values()))):
            protocol.abort()
        self._browser, self._ahead = None, None
        self._looking.clear()

    def _expect_work(self) -> None:
        if self._aborted:
            raise ProtocolClosed("the browser was ended")

    async def revive(self) -> None:
        """Start the browser again if it has died; raises `ProtocolClosed` where it was ended for good."""
        self._expect_work()
        if self._browser is None or not self._browser.is_connected():
            await self._launch(find_chromium())

    async def open(self, device: Device) -> tuple[BrowserContext, Page]:
        """A page in a fresh context, so with an empty cache."""
        ahead, self._ahead = self._ahead, None
        if ahead is not None:
            with contextlib.suppress(PlaywrightError):
                context, page = await ahead[1]
                if ahead[0] == device and not page.is_closed():
                    return context, page
                await context.close()
        return await self._open(device)

    async def open_still(self, device: Device) -> tuple[BrowserContext, Page, Protocol]:
        """A page for a look, in a time of its own and with animations held; and the protocol of its browser.

        Where a browser only pretends to have so many px for each CSS px, it lays the page out anew when a picture is
        taken, with other heights of lines. So each density has a browser of its own, which is started with it.
        """
        browser, protocol = await self._for_looks(device.density)
        context = await browser.new_context(
            no_viewport=True,
            has_touch=device.mobile,
            accept_downloads=False,
            service_workers="allow",
            reduced_motion="reduce",
        )
        await context.add_init_script(_INIT + _LOOKED_AT)
        page = await context.new_page()
        session = await session_of(page)
        window = {"width": device.width, "height": device.height, "screenWidth": device.width}
        density = {"deviceScaleFactor": 0, "mobile": device.mobile, "screenHeight": device.height}
        await session.send("Emulation.setDeviceMetricsOverride", window | density)
        context.on("page", _close_popup)
        return context, page, protocol

    async def _for_looks(self, density: float) -> tuple[PlaywrightBrowser, Protocol]:
        """A browser with so many px for each CSS px, which draws a frame as soon as it can."""
        self._expect_work()
        async with self._launching:
            known = self._looking.get(density)
            if known is None or not known[0].is_connected():
                dense = f"--force-device-scale-factor={density:g}"
                known = await self._started(find_chromium(), dense, *_WITHOUT_DELAY)
                known[1].shared = True
                self._looking[density] = known
            return known

    @contextmanager
    def bounded(self, recorder: Recorder) -> Iterator[None]:
        """Bounds of the visit that is recorded: a page that asks for too much is ended, whoever still hears of it."""

        def over() -> None:
            recorder.end(f"the page asked for more than {MOST_REQUESTS:,} files")

        try:
            with self.replay.bounded(MOST_REQUESTS, over):
                yield
        finally:
            if recorder.flooded:
                self._ahead = None  # it ended as well

    def open_ahead(self, device: Device) -> None:
        """Begin to open what the next `open` of this device will ask for, while there is nothing else to do."""
        if self._ahead is None:
            self._ahead = device, asyncio.ensure_future(self._open(device))

    async def _open(self, device: Device) -> tuple[BrowserContext, Page]:
        await self.revive()
        assert self._browser is not None
        context = await self._browser.new_context(
            viewport={"width": device.width, "height": device.height},
            device_scale_factor=device.density,
            is_mobile=device.mobile,
            has_touch=device.mobile,
            accept_downloads=False,
            service_workers="allow",
            reduced_motion="no-preference",
        )
        await context.add_init_script(_INIT)
        page = await context.new_page()
        context.on("page", _close_popup)
        return context, page


# One for each page that is pictured or has a window of ours; it ends with its page.
_sessions: WeakKeyDictionary[Page, CDPSession] = WeakKeyDictionary()


async def session_of(page: Page) -> CDPSession:
    """The protocol session in which the window of a page was made: pictures of it are right in no other."""
    session = _sessions.get(page)
    if session is None:
        session = _sessions[page] = await page.context.new_cdp_session(page)
    return session


async def another_page(context: BrowserContext) -> Page:
    """A further page of ours in a context whose own pop-ups are closed."""
    context.remove_listener("page", _close_popup)
    try:
        return await context.new_page()
    finally:
        context.on("page", _close_popup)


def _close_popup(page: Page) -> None:
    async def close() -> None:
        with contextlib.suppress(PlaywrightError):
            await page.close()

    task = asyncio.ensure_future(close())
    _closing.add(task)
    task.add_done_callback(_closing.discard)


_closing: set[asyncio.Task[None]] = set()


async def target_of(page: Page) -> str:
    """The protocol's identifier of a page."""
    session = await page.context.new_cdp_session(page)
    info = await session.send("Target.getTargetInfo")
    await session.detach()
    return str(info["targetInfo"]["targetId"])
