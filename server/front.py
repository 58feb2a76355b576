"""The web server's worker: a thread is given only to a request that is there, and slow callers hold none for long.

Gunicorn's threads read requests themselves, so that as many half-sent ones as there are threads stop everybody else.
Here the loop that accepts connections looks into them without taking anything out, until the head and a short body
have come. Threads that read long bodies are never more than half of all. A connection that closes is never waited for,
neither by a thread nor by the loop.
"""

from __future__ import annotations

import contextlib
import json
import re
import resource
import selectors
import socket
import time
from collections import deque
from concurrent.futures import Future
from functools import partial
from http import HTTPStatus
from typing import Any

from gunicorn.http.errors import (
    ConfigurationProblem,
    ExpectationFailed,
    LimitRequestHeaders,
    LimitRequestLine,
    ParseException,
    UnsupportedTransferCoding,
)
from gunicorn.workers.gthread import TConn, ThreadWorker

HEAD_WITHIN = 20.0  # s, for the head and for a body that is waited for
SHORT_BODY = 64_000  # bytes; longer ones are read by a thread, and only signed-in users get as far (see gate.py)
_LONGEST_HEAD = 32_000  # bytes; Gunicorn has limits of its own below that
_SILENT_FOR = 20.0  # s that a caller may neither send nor take anything
_GRACE, _SLOWEST = 30.0, 10_000  # s, then bytes per second on the whole
_LONGEST = 3_600.0  # s for a request, whoever sends it
_QUEUED_FOR = 60.0  # s that a long body waits for a thread
# RFC 9112, 9.6: what a caller still sends is read for a while, since else the answer may be lost with the connection.
_LINGER, _MOST_READ = 2.0, 65_536  # s, bytes
_BUSY = b'{"detail": "Too many uploads at once. Try again in a minute."}'
_REFUSAL = (
    b"HTTP/1.1 503 Service Unavailable\r\nConnection: close\r\nContent-Type: application/json\r\n"
    b"Retry-After: 60\r\nContent-Length: %d\r\n\r\n%s"
) % (len(_BUSY), _BUSY)
# Statuses of requests that cannot be read, beside 400 (RFC 9110, 15).
_UNREADABLE = {
    LimitRequestLine: 414,
    ExpectationFailed: 417,
    LimitRequestHeaders: 431,
    UnsupportedTransferCoding: 501,
}
_FILES = 8_192  # that may be open at once
_LENGTH = re.compile(rb"\r\ncontent-length:[ \t]*+(\d{1,12})[ \t]*+\r\n", re.IGNORECASE)
_EXPECTS = re.compile(rb"\r\nexpect:", re.IGNORECASE)


class Paced(socket.socket):
    """A connection that gives up on a caller who is silent for long, or slow on the whole."""

    began = 0.0
    got = 0

    def setblocking(self, flag: bool) -> None:
        self.settimeout(_SILENT_FOR if flag else 0)
        if flag:
            self.began, self.got = time.monotonic(), 0

    def peek(self, size: int) -> bytes | None:
        """What has come, left where it is; b"" where nothing will come any more, None where nothing has come."""
        try:
            return super().recv(size, socket.MSG_PEEK)
        except BlockingIOError:
            return None
        except OSError:
            return b""

    def recv(self, *args: Any) -> bytes:
        data = super().recv(*args)
        self.got += len(data)
        taken = time.monotonic() - self.began
        if taken > _LONGEST or (taken > _GRACE and self.got < taken * _SLOWEST):
            raise TimeoutError("the request is too slow")
        return data

    def drain(self) -> int | None:
        """How many bytes have come and are of no use; 0 where the caller is gone, None where nothing has come."""
        try:
            return len(super().recv(4_096))
        except BlockingIOError:
            return None
        except OSError:
            return 0


def is_there(data: bytes) -> bool:
    """Whether these first bytes of a request are enough to hand it to a thread."""
    end = data.find(b"\r\n\r\n")
    if end < 0:
        return len(data) >= _LONGEST_HEAD
    length = _LENGTH.search(data[: end + 2])
    if not length or is_long(data):
        return True
    return len(data) >= end + 4 + int(length[1])


def is_long(data: bytes) -> bool:
    """Whether a thread would have to wait for the body of a request whose head has come."""
    head = data[: data.find(b"\r\n\r\n") + 2]
    length = _LENGTH.search(head)
    return bool(length and (int(length[1]) > SHORT_BODY or _EXPECTS.search(head)))


