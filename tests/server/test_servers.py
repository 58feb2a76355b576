"""The rules for web servers, with Debian's nginx and Apache on a handed-over folder: what they send is what was
packed.
"""

from __future__ import annotations

import gzip
import http.client
import shutil
import subprocess
import tempfile
import time
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import brotli

from tests.serving import free_port
from tests.sites import page
from unladen.build import build
from unladen.capture import BodyStore, Capture
from unladen.capture.files import read_folder, write_folder
from unladen.plan import Plan
from unladen.remedies import Change
from unladen.remedies.change import Params
from unladen.remedies.delivery.rules import rules_for
from unladen.work_cache import WorkCache

FILES = {
    "index.html": page("<p>The wheel turns twice a day.</p>" * 60),
    "css/s.css": b"a { color: red }\n" * 90,
    "s.js": b"console.log('the wheel turns');\n" * 60,
    "wheel.svg": b"<svg xmlns='http://www.w3.org/2000/svg'>" + b"<path d='M0 0h9v9z'/>" * 40 + b"</svg>",
    "plain.css": b"b{c:d}",
    "wheel.PNG": b"a picture",
    "css/t-0123abcd.css": b"a { color: blue }\n" * 90,
    "report-20231105.css": b"a { color: blue }\n",
}
TYPES = {"index.html": "text/html", "css/s.css": "text/css", "s.js": "text/javascript", "wheel.svg": "image/svg+xml"}
NGINX = """daemon off; worker_processes 1; pid {folder}/pid; error_log {folder}/errors; events {{}}
http {{ access_log off; {paths} {maps}
server {{ listen 127.0.0.1:{port}; root {folder}/site; index index.html; {rules} }} }}
"""
APACHE = """ServerRoot {folder}
ServerName site.example
Listen 127.0.0.1:{port}
PidFile {folder}/pid
ErrorLog {folder}/errors
{modules}
TypesConfig /dev/null
AddType text/html .html
AddType text/css .css
AddType text/javascript .js
AddType image/svg+xml .svg
AddEncoding x-gzip .gz
DocumentRoot {folder}/site
<Directory {folder}/site>
Require all granted
DirectoryIndex index.html
{rules}
</Directory>
"""
MODULES = ("mpm_event", "authz_core", "dir", "mime", "headers", "rewrite")
WEEK = 604_800  # s
_FOR_GOOD, _A_WEEK = "public, max-age=31536000, immutable", "public, max-age=604800"
KEPT = {
    "wheel.svg": _A_WEEK,
    "wheel.PNG": _A_WEEK,
    "css/t-0123abcd.css": _FOR_GOOD,
    "report-20231105.css": None,
    "css/s.css": None,
    "s.js": None,
}
WITHIN = 20.0  # s


@contextmanager
def running(command: list[str], port: int) -> Iterator[None]:
    with subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL) as server:
        try:
            end = time.monotonic() + WITHIN
            while time.monotonic() < end:
                try:
                    http.client.HTTPConnection("127.0.0.1", port, timeout=2).connect()
                    break
                except OSError:
                    time.sleep(0.05)
            yield
        finally:
            server.terminate()


class Servers(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="mule-test-"))
        self.addCleanup(shutil.rmtree, self.folder, True)
        for name, body in FILES.items():
            (self.folder / "found" / name).parent.mkdir(parents=True, exist_ok=True)
            (self.folder / "found" / name).write_bytes(body)
        store = BodyStore(self.folder / "bodies")
        capture = read_folder(self.folder / "found", store)
        change: Change[Params] = Change("pack", "precompress", tuple(f"/{name}" for name in TYPES), ("/index.html",))
        self.lighter: Capture = build(capture, Plan("gentle", (change,)), WorkCache(self.folder / "memo", store))[0]
        write_folder(self.lighter, self.folder / "site")
        for path in (self.folder, *self.folder.rglob("*")):
            path.chmod(0o755 if path.is_dir() else 0o644)
        self.port = free_port()

    def ask(self, path: str, encodings: str) -> tuple[bytes, dict[str, str]]:
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=10)
        connection.request("GET", path, headers={"Accept-Encoding": encodings} if encodings else {})
        answer = connection.getresponse()
        self.assertEqual(answer.status, 200, path)
        return answer.read(), {name.lower(): value for name, value in answer.getheaders()}

    def expect_packed(self) -> None:
        for name, kind in TYPES.items():
            url = f"https://site.example/{name}"
            for encodings, encoding, unpack in (
                ("gzip, deflate, br, zstd", "br", brotli.decompress),
                ("gzip", "gzip", gzip.decompress),
                ("", None, bytes),
            ):
                with self.subTest(name=name, encodings=encodings):
                    body, headers = self.ask(f"/{name}", encodings)
                    self.assertEqual(headers.get("content-encoding"), encoding)
                    self.assertEqual(headers["content-type"].partition(";")[0], kind)
                    self.assertIn("accept-encoding", headers.get("vary", "").lower())
                    self.assertEqual(unpack(body), FILES[name])
                    if encoding == "br":
                        self.assertEqual(len(body), self.lighter.sent_size(self.lighter.exchanges[url]))
        self.assertEqual(self.ask("/", "br")[1]["content-encoding"], "br")
        self.assertEqual(self.ask("/plain.css", "br, gzip")[0], FILES["plain.css"])
        for name, lifetime in KEPT.items():
            with self.subTest(name=name):
                self.assertEqual(self.ask(f"/{name}", "br")[1].get("cache-control"), lifetime)

    def test_nginx(self) -> None:
        maps, rules = rules_for("nginx", WEEK).split("# --- into the server block ---")
        kinds = ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
        paths = "".join(f"{kind}_temp_path {self.folder}/{kind};" for kind in kinds)
        text = NGINX.format(folder=self.folder, port=self.port, paths=paths, maps=maps, rules=rules)
        (self.folder / "nginx.conf").write_text(text)
        with running(["nginx", "-c", str(self.folder / "nginx.conf"), "-p", str(self.folder)], self.port):
            self.expect_packed()

    def test_apache(self) -> None:
        modules = "\n".join(f"LoadModule {name}_module /usr/lib/apache2/modules/mod_{name}.so" for name in MODULES)
        text = APACHE.format(folder=self.folder, port=self.port, modules=modules, rules=rules_for("apache", WEEK))
        (self.folder / "apache.conf").write_text(text)
        with running(["apache2", "-f", str(self.folder / "apache.conf"), "-DFOREGROUND"], self.port):
            self.expect_packed()
