"""The real server in a process of its own."""

from __future__ import annotations

import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


def free_port() -> int:
    """A port of this machine that nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextmanager
def serving(root: Path, environment: dict[str, str], threads: int = 4) -> Iterator[str]:
    """The application of a checkout on a port of this machine, by its address, once it answers."""
    port = free_port()
    command = ["-m", "gunicorn", "server.wsgi:application", "--config", "server/gunicorn.conf.py"]
    server = subprocess.Popen(
        [sys.executable, *command, "--bind", f"127.0.0.1:{port}"],
        cwd=root,
        env=environment | {"MULE_THREADS": str(threads)},
        stderr=subprocess.DEVNULL,
    )
    try:
        yield _answering(server, f"http://127.0.0.1:{port}")
    finally:
        server.terminate()
        server.wait()


def _answering(server: subprocess.Popen[bytes], address: str) -> str:
    while server.poll() is None:
        try:
            urllib.request.urlopen(address + "/api/session", timeout=5)
            return address
        except OSError:
            time.sleep(0.1)
    raise RuntimeError("the server did not start")
