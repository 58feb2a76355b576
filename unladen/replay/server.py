"""The replay server: TLS with HTTP/2 or HTTP/1.1, and plain HTTP/1.1, all on loopback."""

from __future__ import annotations

import asyncio
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from types import TracebackType
from urllib.parse import urlsplit

from unladen.capture import Capture
from unladen.replay.answer import Answer, answer
from unladen.replay.certificate import server_context
from unladen.replay.protocols import Connection


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

    def __init__(self, capture: Capture, *, http2: bool = True) -> None:
        self.capture = capture
        self.log: list[Served] = []
        self.plain_port = 0
        self.tls_port = 0
        hosts = sorted({urlsplit(url).hostname or "" for url in capture.exchanges} | {"site.example"})
        self._context, self.key_hash = server_context(hosts, http2=http2)
        self._ready = threading.Event()
        self._loop: asyncio.AbstractEventLoop | None = None
        self._thread = threading.Thread(target=self._serve, name="replay", daemon=True)
        self._failure: BaseException | None = None

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
        rules = f"MAP *:80 127.0.0.1:{self.plain_port},MAP *:443 127.0.0.1:{self.tls_port},MAP * 127.0.0.1:9"
        return [f"--host-resolver-rules={rules}", f"--ignore-certificate-errors-spki-list={self.key_hash}"]

    def _serve(self) -> None:
        loop = asyncio.new_event_loop()
        try:
            plain = loop.run_until_complete(loop.create_server(self._connect("http"), "127.0.0.1", 0, backlog=512))
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
        def respond(method: str, host: str, path: str, headers: dict[str, str], protocol: str) -> Answer:
            url = f"{scheme}://{host}{path}"
            found = answer(self.capture, method, url, headers)
            if method == "HEAD":
                found = Answer(found.status, found.headers)
            self.log.append(Served(url, method, found.status, len(found.body), protocol, time.monotonic()))
            return found

        return lambda: Connection(respond)
