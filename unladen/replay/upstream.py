"""Asking the real servers of a site, and nobody else.

Private targets are refused at the address that is connected to.
"""

from __future__ import annotations

import http.client
import re
import socket
import ssl
import time
from collections.abc import Mapping
from dataclasses import dataclass, field
from urllib.parse import urlsplit

from unladen.errors import BadInput
from unladen.replay.reserved import is_public

_HOP = {
    "connection", "host", "keep-alive", "proxy-authorization", "proxy-connection", "te", "trailer", "transfer-encoding",
    "upgrade", "accept-encoding", "content-length", "if-none-match", "if-modified-since",
}  # fmt: skip
_CHUNK = 65_536


class Refused(Exception):
    """A request that is not made; its text is the reason."""


class Unanswered(Exception):
    """A request without a usable answer; its text is the reason."""


@dataclass(frozen=True, slots=True)
class Allowed:
    """What may be reached.

    `hosts` sends a name (`host:port`, `host`, or `*.example` for all below) to an address of the operator's.

    `private` lets loopback, private and link-local addresses through.
    """

    hosts: Mapping[str, tuple[str, int]] = field(default_factory=dict)
    private: bool = False


def allowed_from(text: str) -> Allowed:
    """From a setting: `NAME=ADDRESS:PORT` entries and the word `private`, separated by commas. Raises `BadInput`."""
    hosts: dict[str, tuple[str, int]] = {}
    private = False
    for entry in filter(None, (part.strip() for part in text.split(","))):
        if entry == "private":
            private = True
            continue
        match = re.fullmatch(r"((?:\*\.)?[\w.-]+(?::\d+)?)=([\w.:-]+):(\d+)", entry)
        if match is None:
            raise BadInput(entry, "is neither NAME=ADDRESS:PORT nor the word private")
        hosts[match[1].lower()] = match[2], int(match[3])
    return Allowed(hosts, private)


@dataclass(frozen=True, slots=True)
class Limits:
    """For one answer: bytes of its body as sent, and seconds until it is there."""

    body: int = 50_000_000
    seconds: float = 30.0


@dataclass(frozen=True, slots=True)
class Fetched:
    """An answer as it came: header names in lower case, the body still packed."""

    status: int
    headers: tuple[tuple[str, str], ...]
    body: bytes


def target(host: str, port: int, allowed: Allowed) -> tuple[str, int, bool]:
    """Address and port to connect to, and whether the operator named it; raises `Refused` and `Unanswered`.

    The name is resolved here and nowhere else, so a name that changes its address later changes nothing.
    """
    family = "*." + host.partition(".")[2] if "." in host else ""
    top = "*." + host.rpartition(".")[2]
    named = next(
        (allowed.hosts[name] for name in (f"{host}:{port}", host, family, top) if name in allowed.hosts), None
    )
    if named:
        return *named, True
    try:
        addresses = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError) as error:
        raise Unanswered(f"cannot resolve host {host}") from error
    for *_, address in addresses:
        if allowed.private or is_public(str(address[0])):
            return str(address[0]), port, False
    raise Refused(f"{host} is a private or local address, which cannot be visited")


def fetch(
    method: str, url: str, headers: Mapping[str, str], body: bytes, allowed: Allowed, limits: Limits
) -> Fetched:
    """Ask a server; redirects are not followed. Raises `Refused` and `Unanswered`."""
    parts = urlsplit(url)
    if parts.scheme not in ("http", "https") or not parts.hostname:
        raise Refused("only http and https can be visited")
    port = parts.port or (443 if parts.scheme == "https" else 80)
    address, connect_port, named = target(parts.hostname, port, allowed)
    deadline = time.monotonic() + limits.seconds
    connection = http.client.HTTPConnection(parts.hostname, port, timeout=min(10.0, limits.seconds))
    try:
        connection.sock = socket.create_connection((address, connect_port), min(10.0, limits.seconds))
        if parts.scheme == "https":
            context = ssl.create_default_context()
            if named:  # the operator's own machine, most often with a certificate of its own making
                context.check_hostname, context.verify_mode = False, ssl.CERT_NONE
            connection.sock = context.wrap_socket(connection.sock, server_hostname=parts.hostname)
        path = (parts.path or "/") + (f"?{parts.query}" if parts.query else "")
        sent = {name: value for name, value in headers.items() if name not in _HOP and not name.startswith(":")}
        sent |= {"host": parts.netloc.rpartition("@")[2], "accept-encoding": "gzip, br", "connection": "close"}
        connection.request(method, path, body or None, sent)
        response = connection.getresponse()
        fields = tuple((name.lower(), value) for name, value in response.getheaders())
        return Fetched(response.status, fields, _read(response, connection.sock, deadline, limits))
    except ssl.SSLError as error:
        raise Unanswered(f"its certificate or encryption is invalid ({error.reason or error})") from error
    except TimeoutError as error:
        raise Unanswered(f"did not answer within {limits.seconds:g} s") from error
    except (OSError, http.client.HTTPException, ValueError) as error:
        raise Unanswered(f"could not be reached ({type(error).__name__})") from error
    finally:
        connection.close()


def _read(response: http.client.HTTPResponse, sock: socket.socket | None, deadline: float, limits: Limits) -> bytes:
    out = bytearray()
    while True:
        seconds = deadline - time.monotonic()
        if seconds <= 0:
            raise Unanswered(f"was still sending after {limits.seconds:g} s")
        if sock is not None and sock.fileno() >= 0:
            sock.settimeout(seconds)
        chunk = response.read1(_CHUNK)
        if not chunk:
            return bytes(out)
        out += chunk
        if len(out) > limits.body:
            raise Unanswered(f"sends more than {limits.body // 1_000_000} MB")
