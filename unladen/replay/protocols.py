"""HTTP/1.1 and HTTP/2 as an `asyncio.Protocol`, chosen by ALPN."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from dataclasses import dataclass
from http import HTTPStatus

import h2.config
import h2.connection
import h2.events
import h2.exceptions

from unladen.replay.answer import Answer


@dataclass(frozen=True, slots=True)
class Question:
    """A request as it came in: header names are lower-case, `protocol` is `h2` or `http/1.1`."""

    method: str
    host: str
    path: str
    headers: dict[str, str]
    protocol: str
    body: bytes = b""


# An answer at once, or one to come.
Respond = Callable[[Question], "Answer | asyncio.Future[Answer]"]

_MAX_HEAD = 65_536
_MAX_BODY = 10_000_000
_BODILESS = (204, 304)


class Connection(asyncio.Protocol):
    """One connection of the browser; `respond` gives the answers."""

    def __init__(self, respond: Respond) -> None:
        self._respond = respond
        self._buffer = b""
        self._h2: h2.connection.H2Connection | None = None
        self._sending: dict[int, memoryview] = {}
        self._asked: dict[int, tuple[dict[str, str], bytearray]] = {}
        self._awaiting = False
        self._transport: asyncio.Transport

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        assert isinstance(transport, asyncio.Transport)
        self._transport = transport
        tls = transport.get_extra_info("ssl_object")
        if tls is not None and tls.selected_alpn_protocol() == "h2":
            config = h2.config.H2Configuration(
                client_side=False, header_encoding="utf-8", validate_inbound_headers=False
            )
            self._h2 = h2.connection.H2Connection(config)
            self._h2.initiate_connection()
            self._flush()

    def data_received(self, data: bytes) -> None:
        if self._h2 is not None:
            self._receive_h2(data)
        else:
            self._buffer += data
            while self._answer_http1():
                pass

    def _answer_http1(self) -> bool:
        if self._awaiting:  # answers of HTTP/1.1 go out in the order of the requests
            return False
        head, mark, rest = self._buffer.partition(b"\r\n\r\n")
        if not mark:
            if len(self._buffer) > _MAX_HEAD:
                self._transport.close()
            return False
        request, *lines = head.decode("latin-1").split("\r\n")
        headers = {name.strip().lower(): value.strip() for name, _, value in (line.partition(":") for line in lines)}
        try:
            method, path, _version = request.split(" ", 2)
            length = int(headers.get("content-length") or 0)
        except ValueError:
            self._transport.close()
            return False
        if len(rest) < length:
            return False
        self._buffer = rest[length:]
        question = Question(method, headers.get("host", ""), path, headers, "http/1.1", rest[:length])
        response = self._respond(question)
        if isinstance(response, Answer):
            self._send_http1(response)
            return True
        self._awaiting = True
        response.add_done_callback(self._come_http1)
        return False

    def _come_http1(self, come: asyncio.Future[Answer]) -> None:
        self._awaiting = False
        self._send_http1(come.result())
        self.data_received(b"")

    def _send_http1(self, found: Answer) -> None:
        phrase = HTTPStatus(found.status).phrase if found.status in set(HTTPStatus) else "Unknown"
        sent = [f"HTTP/1.1 {found.status} {phrase}", *(f"{name}: {value}" for name, value in found.headers)]
        if found.status not in _BODILESS:
            sent.append(f"content-length: {len(found.body)}")
        self._transport.write("\r\n".join([*sent, "", ""]).encode("latin-1", "replace") + found.body)

    def _receive_h2(self, data: bytes) -> None:
        assert self._h2 is not None
        try:
            events = self._h2.receive_data(data)
        except h2.exceptions.ProtocolError:
            self._flush()
            self._transport.close()
            return
        # A request that the browser takes back in the same breath is closed already and was never answered.
        given_up = {event.stream_id for event in events if isinstance(event, h2.events.StreamReset)}
        for event in events:
            if isinstance(event, h2.events.RequestReceived):
                if event.stream_id not in given_up:
                    headers = {_text(name): _text(value) for name, value in event.headers or ()}
                    self._asked[event.stream_id] = headers, bytearray()
            elif isinstance(event, h2.events.DataReceived):
                self._h2.acknowledge_received_data(event.flow_controlled_length, event.stream_id)
                if event.stream_id in self._asked and len(self._asked[event.stream_id][1]) < _MAX_BODY:
                    self._asked[event.stream_id][1].extend(event.data)
            elif isinstance(event, h2.events.StreamEnded):
                if event.stream_id in self._asked:
                    self._answer_h2(event.stream_id, *self._asked.pop(event.stream_id))
            elif isinstance(event, h2.events.StreamReset):
                self._sending.pop(event.stream_id, None)
                self._asked.pop(event.stream_id, None)
            elif isinstance(event, h2.events.ConnectionTerminated):
                self._transport.close()
                return
        self._pump()

    def _answer_h2(self, stream: int, headers: dict[str, str], body: bytearray) -> None:
        method, host = headers.get(":method", "GET"), headers.get(":authority", "")
        response = self._respond(Question(method, host, headers.get(":path", "/"), headers, "h2", bytes(body)))
        if isinstance(response, Answer):
            self._send_h2(stream, response)
        else:
            response.add_done_callback(lambda come: self._come_h2(stream, come.result()))

    def _come_h2(self, stream: int, found: Answer) -> None:
        try:
            self._send_h2(stream, found)
        except h2.exceptions.H2Error:
            return  # the browser took the request back in the meantime
        self._pump()

    def _send_h2(self, stream: int, found: Answer) -> None:
        assert self._h2 is not None
        sent = [(":status", str(found.status)), *found.headers]
        if found.status not in _BODILESS:
            sent.append(("content-length", str(len(found.body))))
        self._h2.send_headers(stream, sent, end_stream=not found.body)
        if found.body:
            self._sending[stream] = memoryview(found.body)

    def _pump(self) -> None:
        """Send what flow control allows, a frame of each stream in turn, as ordinary servers interleave them."""
        assert self._h2 is not None
        moved = True
        while moved and self._sending:
            moved = False
            for stream, left in list(self._sending.items()):
                try:
                    window = self._h2.local_flow_control_window(stream)
                    size = min(window, self._h2.max_outbound_frame_size, len(left))
                    if size <= 0:
                        continue
                    self._h2.send_data(stream, bytes(left[:size]), end_stream=size == len(left))
                except h2.exceptions.H2Error:
                    del self._sending[stream]
                    continue
                moved = True
                if size == len(left):
                    del self._sending[stream]
                else:
                    self._sending[stream] = left[size:]
        self._flush()

    def _flush(self) -> None:
        assert self._h2 is not None
        if data := self._h2.data_to_send():
            self._transport.write(data)


def _text(value: bytes | str) -> str:
    return value.decode("latin-1") if isinstance(value, bytes) else value
