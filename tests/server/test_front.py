"""Callers that send half a request, or nothing, or a byte now and then, beside others."""

from __future__ import annotations

import http.client
import json
import os
import socket
import subprocess
import sys
import tempfile
import time
import unittest
from contextlib import ExitStack
from http.cookies import SimpleCookie
from pathlib import Path
from typing import ClassVar
from urllib.parse import urlsplit

from server.front import Paced, is_there
from tests.serving import serving

ROOT = Path(__file__).resolve().parents[2]
THREADS = 4


class Heads(unittest.TestCase):
    def test_a_request_is_there_with_its_head_and_a_short_body(self) -> None:
        head = b"POST /api/session HTTP/1.1\r\nHost: a\r\nContent-Length: 5\r\n\r\n"
        for cut in (1, 20, len(head) - 1, len(head), len(head) + 4):
            self.assertFalse(is_there((head + b"12345")[:cut]), cut)
        self.assertTrue(is_there(head + b"12345"))
        self.assertTrue(is_there(b"GET / HTTP/1.1\r\nHost: a\r\n\r\n"))

    def test_long_bodies_and_those_that_wait_to_be_asked_for_go_to_a_thread(self) -> None:
        self.assertTrue(is_there(b"POST / HTTP/1.1\r\ncontent-length:  900000 \r\n\r\n"))
        self.assertTrue(is_there(b"POST / HTTP/1.1\r\nContent-Length: 5\r\nExpect: 100-continue\r\n\r\n"))
        self.assertTrue(is_there(b"GET /" + b"x" * 40_000))  # for the server to refuse


class Slow(unittest.TestCase):
    """The connection itself, with a clock that has gone on."""

    def paced(self, seconds: float, got: int) -> tuple[Paced, socket.socket]:
        here, there = socket.socketpair()
        self.addCleanup(there.close)
        paced = Paced(fileno=here.detach())
        self.addCleanup(paced.close)
        paced.setblocking(True)
        paced.began, paced.got = time.monotonic() - seconds, got
        there.sendall(b"more")
        return paced, there

    def test_who_sends_a_byte_now_and_then_is_given_up(self) -> None:
        with self.assertRaises(TimeoutError):
            self.paced(40, 500)[0].recv(100)

    def test_who_begins_or_goes_on_well_is_waited_for(self) -> None:
        for seconds, got in ((5, 0), (40, 900_000)):
            self.assertEqual(self.paced(seconds, got)[0].recv(100), b"more")

    def test_each_request_has_the_clock_anew(self) -> None:
        paced, _ = self.paced(400, 500)
        paced.setblocking(True)
        self.assertEqual(paced.recv(100), b"more")


