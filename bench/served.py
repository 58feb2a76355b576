"""The real server with workers in processes of their own, and callers that are signed in."""

from __future__ import annotations

import http.client
import json
import os
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from tests.serving import serving

ROOT = Path(__file__).resolve().parent.parent
PASSWORD = "a long enough one for benchmarks"
_EDGE = "unladen-mule-edge"


@contextmanager
def served(users: list[str], workers: int = 0, **settings: str) -> Iterator[tuple[str, Path]]:
    """Address and data folder of a server with these users."""
    with tempfile.TemporaryDirectory(prefix="mule-bench-") as folder:
        environment = os.environ | {"MULE_DATA": folder, "DJANGO_SETTINGS_MODULE": "server.settings"} | settings
        environment.pop("MULE_TEST_DATABASE", None)

        def manage(*arguments: str, **how: Any) -> None:
            command = [sys.executable, "manage.py", *arguments]
            subprocess.run(
                command, cwd=ROOT, env=environment, check=True, stdout=subprocess.DEVNULL, text=True, **how
            )

        manage("migrate", "--no-input")
        for name in users:
            manage("user", name, input=PASSWORD + "\n")
        work = [sys.executable, "manage.py", "work"]
        running = [
            subprocess.Popen(work, cwd=ROOT, env=environment, stderr=subprocess.DEVNULL) for _ in range(workers)
        ]
        try:
            with serving(ROOT, environment, threads=16) as address:
                yield address, Path(folder)
        finally:
            for worker in running:
                worker.kill()
                worker.wait()


class Caller:
    """One user's connection."""

    def __init__(self, address: str, name: str) -> None:
        place = urlsplit(address)
        self.connection = http.client.HTTPConnection(place.hostname or "", place.port, timeout=120)
        self.cookies: dict[str, str] = {}
        self.ask("GET", "/api/session")
        self.ask("POST", "/api/session", {"username": name, "password": PASSWORD})

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        """The JSON of an answer that is not an error; raises `RuntimeError` with its text else."""
        data = json.dumps(body).encode() if body is not None else None
        return json.loads(self._sent(method, path, data, {"Content-Type": "application/json"}) or b"null")

    def body(self, path: str) -> bytes:
        """What is at an address, as it is."""
        return self._sent("GET", path, None, {})

    def upload(self, archive: Path) -> Any:
        """Hand an archive in, read from the disk piece by piece."""
        head = (
            f'--{_EDGE}\r\nContent-Disposition: form-data; name="archive"; filename="{archive.name}"\r\n\r\n'.encode()
        )
        tail = f"\r\n--{_EDGE}--\r\n".encode()
        length = len(head) + archive.stat().st_size + len(tail)

        def pieces() -> Iterator[bytes]:
            yield head
            with archive.open("rb") as file:
                while piece := file.read(1 << 20):
                    yield piece
            yield tail

        fields = {"Content-Type": f"multipart/form-data; boundary={_EDGE}", "Content-Length": str(length)}
        return json.loads(self._sent("POST", "/api/sites", pieces(), fields))

    def _sent(self, method: str, path: str, body: Any, fields: dict[str, str]) -> bytes:
        cookies = "; ".join(f"{name}={value}" for name, value in self.cookies.items())
        known = {"Cookie": cookies, "X-CSRFToken": self.cookies.get("csrftoken", "")}
        try:
            self.connection.request(method, path, body, known | fields)
            answer = self.connection.getresponse()
        except (http.client.RemoteDisconnected, ConnectionError):  # it was idle for longer than it is kept
            self.connection.close()
            self.connection.request(method, path, body, known | fields)
            answer = self.connection.getresponse()
        for name, value in answer.headers.items():
            if name.lower() == "set-cookie":
                cookie, _, rest = value.partition("=")
                self.cookies[cookie] = rest.partition(";")[0]
        data = answer.read()
        if answer.status >= 400:
            raise RuntimeError(f"{answer.status}: {data[:300]!r}")
        return data
