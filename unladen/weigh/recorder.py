"""What a page and all its frames and workers ask for, as the browser tells it."""

from __future__ import annotations

import asyncio
from dataclasses import dataclass, field

from unladen.weigh.protocol import Params, Protocol

_AUTO_ATTACH = {"autoAttach": True, "waitForDebuggerOnStart": True, "flatten": True}


@dataclass(slots=True)
class Seen:
    """A request as the browser reports it; times in seconds of the browser's clock."""

    url: str
    resource_type: str
    frame: str
    initiator: str
    initiator_type: str
    started: float
    ended: float = 0.0
    status: int = 0
    media_type: str = ""
    cached: bool = False
    failed: str = ""
    taken_back: bool = False
    finished: bool = False

    @property
    def missing(self) -> bool:
        """Whether nothing came, and not because the page itself took the request back."""
        return self.status == 404 or (bool(self.failed) and not self.status and not self.taken_back)


@dataclass(slots=True)
class Recorder:
    """Records the network of one page target and its descendants; create, `attach`, later `detach`."""

    protocol: Protocol
    seen: list[Seen] = field(default_factory=list)
    navigations: int = 0
    _open: dict[str, Seen] = field(default_factory=dict)
    _sessions: set[str] = field(default_factory=set)
    _tasks: set[asyncio.Task[None]] = field(default_factory=set)
    _root: str = ""
    _target: str = ""

    async def attach(self, target: str) -> None:
        """Begin to record this page target."""
        # The main frame of a page has the identifier of its target.
        self._target = target
        self.protocol.handlers.append(self._on)
        answer = await self.protocol.send("Target.attachToTarget", {"targetId": target, "flatten": True})
        self._root = answer["sessionId"]
        await self._prepare(self._root, waiting=False)

    def detach(self) -> None:
        """Stop recording."""
        self.protocol.handlers.remove(self._on)

    def busy(self) -> int:
        """How many requests are under way."""
        return len(self._open)

    async def idle(self, quiet: float, limit: float, most_navigations: int) -> str:
        """Wait until nothing was under way for `quiet` seconds; returns why not, if that never came."""
        loop = asyncio.get_running_loop()
        begin = last = loop.time()
        state = (-1, -1)
        while loop.time() - begin < limit:
            now = (len(self.seen), self.busy())
            if now != state:
                state, last = now, loop.time()
            if self.navigations > most_navigations:
                return "the page sends the visitor elsewhere again and again"
            if not self.busy() and loop.time() - last >= quiet:
                return ""
            await asyncio.sleep(0.02)
        return f"the page never stopped loading within {limit:g} s"

    async def _prepare(self, session: str, *, waiting: bool) -> None:
        self._sessions.add(session)
        commands: list[tuple[str, Params]] = [
            ("Network.enable", {"maxTotalBufferSize": 0, "maxResourceBufferSize": 0}),
            ("Target.setAutoAttach", _AUTO_ATTACH),
        ]
        if waiting:
            commands.append(("Runtime.runIfWaitingForDebugger", {}))
        # A kind of target that lacks one of these commands, or is gone already, has nothing to tell.
        await asyncio.gather(*(self.protocol.send(*command, session) for command in commands), return_exceptions=True)

    def _on(self, session: str | None, method: str, params: Params) -> None:
        if session is None or session not in self._sessions:
            return
        if method == "Target.attachedToTarget":
            task = asyncio.ensure_future(self._prepare(params["sessionId"], waiting=True))
            self._tasks.add(task)
            task.add_done_callback(self._tasks.discard)
        elif method == "Network.requestWillBeSent":
            self._will_be_sent(session, params)
        elif method.startswith("Network."):
            self._advance(method.removeprefix("Network."), params)

    def _will_be_sent(self, session: str, params: Params) -> None:
        key = params["requestId"]
        earlier = self._open.get(key)
        if earlier is not None:
            if "redirectResponse" not in params:
                return  # the same request told by a second session
            earlier.status = params["redirectResponse"]["status"]
            self._finish(key, params["timestamp"])
        url = params["request"]["url"]
        if not url.startswith(("http://", "https://")):
            return
        if params.get("type") == "Document" and session == self._root and params.get("frameId") == self._target:
            self.navigations += 1
        initiator = params["initiator"]
        frames = (initiator.get("stack") or {}).get("callFrames") or [{}]
        found = Seen(
            url=url,
            resource_type=params.get("type", ""),
            frame=params.get("documentURL", ""),
            initiator=initiator.get("url") or frames[0].get("url", ""),
            initiator_type=initiator["type"],
            started=params["timestamp"],
        )
        self.seen.append(found)
        self._open[key] = found

    def _advance(self, event: str, params: Params) -> None:
        found = self._open.get(params.get("requestId", ""))
        if found is None:
            return
        if event == "responseReceived":
            response = params["response"]
            found.status = response["status"]
            found.media_type = response["mimeType"]
            found.resource_type = params["type"]
            found.cached = bool(response.get("fromDiskCache") or response.get("fromPrefetchCache"))
        elif event == "requestServedFromCache":
            found.cached = True
        elif event == "loadingFinished":
            self._finish(params["requestId"], params["timestamp"])
        elif event == "loadingFailed":
            found.failed = params.get("errorText") or params.get("blockedReason") or "failed"
            found.taken_back = bool(params.get("canceled")) and not params.get("blockedReason")
            self._finish(params["requestId"], params["timestamp"])

    def _finish(self, key: str, timestamp: float) -> None:
        found = self._open.pop(key)
        found.ended = timestamp
        found.finished = True
