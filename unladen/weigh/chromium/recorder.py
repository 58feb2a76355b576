"""What a page and all its frames and workers ask for, as the browser tells it."""

from __future__ import annotations

import asyncio
import contextlib
from collections.abc import Callable, Coroutine, Iterator
from dataclasses import dataclass, field
from typing import Any

from unladen.weigh.chromium.processes import end, pages_below
from unladen.weigh.chromium.protocol import Params, Protocol, ProtocolClosed
from unladen.weigh.records.conditions import UNLIMITED, Link

Command = tuple[str, Params]
_BLOCKING = ("Blocking", "InBodyParserBlocking")
# What one visit may bring before it is ended: several times what the heaviest real pages do.
MOST_REQUESTS, MOST_MESSAGES = 3_000, 60_000
_AUTO_ATTACH = {"autoAttach": True, "waitForDebuggerOnStart": True, "flatten": False}


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
    responded: float = 0.0
    method: str = "GET"
    protocol: str = ""
    priority: str = ""
    blocking: bool = False
    redirect: str = ""
    line: int = -1
    column: int = 0
    stack: list[str] = field(default_factory=list)
    request_headers: list[tuple[str, str]] = field(default_factory=list)
    response_headers: list[tuple[str, str]] = field(default_factory=list)

    @property
    def missing(self) -> bool:
        """Whether nothing came, and not because the page itself took the request back."""
        return self.status == 404 or (bool(self.failed) and not self.status and not self.taken_back)


