"""The replay server's counterpart for live sites: hands each request on to the real server and keeps the answer."""

from __future__ import annotations

import asyncio
import threading
import time
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from urllib.parse import urlsplit

from unladen.capture import BodyStore, Capture
from unladen.capture.recorded import BodyRefused, Response, clean_headers, encoding_of, unpacked
from unladen.errors import Notice
from unladen.replay.answer import Answer
from unladen.replay.protocols import Question
from unladen.replay.server import ReplayServer, Served
from unladen.replay.upstream import Allowed, Fetched, Limits, Refused, Unanswered, fetch

_AT_ONCE = 12
_WORD_WITHIN = 3.0  # s
_METHODS = ("GET", "HEAD", "POST", "OPTIONS")
_NOT_PASSED_ON = {
    "connection",
    "content-length",
    "keep-alive",
    "transfer-encoding",
    "alt-svc",
    "strict-transport-security",
}


class LiveServer(ReplayServer):
    """Records what a browser is answered by real servers. `total` limits the bytes of all bodies together.

    `asked_for` tells whether a page asked for an address; what the browser wants for itself goes nowhere.
    """

    def __init__(self, start_url: str, store: BodyStore, allowed: Allowed, limits: Limits, total: int) -> None:
        super().__init__(Capture(start_url, {}, store))
        self.responses: dict[tuple[str, str], Response] = {}
        self.notices: list[Notice] = []
        self.problems: dict[str, str] = {}
        self.asked_for: Callable[[str], bool] = lambda url: False
        # What is sent along where no browser asks.
        self.taking: dict[str, str] = {"accept": "text/html,image/avif,image/webp,*/*;q=0.8"}
        self._start = urlsplit(start_url)
        self._allowed, self._limits = allowed, limits
        self._left = total
        self._lock = threading.Lock()
        self._pool = ThreadPoolExecutor(_AT_ONCE, thread_name_prefix="live")

    def further_ports(self) -> dict[int, int]:
        """The port of the address to visit, if it is none of the usual ones."""
        here = self.tls_port if self._start.scheme == "https" else self.plain_port
        return {self._start.port: here} if self._start.port else {}

    def respond(self, scheme: str, question: Question) -> Answer | asyncio.Future[Answer]:
        """The real server's answer, when it comes."""
        url = f"{scheme}://{question.host}{question.path}"
        assert self._loop is not None
        return self._loop.run_in_executor(self._pool, self._ask, url, question)

    def _ask(self, url: str, question: Question) -> Answer:
        if not self._is_a_pages(url):
            return Answer(404, (("cache-control", "no-store"),))
        try:
            if question.method not in _METHODS:
                raise Refused(f"{question.method} requests are not sent")
            fetched = fetch(question.method, url, question.headers, question.body, self._allowed, self._limits)
            self._keep(url, question.method, fetched)
        except (Refused, Unanswered, BodyRefused) as error:
            self._note(url, str(error))
            response = Answer(502, (("content-type", "text/plain"), ("cache-control", "no-store")))
        else:
            headers = tuple(field for field in fetched.headers if field[0] not in _NOT_PASSED_ON)
            response = Answer(fetched.status, headers, b"" if question.method == "HEAD" else fetched.body)
        served = Served(
            url, question.method, response.status, len(response.body), question.protocol, time.monotonic()
        )
        with self._lock:
            self.keep(served)
        return response

    def take(self, url: str) -> Response | None:
        """What the real server answers where no browser asks, recorded with the rest; None (with a notice) without an
        answer.
        """
        with self._lock:
            known = self.responses.get((url, "GET"))
        if known is None and url not in self.problems:
            try:
                self._keep(url, "GET", fetch("GET", url, self.taking, b"", self._allowed, self._limits))
            except (Refused, Unanswered, BodyRefused) as error:
                self._note(url, str(error))
        with self._lock:
            return self.responses.get((url, "GET"))

    def take_all(self, urls: Iterable[str]) -> None:
        """The same for many, several at a time."""
        with self._lock:
            wanted = [url for url in dict.fromkeys(urls) if (url, "GET") not in self.responses]
        list(self._pool.map(self.take, wanted))

    def read(self, url: str) -> bytes | None:
        """A body that is there, for whoever wants to know it and does not record it; None where it is not."""
        try:
            fetched = fetch("GET", url, self.taking, b"", self._allowed, self._limits)
            headers = clean_headers(fetched.headers)
            return unpacked(fetched.body, headers, self._limits.body) if fetched.status == 200 else None
        except (Refused, Unanswered, BodyRefused):
            return None

    def _is_a_pages(self, url: str) -> bool:
        """The browser tells of a request beside making it, so that word of it may come a little later."""
        until = time.monotonic() + _WORD_WITHIN
        while not self.asked_for(url):
            if time.monotonic() > until:
                return False
            time.sleep(0.02)
        return True

    def _keep(self, url: str, method: str, fetched: Fetched) -> None:
        if method == "OPTIONS" or fetched.status in (206, 304):
            return
        headers = clean_headers(fetched.headers)
        body = unpacked(fetched.body, headers, self._limits.body * 4) if fetched.body else b""
        with self._lock:
            self._left -= len(body)
            if self._left < 0:
                raise Unanswered("is left out: the recording has reached its size limit")
            self.responses.setdefault(
                (url, method), Response(url, fetched.status, headers, body, encoding_of(headers), method)
            )

    def _note(self, url: str, reason: str) -> None:
        with self._lock:
            if url not in self.problems:
                self.problems[url] = reason
                self.notices.append(Notice(url, reason))