class Front(ThreadWorker):  # type: ignore[misc]
    """Gunicorn's threaded worker with connections that wait in the loop instead of in threads."""

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        self.waiting: deque[Any] = deque()
        # Connections whose long bodies threads read, those that wait for such a thread, and those that close.
        self.long: set[Any] = set()
        self.queued: deque[Any] = deque()
        self.closing: dict[Any, int] = {}

    def init_process(self) -> None:
        _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
        wanted = _FILES if most == resource.RLIM_INFINITY else min(_FILES, most)
        resource.setrlimit(resource.RLIMIT_NOFILE, (wanted, most))
        super().init_process()

    def accept(self, listener: socket.socket) -> None:
        try:
            accepted, address = listener.accept()
        except OSError:
            return  # gone again, or no file left for it; those that wait end soon
        self.nr_conns += 1
        connection = Paced(fileno=accepted.detach())
        self._await(TConn(self.cfg, connection, address, listener.getsockname()))

    def on_client_socket_readable(self, conn: Any, client: socket.socket) -> None:
        self.poller.unregister(client)
        self.keepalived_conns.remove(conn)
        self._await(conn)

    def _await(self, conn: Any) -> None:
        conn.sock.setblocking(False)
        conn.timeout = time.monotonic() + HEAD_WITHIN
        conn.seen = 0
        self.waiting.append(conn)
        self.poller.register(conn.sock, selectors.EVENT_READ, partial(self._heard, conn))

    def _heard(self, conn: Any, client: socket.socket) -> None:
        """Look at what has come, and leave it there."""
        data = conn.sock.peek(_LONGEST_HEAD + SHORT_BODY)
        if data is None:
            return
        if len(data) <= conn.seen:  # readable without anything new: the caller is gone
            self._drop(conn)
        elif is_there(data):
            client.setsockopt(socket.SOL_SOCKET, socket.SO_RCVLOWAT, 1)
            self._leave(conn)
            conn.data_ready = True
            if is_long(data):
                conn.timeout = time.monotonic() + _QUEUED_FOR
                self.queued.append(conn)
                self._read_long_bodies()
            else:
                self.enqueue_req(conn)
        else:
            conn.seen = len(data)
            # Else the loop would be told over and over of what it knows.
            client.setsockopt(socket.SOL_SOCKET, socket.SO_RCVLOWAT, len(data) + 1)

    def _read_long_bodies(self) -> None:
        """Give threads to long bodies, as many as may have one."""
        while self.queued and len(self.long) < max(1, self.cfg.threads // 2):
            conn = self.queued.popleft()
            self.long.add(conn)
            self.enqueue_req(conn)

    def handle_error(self, req: Any, client: Any, addr: Any, exc: Exception) -> None:
        """Answer a request that cannot be read as all errors are answered: `{"detail": ...}`."""
        caller = addr[0] if addr else ""
        if isinstance(exc, ParseException | ConfigurationProblem):
            status = next((status for error, status in _UNREADABLE.items() if isinstance(exc, error)), 400)
            detail = f"The request cannot be read: {exc}"
            self.log.warning("Invalid request from ip=%s: %s", caller, exc)
        else:
            status, detail = 500, "The server failed. Its log shows the cause."
            self.log.exception("Error handling a request from ip=%s", caller)
        body = json.dumps({"detail": detail}).encode()
        head = f"HTTP/1.1 {status} {HTTPStatus(status).phrase}\r\nConnection: close\r\n"
        head += f"Content-Type: application/json\r\nContent-Length: {len(body)}\r\n\r\n"
        with contextlib.suppress(OSError):
            client.setblocking(False)
            client.send(head.encode() + body)

    def _keepalive_after(self, conn: Any, keepalive: bool) -> bool:
        """Whether the connection serves further requests: not where part of a long body is still to come."""
        if keepalive and conn in self.long:
            return not getattr(conn.parser.mesg.body.reader, "length", 1)
        return bool(super()._keepalive_after(conn, keepalive))

    def finish_request(self, conn: Any, fs: Future[Any]) -> None:
        self.long.discard(conn)
        self._read_long_bodies()
        if not fs.cancelled() and (fs.exception() is not None or fs.result()):
            super().finish_request(conn, fs)
        else:
            self._close(conn)

    def _close(self, conn: Any) -> None:
        """Close a connection once its caller has done so, or has had time to read the answer."""
        try:
            conn.sock.shutdown(socket.SHUT_WR)
            conn.sock.setblocking(False)
            self.poller.register(conn.sock, selectors.EVENT_READ, partial(self._drained, conn))
        except (OSError, ValueError):  # the caller was faster
            self._gone(conn)
            return
        conn.timeout = time.monotonic() + _LINGER
        self.closing[conn] = 0

    def _drained(self, conn: Any, _client: socket.socket) -> None:
        count = conn.sock.drain()
        if count is None:
            return
        self.closing[conn] += count
        if not count or self.closing[conn] > _MOST_READ:
            self._closed(conn)

    def _closed(self, conn: Any) -> None:
        del self.closing[conn]
        self.poller.unregister(conn.sock)
        self._gone(conn)

    def _gone(self, conn: Any) -> None:
        self.nr_conns -= 1
        conn.close()

    def _refuse(self, conn: Any) -> None:
        """Answer a request that found no thread for its body."""
        with contextlib.suppress(OSError):
            conn.sock.send(_REFUSAL)
        self._close(conn)

    def _leave(self, conn: Any) -> None:
        self.waiting.remove(conn)
        self.poller.unregister(conn.sock)

    def _drop(self, conn: Any) -> None:
        self._leave(conn)
        self._gone(conn)

    def murder_pending(self) -> None:
        """Called about once a second: drop those that waited too long, all of them once the server stops."""
        super().murder_pending()
        now = time.monotonic()
        while self.waiting and (self.waiting[0].timeout <= now or not self.alive):
            self._drop(self.waiting[0])
        while self.queued and (self.queued[0].timeout <= now or not self.alive):
            self._refuse(self.queued.popleft())
        for conn in [conn for conn in self.closing if conn.timeout <= now or not self.alive]:
            self._closed(conn)