@dataclass(slots=True)
class Recorder:
    """Records the network of one page target and its descendants; create, `attach`, later `detach`.

    A page that asks for too much is ended: `flooded` says with what.
    `link` slows all of them down; `prepare` gives further commands that each target gets before it runs, and
    `listener` hears (session, method, parameters) of all events beside those of the network.
    """

    protocol: Protocol
    link: Link = UNLIMITED
    prepare: Callable[[], list[Command]] = list
    listener: Callable[[str, str, Params], None] | None = None
    seen: list[Seen] = field(default_factory=list)
    navigations: int = 0
    flooded: str = ""
    _messages: int = 0
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
        self._root = await self.protocol.attach(target)
        await self._prepare(self._root, waiting=False)

    def detach(self) -> None:
        """Stop recording."""
        if self._on in self.protocol.handlers:
            self.protocol.handlers.remove(self._on)

    def sessions(self) -> list[str]:
        """The sessions of the page and of everything below it."""
        return sorted(self._sessions)

    def busy(self) -> int:
        """How many requests are under way."""
        return len(self._open)

    def end(self, why: str) -> None:
        """End the page, whose scripts may be too busy to hear of anything else; what was recorded stays.

        May be called from any thread where the browser is not `shared`.
        """
        if self.flooded:
            return
        self.flooded = f"{why}; the visit ended there"
        if self.protocol.shared:
            self._later(self._crash())
        else:
            end(pages_below(self.protocol.process))

    async def _crash(self) -> None:
        with contextlib.suppress(RuntimeError, ProtocolClosed):
            await self.protocol.send("Page.crash", {}, self._root)

    def _later(self, work: Coroutine[Any, Any, None]) -> None:
        task = asyncio.ensure_future(work)
        self._tasks.add(task)
        task.add_done_callback(self._tasks.discard)

    async def idle(
        self, quiet: float, limit: float, most_navigations: int, calm: Callable[[], None] | None = None
    ) -> str:
        """Wait until nothing was under way for `quiet` seconds; returns why not, if that never came.

        `calm` is called once when a third of that time has passed.
        """
        loop = asyncio.get_running_loop()
        begin = last = loop.time()
        state = (-1, -1)
        while loop.time() - begin < limit:
            if self.flooded or self.protocol.aborted:
                return self.flooded or "the browser was ended"
            now = (len(self.seen), self.busy())
            if now != state:
                state, last = now, loop.time()
            if self.navigations > most_navigations:
                return "the page keeps redirecting"
            if not self.busy() and loop.time() - last >= quiet:
                return ""
            if calm is not None and not self.busy() and loop.time() - last >= quiet / 3:
                calm()
                calm = None
            await asyncio.sleep(0.02)
        return f"the page never stopped loading within {limit:g} s"

    async def _prepare(self, session: str, *, waiting: bool) -> None:
        self._sessions.add(session)
        commands: list[Command] = [("Network.enable", {"maxTotalBufferSize": 0, "maxResourceBufferSize": 0})]
        if self.link.rate:
            rate = self.link.rate / 8
            limits = {"latency": self.link.latency, "downloadThroughput": rate, "uploadThroughput": rate}
            commands.append(("Network.emulateNetworkConditions", {"offline": False, **limits}))
        commands += [*self.prepare(), ("Target.setAutoAttach", _AUTO_ATTACH)]
        if waiting:
            commands.append(("Runtime.runIfWaitingForDebugger", {}))
        # A kind of target that lacks one of these commands, or is gone already, has nothing to tell.
        await asyncio.gather(*(self.protocol.send(*command, session) for command in commands), return_exceptions=True)

    def _on(self, session: str, method: str, params: Params) -> None:
        if session not in self._sessions or self.flooded:
            return
        self._messages += 1
        if self._messages > MOST_MESSAGES:
            self.end(f"the page sent more than {MOST_MESSAGES:,} messages")
        elif method == "Target.attachedToTarget":
            self._later(self._prepare(params["sessionId"], waiting=True))
        elif method == "Network.requestWillBeSent":
            self._will_be_sent(session, params)
        elif method.startswith("Network."):
            self._advance(method.removeprefix("Network."), params)
        elif self.listener is not None:
            self.listener(session, method, params)

    def _will_be_sent(self, session: str, params: Params) -> None:
        key = params["requestId"]
        earlier = self._open.get(key)
        if earlier is not None:
            if "redirectResponse" not in params:
                return  # the same request told by a second session
            _answered(earlier, params["redirectResponse"])
            earlier.responded = params["timestamp"]
            earlier.redirect = params["request"]["url"]
            self._finish(key, params["timestamp"])
        url = params["request"]["url"]
        if not url.startswith(("http://", "https://")):
            return
        if params.get("type") == "Document" and session == self._root and params.get("frameId") == self._target:
            self.navigations += 1
        if len(self.seen) >= MOST_REQUESTS:
            self.end(f"the page asked for more than {MOST_REQUESTS:,} files")
            return
        initiator = params["initiator"]
        stack = list(dict.fromkeys(_scripts_of(initiator.get("stack"))))
        request = Seen(
            url=url,
            resource_type=params.get("type", ""),
            frame=params.get("documentURL", ""),
            initiator=initiator.get("url") or (stack[0] if stack else ""),
            initiator_type=initiator["type"],
            started=params["timestamp"],
            method=params["request"]["method"],
            priority=params["request"].get("initialPriority", ""),
            blocking=params.get("renderBlockingBehavior", "") in _BLOCKING,
            line=round(initiator.get("lineNumber", -1)),
            column=round(initiator.get("columnNumber", 0)),
            stack=stack,
            request_headers=_fields(params["request"].get("headers", {})),
        )
        self.seen.append(request)
        self._open[key] = request

    def _advance(self, event: str, params: Params) -> None:
        request = self._open.get(params.get("requestId", ""))
        if request is None:
            return
        if event == "responseReceived":
            response = params["response"]
            _answered(request, response)
            timing = response.get("timing")
            # The event's own time is when the page's process got to it; the network's clock is the better one.
            headers = timing and timing["requestTime"] + timing["receiveHeadersEnd"] / 1000
            request.responded = headers if headers and headers > request.started else params["timestamp"]
            request.resource_type = params["type"]
            request.cached = bool(response.get("fromDiskCache") or response.get("fromPrefetchCache"))
        elif event == "requestServedFromCache":
            request.cached = True
        elif event == "responseReceivedExtraInfo":
            request.response_headers = _fields(params["headers"])
        elif event == "requestWillBeSentExtraInfo":
            request.request_headers = _fields(params["headers"])
        elif event == "loadingFinished":
            self._finish(params["requestId"], params["timestamp"])
        elif event == "loadingFailed":
            request.failed = params.get("errorText") or params.get("blockedReason") or "failed"
            request.taken_back = bool(params.get("canceled")) and not params.get("blockedReason")
            self._finish(params["requestId"], params["timestamp"])

    def _finish(self, key: str, timestamp: float) -> None:
        request = self._open.pop(key, None)
        if request is None:
            return  # the page was ended meanwhile
        request.ended = timestamp
        request.finished = True


def _answered(found: Seen, response: Params) -> None:
    found.status = response["status"]
    found.media_type = response["mimeType"]
    found.protocol = response.get("protocol", "")
    found.response_headers = found.response_headers or _fields(response.get("headers", {}))


def _fields(headers: Params) -> list[tuple[str, str]]:
    """Header fields with lower-case names; the pseudo-header fields of HTTP/2 are left out."""
    return [(name.lower(), str(value)) for name, value in headers.items() if not name.startswith(":")]


def _scripts_of(stack: Params | None) -> Iterator[str]:
    """The addresses of the scripts on a call stack and on those that it was called from later, innermost first."""
    while stack:
        yield from (frame["url"] for frame in stack.get("callFrames", ()) if frame.get("url"))
        stack = stack.get("parent")
