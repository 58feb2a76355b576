"""Commands and events of the Chrome DevTools Protocol in sessions of its own, through the pipe of the driving library.

That library passes on neither initiators nor sub-targets such as cross-site frames and workers. A port of the
browser's own would tell more as well, but to every program on the machine.
"""

from __future__ import annotations

import asyncio
import itertools
import json
from collections.abc import Callable
from typing import Any

from playwright.async_api import Browser, CDPSession
from playwright.async_api import Error as PlaywrightError

from unladen.weigh.chromium.processes import below, end

Params = dict[str, Any]
Handler = Callable[[str, str, Params], None]


class ProtocolClosed(ConnectionError):
    """The browser went away."""


class Protocol:
    """Sessions with the targets of one browser.

    Messages of a session travel in those of the session that it was opened from, so that one connection does for all.
    """

    def __init__(self) -> None:
        self.handlers: list[Handler] = []
        self._numbers = itertools.count(1)
        self._answers: dict[int, tuple[str, asyncio.Future[Params]]] = {}
        self._parents: dict[str, str] = {}
        self._browser: Browser
        self._root: CDPSession
        self.process = 0  # the browser's own, by its number
        self.shared = False  # whether several pages are open in it at once
        self.aborted = False

    async def connect(self, browser: Browser) -> None:
        """Begin to speak with a browser; raises Playwright's `Error`."""
        self._browser = browser
        self._root = await browser.new_browser_cdp_session()
        self._root.on("Target.receivedMessageFromTarget", lambda params: self._receive("", params))
        self._root.on("Target.detachedFromTarget", lambda params: self._ended(params["sessionId"]))
        browser.on("disconnected", lambda _: self._fail(list(self._answers)))
        told = await self._root.send("SystemInfo.getProcessInfo")
        self.process = next(int(process["id"]) for process in told["processInfo"] if process["type"] == "browser")

    def abort(self) -> None:
        """End the browser at once, from any thread; whoever still waits for it may look at `aborted`."""
        self.aborted = True
        end([*below(self.process), self.process])

    async def attach(self, target: str) -> str:
        """The identifier of a new session with a target, such as a page."""
        answer = await self.send("Target.attachToTarget", {"targetId": target, "flatten": False})
        return str(answer["sessionId"])

    async def send(self, method: str, params: Params | None = None, session: str = "") -> Params:
        """The result of a command; raises `RuntimeError` with the browser's message, or `ProtocolClosed`."""
        if not session:
            try:
                result: Params = await self._root.send(method, params or {})
            except PlaywrightError as error:
                if not self._browser.is_connected():
                    raise ProtocolClosed("the browser is gone") from error
                raise RuntimeError(error.message) from error
            return result
        number = next(self._numbers)
        future: asyncio.Future[Params] = asyncio.get_running_loop().create_future()
        self._answers[number] = session, future
        message = json.dumps({"id": number, "method": method, "params": params or {}})
        try:
            parent = self._parents.get(session, "")
            await self.send("Target.sendMessageToTarget", {"sessionId": session, "message": message}, parent)
            return await future
        finally:
            self._answers.pop(number, None)

    def _receive(self, parent: str, params: Params) -> None:
        """A message of a session, which may hold one of a session below it."""
        session = params["sessionId"]
        message = json.loads(params["message"])
        if "id" in message:
            self._settle(message)
            return
        method, told = message["method"], message.get("params", {})
        if method == "Target.receivedMessageFromTarget":
            self._receive(session, told)
            return
        if method == "Target.attachedToTarget":
            self._parents[told["sessionId"]] = session
        elif method == "Target.detachedFromTarget":
            self._ended(told["sessionId"])
        for handler in list(self.handlers):
            handler(session, method, told)

    def _settle(self, message: Params) -> None:
        _, future = self._answers.get(message["id"], ("", None))
        if future is None or future.done():
            return
        if "error" in message:
            future.set_exception(RuntimeError(str(message["error"].get("message"))))
        else:
            future.set_result(message["result"])

    def _ended(self, session: str) -> None:
        """What was asked in a session that has ended will not be answered."""
        self._parents.pop(session, None)
        self._fail([number for number, (asked, _) in self._answers.items() if asked == session])

    def _fail(self, numbers: list[int]) -> None:
        for number in numbers:
            future = self._answers[number][1]
            if not future.done():
                future.set_exception(ProtocolClosed("the browser closed the session"))
