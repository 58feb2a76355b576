"""Live sites weighed again: when that is due, what grew and who brought it, and word of it by mail."""

from __future__ import annotations

import json
import socketserver
import threading
from datetime import timedelta
from functools import partial
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

from django.test import override_settings
from django.utils import timezone

from server.sites import jobs
from server.sites.models import Job, Site, StoredWeighIn
from tests.server.cases import FILES, ServerCase
from tests.sites import photo
from unladen.replay.upstream import allowed_from


class Mailbox(socketserver.StreamRequestHandler):
    """A mail server that takes one letter (RFC 5321), or says nothing at all."""

    letters: list[str] = []
    silent = False

    def handle(self) -> None:
        if self.silent:
            threading.Event().wait(3)
            return
        self.wfile.write(b"220 here\r\n")
        for line in iter(self.rfile.readline, b""):
            word = line[:4].upper()
            self.wfile.write({b"DATA": b"354 go on\r\n", b"QUIT": b"221 bye\r\n"}.get(word, b"250 yes\r\n"))
            if word == b"DATA":
                letter = b"".join(iter(self.rfile.readline, b".\r\n"))
                self.letters.append(letter.decode())
                self.wfile.write(b"250 taken\r\n")


class Watched(ServerCase):
    def setUp(self) -> None:
        super().setUp()
        self.prepare_once(self.weigh)
        self.site = Site.objects.get()
        self.path = f"/api/sites/{self.site.pk}"
        self.root = self.folder / "live"
        self.root.mkdir()
        for name, body in FILES.items():
            (self.root / name).write_bytes(body)
        port = self.serve(ThreadingHTTPServer, partial(SimpleHTTPRequestHandler, directory=str(self.root)))
        self.enterContext(override_settings(VISIT_ALLOWED=allowed_from(f"live.example=127.0.0.1:{port}")))

    def weigh(self) -> None:
        self.new_site()
        self.work()

    def serve(self, kind: Any, handler: Any) -> int:
        server = kind(("127.0.0.1", 0), handler)
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        return int(server.server_address[1])

    def watch(self, **more: str) -> Any:
        body = {"often": "daily", "address": "http://live.example/index.html", "mail": ""} | more
        return self.send("put", f"{self.path}/watch", body)

    def test_what_grew_and_who_brought_it(self) -> None:
        self.assertEqual(self.watch(mail="ada@mill.example").status_code, 200)
        self.assertEqual(jobs.watch_due(), 1)
        self.assertEqual(jobs.watch_due(), 0)
        self.assertTrue(Job.objects.latest("created").aside)
        self.work()
        told = self.get(f"{self.path}/watch")
        self.assertEqual((told["error"], told["grown"]), ("", []))
        self.assertEqual(jobs.watch_due(), 0)
        # A day later it is heavier.
        (self.root / "a.jpg").write_bytes(photo(900, 700))
        Site.objects.update(watched={"at": (timezone.now() - timedelta(days=2)).isoformat()})
        port = self.serve(socketserver.ThreadingTCPServer, Mailbox)
        with override_settings(
            EMAIL_BACKEND="django.core.mail.backends.smtp.EmailBackend", EMAIL_HOST="127.0.0.1", EMAIL_PORT=port
        ):
            self.assertEqual(jobs.watch_due(), 1)
            self.work()
        told = self.get(f"{self.path}/watch")
        self.assertEqual({row["device"] for row in told["grown"]}, {"phone", "desktop"})
        row = told["grown"][0]
        self.assertEqual(row["by"], [{"name": "own images", "bytes": row["after"] - row["before"]}])
        self.assertIn("ada@mill.example", Mailbox.letters[0])
        self.assertIn("own images +", Mailbox.letters[0].replace("=\r\n", ""))
        (listed,) = self.get("/api/sites")
        self.assertEqual((listed["grown"], listed["grown_by"]), (row["after"] - row["before"], ["own images"]))
        sides = {row["side"] for row in self.get(f"{self.path}/history?page=/index.html")}
        self.assertEqual(sides, {"found", "live"})
        self.assertEqual(len(self.get(f"{self.path}/weigh-ins")["found"]), 2)

    def test_a_mail_server_that_hangs_and_a_site_that_is_gone(self) -> None:
        self.watch(mail="ada@mill.example")
        (self.root / "a.jpg").write_bytes(photo(900, 700))
        Mailbox.silent = True
        self.addCleanup(setattr, Mailbox, "silent", False)
        port = self.serve(socketserver.ThreadingTCPServer, Mailbox)
        with (
            override_settings(EMAIL_HOST="127.0.0.1", EMAIL_PORT=port, EMAIL_TIMEOUT=0.5),
            override_settings(EMAIL_BACKEND="django.core.mail.backends.smtp.EmailBackend"),
            self.assertLogs("server"),
        ):
            self.send("post", f"{self.path}/watch")
            self.work()
        told = self.get(f"{self.path}/watch")
        self.assertTrue(told["grown"])
        self.assertIn("the mail could not be sent", told["mail_error"])
        self.watch(address="http://gone.example/")
        self.send("post", f"{self.path}/watch")
        self.work()
        self.assertIn("gone.example", self.get(f"{self.path}/watch")["error"])
        self.assertEqual(StoredWeighIn.objects.filter(side="live").count(), 2)

    def test_orders_that_cannot_be(self) -> None:
        for more in (
            {"often": "hourly"},
            {"mail": "nobody"},
            {"address": "ftp://live.example/"},
            {"mail": "a@b.example\nc"},
        ):
            self.assertEqual(self.watch(**more).status_code, 422, more)
        self.watch(often="")
        self.assertEqual(jobs.watch_due(), 0)
        self.assertEqual(json.loads(self.watch(often="weekly").content)["often"], "weekly")
