"""The real server in a process of its own."""

from __future__ import annotations

import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path

from unladen.weigh.chromium.browser import _free_port


@contextmanager
def serving(root: Path, environment: Mapping[str, str]) -> Iterator[str]:
    """The application of a checkout on a port of this machine, by its address, once it answers."""
    port = _free_port()
    command = ["-m", "gunicorn", "server.wsgi:application", "--bind", f"127.0.0.1:{port}"]
    server = subprocess.Popen(
        [sys.executable, *command, "--worker-class", "gthread", "--threads", "4"],
        cwd=root,
        env=environment,
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