class Callers(unittest.TestCase):
    place: ClassVar[tuple[str, int]]

    @classmethod
    def setUpClass(cls) -> None:
        folder = cls.enterClassContext(tempfile.TemporaryDirectory(prefix="mule-test-"))
        environment = os.environ | {"MULE_DATA": folder, "DJANGO_SETTINGS_MODULE": "server.settings"}
        environment.pop("MULE_TEST_DATABASE", None)
        subprocess.run(
            [sys.executable, "manage.py", "migrate", "--no-input", "-v0"], cwd=ROOT, env=environment, check=True
        )
        made = (
            "from django.contrib.auth.models import User\n"
            "User.objects.create_user('ada', password='correct horse battery')"
        )
        subprocess.run(
            [sys.executable, "manage.py", "shell", "-v0", "-c", made], cwd=ROOT, env=environment, check=True
        )
        address = cls.enterClassContext(serving(ROOT, environment, threads=THREADS))
        cls.place = (urlsplit(address).hostname or "", urlsplit(address).port or 0)

    def answers(self) -> int:
        connection = http.client.HTTPConnection(self.place[0], self.place[1], timeout=15)
        connection.request("GET", "/api/session")
        return connection.getresponse().status

    def test_hundreds_of_idle_and_half_sent_requests_are_not_noticed(self) -> None:
        halves = (
            b"",
            b"GET /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: ",
            b"POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 30000\r\n\r\n{",
        )
        with ExitStack() as open_:
            for number in range(200):
                caller = open_.enter_context(socket.create_connection(self.place, timeout=5))
                caller.sendall(halves[number % len(halves)])
            for _ in range(2 * THREADS):
                self.assertEqual(self.answers(), 200)

    def test_long_bodies_that_never_come_hold_nobody_up(self) -> None:
        """Strangers who are refused, and then neither send the rest nor go."""
        head = b"POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 500000\r\n\r\n{"
        with ExitStack() as open_:
            callers = [open_.enter_context(socket.create_connection(self.place, timeout=15)) for _ in range(60)]
            for caller in callers:
                caller.sendall(head)
            for _ in range(3 * THREADS):
                self.assertEqual(self.answers(), 200)
            # Each has its answer, and the connection closes without waiting for the body.
            for caller in callers:
                answer = b""
                while more := caller.recv(4096):
                    answer += more
                self.assertTrue(answer.startswith(b"HTTP/1.1 401"), answer[:100])

    def test_slow_uploads_never_take_all_threads(self) -> None:
        cookie = self.signed_in()
        head = (
            f"POST /api/sites HTTP/1.1\r\nHost: 127.0.0.1\r\n{cookie}"
            "Content-Type: multipart/form-data; boundary=x\r\nContent-Length: 900000\r\n\r\n--x\r\n"
        )
        with ExitStack() as open_:
            for _ in range(3 * THREADS):
                caller = open_.enter_context(socket.create_connection(self.place, timeout=15))
                caller.sendall(head.encode())
            for _ in range(3 * THREADS):
                self.assertEqual(self.answers(), 200)

    def signed_in(self) -> str:
        """Header lines of a user who has signed in."""
        connection = http.client.HTTPConnection(self.place[0], self.place[1], timeout=15)
        connection.request("GET", "/api/session")
        answer = connection.getresponse()
        answer.read()
        cookies = SimpleCookie(answer.headers["Set-Cookie"])
        token = cookies["csrftoken"].value
        body = json.dumps({"username": "ada", "password": "correct horse battery"})
        headers = {
            "Content-Type": "application/json",
            "Cookie": f"csrftoken={token}",
            "X-CSRFToken": token,
            "Referer": f"http://{self.place[0]}:{self.place[1]}/",
        }
        connection.request("POST", "/api/session", body, headers)
        answer = connection.getresponse()
        self.assertEqual(answer.status, 200, answer.read())
        for header in answer.headers.get_all("Set-Cookie") or []:
            cookies.load(header)
        pairs = "; ".join(f"{name}={morsel.value}" for name, morsel in cookies.items())
        return f"Cookie: {pairs}\r\nX-CSRFToken: {cookies['csrftoken'].value}\r\n"

    def test_a_stranger_is_refused_before_any_of_the_body_has_come(self) -> None:
        head = (
            "POST /api/sites HTTP/1.1\r\nHost: 127.0.0.1\r\nCookie: sessionid=madeup0123456789abcdef0123456789\r\n"
            "Content-Type: multipart/form-data; boundary=x\r\nContent-Length: 120000000\r\n\r\n"
        )
        with socket.create_connection(self.place, timeout=15) as caller:
            caller.sendall(head.encode())
            self.assertTrue(caller.recv(100).startswith(b"HTTP/1.1 401"))

    def test_an_upload_without_the_token_of_our_pages_is_refused_before_any_of_it_has_come(self) -> None:
        session = self.signed_in().partition("\r\n")[0]
        for address, token in (("sites", ""), ("sites", "X-CSRFToken: wrong\r\n"), ("presets", "")):
            head = (
                f"POST /api/{address} HTTP/1.1\r\nHost: 127.0.0.1\r\n{session}\r\n{token}"
                "Content-Type: multipart/form-data; boundary=x\r\nContent-Length: 900000\r\n\r\n--x\r\n"
            )
            with socket.create_connection(self.place, timeout=15) as caller:
                caller.sendall(head.encode())
                answer = http.client.HTTPResponse(caller)
                answer.begin()
                self.assertEqual((answer.status, list(json.loads(answer.read()))), (403, ["detail"]))

    def test_what_cannot_be_read_as_a_request_is_answered_as_every_error(self) -> None:
        start = "POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\n"
        for request, status in {
            f"{start}Content-Length: 4\r\nTransfer-Encoding: chunked\r\n\r\n0\r\n\r\n": 400,
            f"{start}Content-Length: 4\r\nContent-Length: 5\r\n\r\nabcd": 400,
            f"{start}Content-Length: -4\r\n\r\n": 400,
            f"{start}Transfer-Encoding: rot13\r\n\r\n": 501,
            f"{start}Bad Name: x\r\n\r\n": 400,
            f"{start}X: {'y' * 20_000}\r\n\r\n": 431,
            f"GET /{'y' * 9_000} HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n": 414,
            "GET / HTTP/9.9\r\nHost: 127.0.0.1\r\n\r\n": 400,
            "<>\r\n\r\n": 400,
        }.items():
            with self.subTest(request[:80]), socket.create_connection(self.place, timeout=15) as caller:
                caller.sendall(request.encode())
                answer = http.client.HTTPResponse(caller)
                answer.begin()
                self.assertEqual(answer.status, status)
                self.assertEqual(list(json.loads(answer.read())), ["detail"])

    def test_a_request_that_comes_byte_by_byte_is_answered(self) -> None:
        with socket.create_connection(self.place, timeout=15) as caller:
            for byte in b"GET /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n\r\n":
                caller.sendall(bytes([byte]))
                time.sleep(0.002)
            self.assertTrue(caller.recv(100).startswith(b"HTTP/1.1 200"))

    def test_a_connection_serves_several_requests(self) -> None:
        connection = http.client.HTTPConnection(self.place[0], self.place[1], timeout=15)
        for _ in range(3):
            connection.request("GET", "/api/session")
            answer = connection.getresponse()
            self.assertEqual((answer.status, b"username" in answer.read()), (200, True))

    def test_who_hangs_up_in_the_middle_is_forgotten(self) -> None:
        for _ in range(20):
            with socket.create_connection(self.place, timeout=5) as caller:
                caller.sendall(b"GET /api/sess")
        self.assertEqual(self.answers(), 200)
