"""The front that is documented, with Debian's nginx: docs/front/nginx.conf as it is, but for names, ports and
certificates.
"""

from __future__ import annotations

import http.client
import os
import shutil
import socket
import ssl
import subprocess
import sys
import tempfile
import time
import unittest
from contextlib import ExitStack
from pathlib import Path
from typing import ClassVar
from urllib.parse import urlsplit

from tests.certificates import certificate_files
from tests.serving import free_port, serving

ROOT = Path(__file__).resolve().parents[2]
FRONT = ROOT / "docs" / "front"
NAME = "mule.example"


class Front(unittest.TestCase):
    secure: ClassVar[int]
    plain: ClassVar[int]

    @classmethod
    def setUpClass(cls) -> None:
        folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory(prefix="mule-test-")))
        environment = os.environ | {
            "MULE_DATA": str(folder / "data"),
            "DJANGO_SETTINGS_MODULE": "server.settings",
            "MULE_TLS": "1",
            "MULE_HOSTS": NAME,
        }
        environment.pop("MULE_TEST_DATABASE", None)
        subprocess.run(
            [sys.executable, "manage.py", "migrate", "--no-input", "-v0"], cwd=ROOT, env=environment, check=True
        )
        address = cls.enterClassContext(serving(ROOT, environment))
        cls.secure, cls.plain = free_port(), free_port()
        certificate, key = certificate_files(folder, NAME)
        cls._start(folder, urlsplit(address).port or 0, certificate, key)

    @classmethod
    def _start(cls, folder: Path, application: int, certificate: Path, key: Path) -> None:
        text = (FRONT / "nginx.conf").read_text()
        for old, new in (
            ("listen 443 ssl", f"listen 127.0.0.1:{cls.secure} ssl"),
            ("listen 80", f"listen 127.0.0.1:{cls.plain}"),
            ("http://127.0.0.1:8700", f"http://127.0.0.1:{application}"),
            ("/etc/nginx/mule_proxy.conf", str(FRONT / "mule_proxy.conf")),
            ("/etc/ssl/previews.mule.example.pem", str(certificate)),
            ("/etc/ssl/previews.mule.example.key", str(key)),
            ("/etc/ssl/mule.example.pem", str(certificate)),
            ("/etc/ssl/mule.example.key", str(key)),
        ):
            assert old in text, old
            text = text.replace(old, new)
        paths = "".join(
            f"{kind}_temp_path {folder}/{kind};" for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
        )
        whole = f"daemon off; worker_processes 1; pid {folder}/pid; error_log {folder}/errors; events {{}}\n"
        whole += f"http {{ access_log off; {paths}\n{text}\n}}\n"
        (folder / "nginx.conf").write_text(whole)
        program = shutil.which("nginx") or "/usr/sbin/nginx"
        nginx = subprocess.Popen([program, "-p", str(folder), "-c", str(folder / "nginx.conf")])
        cls.addClassCleanup(nginx.wait)
        cls.addClassCleanup(nginx.terminate)
        for _ in range(200):
            try:
                socket.create_connection(("127.0.0.1", cls.secure), timeout=5).close()
                return
            except OSError:
                assert nginx.poll() is None, (folder / "errors").read_text()
                time.sleep(0.1)

    def ask(self, method: str = "GET", path: str = "/api/session", **fields: str) -> http.client.HTTPResponse:
        context = ssl._create_unverified_context()
        connection = http.client.HTTPSConnection("127.0.0.1", self.secure, timeout=15, context=context)
        connection.request(method, path, headers={"Host": NAME} | {k.replace("_", "-"): v for k, v in fields.items()})
        return connection.getresponse()

    def test_it_speaks_tls_and_cookies_and_browsers_keep_to_it(self) -> None:
        answer = self.ask()
        self.assertEqual(answer.status, 200)
        self.assertIn("max-age=31536000", answer.headers["Strict-Transport-Security"])
        self.assertIn("Secure", answer.headers["Set-Cookie"])
        plain = http.client.HTTPConnection("127.0.0.1", self.plain, timeout=15)
        plain.request("GET", "/sites", headers={"Host": NAME})
        moved = plain.getresponse()
        self.assertEqual((moved.status, moved.headers["Location"]), (301, f"https://{NAME}/sites"))

    def test_a_stranger_is_refused_before_the_body_and_nobody_may_send_more_than_is_taken(self) -> None:
        length = str(120_000_000)
        kind = "multipart/form-data; boundary=x"
        self.assertEqual(self.ask("POST", "/api/sites", Content_Length=length, Content_Type=kind).status, 401)
        self.assertEqual(self.ask("POST", "/api/sites", Content_Length="900000000").status, 413)
        self.assertEqual(self.ask("POST", "/api/session", Content_Length="30000000").status, 413)

    def test_idle_callers_are_not_noticed(self) -> None:
        context = ssl._create_unverified_context()
        with ExitStack() as held:
            for number in range(200):
                caller = held.enter_context(socket.create_connection(("127.0.0.1", self.secure), timeout=10))
                if number % 4 == 0:  # no more than one address may have under way
                    secure = held.enter_context(context.wrap_socket(caller))
                    secure.sendall(
                        f"POST /api/session HTTP/1.1\r\nHost: {NAME}\r\nContent-Length: 99\r\n\r\n{{".encode()
                    )
            for _ in range(8):
                self.assertEqual(self.ask().status, 200)

    def test_hosts_of_others_are_refused(self) -> None:
        self.assertEqual(self.ask(Host="evil.example").status, 400)
