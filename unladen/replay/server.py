"""The replay server: TLS with HTTP/2 or HTTP/1.1, and plain HTTP/1.1, all on loopback."""

from __future__ import annotations

import asyncio
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from types import TracebackType
from urllib.parse import urlsplit

from unladen.capture import Capture
from unladen.replay.answer import Answer, answer
from unladen.replay.certificate import server_context
from unladen.replay.protocols import Connection, Question


@dataclass(slots=True)
class Served:
    """One answered request: `body` is the encoded body in bytes as handed out, `at` a monotonic time."""

    url: str
    method: str
    status: int
    body: int
    protocol: str
    at: float


class ReplayServer:
    """A capture served under its own host names. A context manager; its loop runs in a thread of its own.

    `capture` may be exchanged between visits; `log` holds everything answered so far.
    """

    def __init__(self, capture: Capture, *, http2: bool = True, plain_port: int = 0) -> None:
        self.capture = capture
        self.log: list[Served] = []
        self.plain_port = plain_port
        self.tls_port = 0
        hosts = sorted({urlsplit(url).hostname or "" for url in capture.exchanges} | {"site.example"})
        self._context, self.key_hash = server_context(hosts, http2=http2)
        self._ready = threading.Event()
        self._loop: asyncio.AbstractEventLoop | None = None
        self._thread = threading.Thread(target=self._serve, name="replay", daemon=True)
        self._failure: BaseException | None = None
        self._bound: tuple[int, Callable[[], None]] | None = None

    def __enter__(self) -> ReplayServer:
        self._thread.start()
        self._ready.wait()
        if self._failure is not None:
            raise self._failure
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if self._loop is not None:
            self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join(5)

    def browser_arguments(self) -> list[str]:
        """Chromium switches that send every host here and nothing anywhere else."""
        ports = {80: self.plain_port, 443: self.tls_port, **self.further_ports()}
        rules = ",".join([*(f"MAP *:{port} 127.0.0.1:{here}" for port, here in ports.items()), "MAP * 127.0.0.1:9"])
        return [f"--host-resolver-rules={rules}", f"--ignore-certificate-errors-spki-list={self.key_hash}"]

    def further_ports(self) -> dict[int, int]:
        """Ports beside 80 and 443 under which the capture's hosts are reached, and where they lead to here."""
        ports = {}
        for url in self.capture.exchanges:
            parts = urlsplit(url)
            if parts.port:
                ports[parts.port] = self.tls_port if parts.scheme == "https" else self.plain_port
        return ports

    def _serve(self) -> None:
        loop = asyncio.new_event_loop()
        try:
            plain = loop.run_until_complete(
                loop.create_server(self._connect("http"), "127.0.0.1", self.plain_port, backlog=512)
            )
            tls = loop.run_until_complete(
                loop.create_server(self._connect("https"), "127.0.0.1", 0, ssl=self._context, backlog=512)
            )
            self.plain_port = plain.sockets[0].getsockname()[1]
            self.tls_port = tls.sockets[0].getsockname()[1]
            self._loop = loop
        except BaseException as error:
            self._failure = error
            raise
        finally:
            self._ready.set()
        try:
            loop.run_forever()
        finally:
            plain.close()
            tls.close()
            for task in asyncio.all_tasks(loop):
                task.cancel()
            loop.run_until_complete(loop.shutdown_asyncgens())

    def _connect(self, scheme: str) -> Callable[[], asyncio.Protocol]:
        return lambda: Connection(lambda question: self.respond(scheme, question))

    def respond(self, scheme: str, question: Question) -> Answer | asyncio.Future[Answer]:
        """The answer to a question; it is logged."""
        url = f"{scheme}://{question.host}{question.path}"
        response = answer(self.capture, question.method, url, question.headers, time.time())
        if question.method == "HEAD":
            response = Answer(response.status, response.headers)
        size = len(response.body)
        self.keep(Served(url, question.method, response.status, size, question.protocol, time.monotonic()))
        return response

    def keep(self, served: Served) -> None:
        """Note an answer in the log."""
        self.log.append(served)
        if self._bound is not None and len(self.log) > self._bound[0]:
            _, over = self._bound
            self._bound = None
            over()

    @contextmanager
    def bounded(self, most: int, over: Callable[[], None]) -> Iterator[None]:
        """Call `over`, in the thread of this server, once more than so many answers were given."""
        self._bound = len(self.log) + most, over
        try:
            yield
        finally:
            self._bound = None
