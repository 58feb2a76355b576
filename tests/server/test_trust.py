"""Signing in, and what is said when the machine fails: one body for all errors of the API."""

from __future__ import annotations

import json
import os
import re
import sqlite3
import stat
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any
from unittest import mock

from django.db import OperationalError, connection
from django.test import Client, override_settings

from server.accounts import MOST_FAILURES, network_of
from server.sites.management.commands import work
from tests.server.cases import ServerCase

ROOT = Path(__file__).resolve().parents[2]
RIGHT = {"username": "ada", "password": "a long enough one"}


class SigningIn(ServerCase):
    def sign_in(self, address: str = "10.0.0.1", **how: str) -> tuple[int, str]:
        answer = Client(REMOTE_ADDR=address).post("/api/session", RIGHT | how, "application/json")
        return answer.status_code, answer.json().get("detail", "")

    def test_who_guesses_has_to_wait_and_nobody_else(self) -> None:
        for _ in range(5):
            self.assertEqual(self.sign_in(password="wrong")[0], 403)
        self.assertEqual(self.sign_in()[0], 200)  # which begins the count anew
        told = [self.sign_in(password=f"wrong {n}") for n in range(6)]
        self.assertEqual((told[-1][0], "Wait 10 minutes" in told[-1][1]), (429, True))
        self.assertEqual(self.sign_in()[0], 429)
        self.assertEqual(self.sign_in(address="10.0.0.2")[0], 200)  # the user from elsewhere
        self.assertEqual(self.sign_in(username="bob")[0], 200)  # others from there

    def test_who_tries_many_names_has_to_wait_too(self) -> None:
        """One password for many names, from one address; an IPv6 network (/64) counts as one."""
        for number in range(MOST_FAILURES):
            self.assertEqual(self.sign_in(f"2001:db8::{number:x}", username=f"user{number}", password="x")[0], 403)
        with mock.patch("django.contrib.auth.hashers.check_password") as hashing:
            status, words = self.sign_in("2001:db8::ffff", username="somebody", password="x")
        self.assertEqual((status, "Wait 10 minutes" in words, hashing.called), (429, True, False))
        self.assertEqual(self.sign_in("2001:db8::ffff")[0], 429)
        self.assertEqual(self.sign_in("2001:db8:0:1::1")[0], 200)
        self.assertEqual(network_of("::ffff:10.0.0.1"), network_of("10.0.0.1"))

    def test_the_demos_address_signs_in_once(self) -> None:
        from server.pages import entry_token

        with override_settings(IS_DEMO=True):
            address = f"/enter/{entry_token(self.other)}"
            self.assertEqual(Client().get(address).status_code, 302)
            again = Client().get(address)
            self.assertEqual((again.status_code, b"was used already" in again.content), (404, True))


class Settings(ServerCase):
    def run_with(self, *command: str, **environment: str) -> str:
        with tempfile.TemporaryDirectory() as folder:
            self.data = Path(folder) / "data"
            env = (
                os.environ | {"MULE_DATA": str(self.data), "DJANGO_SETTINGS_MODULE": "server.settings"} | environment
            )
            done = subprocess.run([sys.executable, *command], cwd=ROOT, env=env, capture_output=True, text=True)
            self.modes = {path.name: stat.S_IMODE(path.stat().st_mode) for path in [self.data, *self.data.iterdir()]}
            return done.stdout + done.stderr

    def test_what_is_kept_is_for_the_owner_alone(self) -> None:
        self.run_with("manage.py", "migrate", "--no-input")
        self.assertEqual(self.modes["data"], 0o700)
        self.assertLessEqual({"secret", "mule.sqlite3"}, set(self.modes))
        self.assertEqual({name: mode for name, mode in self.modes.items() if mode & 0o077}, {})

    def test_behind_tls_nothing_is_left_to_be_said(self) -> None:
        # Django's own deployment checks. The front sends plain requests on to https (W008), and what lies beside us in
        # a domain is its owner's (W005, W021).
        told = self.run_with("manage.py", "check", "--deploy", MULE_TLS="1", MULE_HOSTS="mule.example")
        self.assertEqual(set(re.findall(r"\(security\.(W\d+)\)", told)), {"W005", "W008", "W021"})


class Failures(ServerCase):
    def told(self, status: int, method: str, path: str, body: Any = None) -> str:
        self.client.raise_request_exception = False
        answer = getattr(self.client, method)(path, *((json.dumps(body), "application/json") if body else ()))
        self.assertEqual((answer.status_code, answer["Content-Type"].partition(";")[0]), (status, "application/json"))
        self.assertEqual(set(answer.json()), {"detail"})
        return str(answer.json()["detail"])

    def test_every_error_of_the_api_has_one_body(self) -> None:
        self.told(404, "get", "/api/nothing")
        self.assertIn("GET", self.told(405, "put", "/api/sites/4fd7b2a0-0000-4000-8000-000000000000", {}))
        self.told(422, "post", "/api/sites/visit", {"address": 5})
        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.user)
        self.assertEqual(set(strict.post("/api/sites/visit", "{}", "application/json").json()), {"detail"})

    def test_a_locked_database_is_said_to_be_busy(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA busy_timeout=50")
        other = sqlite3.connect(str(connection.settings_dict["NAME"]))
        other.execute("BEGIN EXCLUSIVE")
        self.addCleanup(other.close)
        waits: list[str] = []

        def counting(execute: Any, sql: str, *rest: Any) -> Any:
            try:
                return execute(sql, *rest)
            except OperationalError as error:
                waits.append(str(error))
                raise

        with connection.execute_wrapper(counting):
            self.assertIn("busy", self.told(503, "post", "/api/sites/visit", {"address": "http://a.example/"}))
        other.rollback()
        # A caller waits once, and not for long.
        self.assertLessEqual(len(waits), 1)
        self.assertLessEqual(connection.settings_dict["OPTIONS"]["timeout"], 5)

    def test_a_worker_outlives_a_busy_database(self) -> None:
        self.assertTrue(work.patiently(lambda: None))
        self.assertFalse(work.patiently(self.busy))

    def busy(self) -> None:
        raise OperationalError("database is locked")

    def test_a_full_disk_is_said_to_be_full(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("VACUUM")
            pages = cursor.execute("PRAGMA page_count").fetchone()[0]
            cursor.execute(f"PRAGMA max_page_count={pages}")
        try:
            for _ in range(200):  # until what was free in its last pages is taken
                self.client.raise_request_exception = False
                answer = self.client.post("/api/sites/visit", {"address": "http://a.example/"}, "application/json")
                if answer.status_code != 200:
                    break
            self.assertEqual((answer.status_code, "full" in answer.json()["detail"]), (507, True))
        finally:
            with connection.cursor() as cursor:
                cursor.execute("PRAGMA max_page_count=1073741823")
