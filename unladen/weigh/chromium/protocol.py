"""A small client of the Chrome DevTools Protocol over its web socket, beside the one that drives the browser.

The driving library does not pass on initiators, nor sub-targets such as cross-site frames and workers.
"""

from __future__ import annotations

import asyncio
import itertools
import json
import urllib.request
from collections.abc import Callable
from typing import Any

import websockets

Params = dict[str, Any]
Handler = Callable[[str | None, str, Params], None]


class ProtocolClosed(ConnectionError):
    """The browser went away."""


class Protocol:
    """Commands and events of one browser, in flat sessions."""

    def __init__(self) -> None:
        self.handlers: list[Handler] = []
        self._numbers = itertools.count(1)
        self._answers: dict[int, asyncio.Future[Params]] = {}
        self._socket: websockets.ClientConnection
        self._task: asyncio.Task[None]

    async def connect(self, port: int) -> None:
        """Connect to the browser that listens on this loopback port."""

        def version() -> Params:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/json/version", timeout=10) as response:
                found: Params = json.load(response)
                return found

        url = (await asyncio.to_thread(version))["webSocketDebuggerUrl"]
        self._socket = await websockets.connect(url, max_size=None, ping_interval=None, compression=None, proxy=None)
        self._task = asyncio.create_task(self._receive())

    async def close(self) -> None:
        """Close the connection; the browser stays."""
        self._task.cancel()
        await self._socket.close()

    async def send(self, method: str, params: Params | None = None, session: str | None = None) -> Params:
        """The result of a command; raises `RuntimeError` with the browser's message, or `ProtocolClosed`."""
        number = next(self._numbers)
        future: asyncio.Future[Params] = asyncio.get_running_loop().create_future()
        self._answers[number] = future
        message: Params = {"id": number, "method": method, "params": params or {}}
        if session:
            message["sessionId"] = session
        try:
            await self._socket.send(json.dumps(message))
        except websockets.ConnectionClosed as error:
            raise ProtocolClosed("the browser closed its connection") from error
        return await future

    async def _receive(self) -> None:
        try:
            async for raw in self._socket:
                message = json.loads(raw)
                if "id" in message:
                    self._settle(message)
                else:
                    for handler in list(self.handlers):
                        handler(message.get("sessionId"), message["method"], message["params"])
        finally:
            for future in self._answers.values():
                if not future.done():
                    future.set_exception(ProtocolClosed("the browser closed its connection"))

    def _settle(self, message: Params) -> None:
        future = self._answers.pop(message["id"], None)
        if future is None or future.done():
            return
        if "error" in message:
            future.set_exception(RuntimeError(str(message["error"].get("message"))))
        else:
            future.set_result(message["result"])
