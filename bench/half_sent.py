"""The web server beside 500 callers that send half a request: strangers, signed-in uploads, heads without an end."""

from __future__ import annotations

import http.client
import os
import socket
import subprocess
import sys
import tempfile
import time
from contextlib import ExitStack
from pathlib import Path
from urllib.parse import urlsplit

ROOT = Path(__file__).resolve().parent.parent
TIMES = 2.0
_CALLERS, _CALLS = 500, 400
_HALVES = (
    b"POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 500000\r\n\r\n{",
    b"POST /api/sites HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 30000\r\n\r\n--x",
    b"GET /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: ",
    b"",
)


def _slowest_of_twenty(place: tuple[str, int]) -> float:
    """The 95th percentile of normal calls, in ms, each on a connection of its own."""
    took = []
    for _ in range(_CALLS):
        begin = time.perf_counter()
        connection = http.client.HTTPConnection(*place, timeout=60)
        connection.request("GET", "/api/session")
        connection.getresponse().read()
        connection.close()
        took.append((time.perf_counter() - begin) * 1000)
    return sorted(took)[int(len(took) * 0.95)]


def measure() -> tuple[str, str, bool]:
    """Normal calls alone, and beside callers that stay."""
    from tests.serving import serving

    with tempfile.TemporaryDirectory() as folder, ExitStack() as open_:
        environment = os.environ | {"MULE_DATA": folder, "DJANGO_SETTINGS_MODULE": "server.settings"}
        command = [sys.executable, "manage.py", "migrate", "--no-input", "-v0"]
        subprocess.run(command, cwd=ROOT, env=environment, check=True)
        address = urlsplit(open_.enter_context(serving(ROOT, environment, threads=16)))
        place = (address.hostname or "", address.port or 0)
        _slowest_of_twenty(place)  # warm
        alone = _slowest_of_twenty(place)
        for number in range(_CALLERS):
            caller = open_.enter_context(socket.create_connection(place, timeout=60))
            caller.sendall(_HALVES[number % len(_HALVES)])
        beside = _slowest_of_twenty(place)
    return (
        f"{alone:.1f} ms alone, {beside:.1f} ms beside {_CALLERS} half-sent requests: {beside / alone:.2f} times",
        f"at most {TIMES:.0f} times",
        beside <= TIMES * alone,
    )
