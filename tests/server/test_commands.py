"""Commands of the launcher's other half, and pages beside the API."""

from __future__ import annotations

import io
import re
import subprocess
import sys
from pathlib import Path
from unittest import mock

from django.contrib.auth.models import User
from django.core.management import CommandError, call_command
from django.test import Client, override_settings

from server.sites.models import Site
from tests.server.cases import ServerCase
from tests.sites import page, zip_of
from unladen.cli import COMMANDS

ROOT = Path(__file__).resolve().parent.parent.parent


class Commands(ServerCase):
    def make(self, name: str, password: str) -> str:
        out = io.StringIO()
        with mock.patch.object(sys, "stdin", io.StringIO(password + "\n")):
            call_command("user", name, stdout=out)
        return out.getvalue()

    def test_users_are_made_by_hand_and_get_new_passwords(self) -> None:
        self.assertIn("can sign in", self.make("cleo", "correct horse battery"))
        self.assertIn("new password", self.make("cleo", "another good long one"))
        right = {"username": "cleo", "password": "another good long one"}
        self.assertEqual(Client().post("/api/session", right, "application/json").status_code, 200)

    def test_a_weak_password_makes_no_user(self) -> None:
        with self.assertRaisesRegex(CommandError, "too short"):
            self.make("dora", "abc")
        self.assertFalse(User.objects.filter(username="dora").exists())
        with self.assertRaisesRegex(CommandError, "too short"):
            self.make("ada", "abc")
        self.assertTrue(User.objects.filter(username="ada").exists())

    def test_the_demo_is_made_once(self) -> None:
        archive = zip_of({"index.html": page("")}, self.folder / "demo.zip")
        tokens = []
        with mock.patch("server.sites.management.commands.demo.demo_archive", return_value=archive):
            for _ in range(2):
                out = io.StringIO()
                call_command("demo", stdout=out)
                tokens.append(out.getvalue().strip())
        self.assertEqual(Site.objects.get().name, "Merrow Tide Mill")
        with override_settings(IS_DEMO=True):
            self.assertEqual([Client().get(f"/enter/{token}").status_code for token in tokens], [302, 404])
        self.assertFalse(User.objects.get(username="demo").has_usable_password())


class FrontEnd(ServerCase):
    def test_every_address_of_the_front_end_gets_its_page(self) -> None:
        web = self.folder / "dist"
        web.mkdir()
        with override_settings(WEB_DIR=web):
            self.assertEqual(self.client.get("/sites/x/sort").status_code, 503)
            (web / "index.html").write_text("<title>front</title>")
            for path in ("/sites/x/sort", "/anything"):
                response = self.client.get(path)
                self.assertEqual((response.status_code, response.content), (200, b"<title>front</title>"))
            self.assertEqual(self.client.get("/api/nothing").status_code, 404)
            self.assertEqual(self.client.post("/anything").status_code, 405)


class Launcher(ServerCase):
    def run_mule(self, *arguments: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run([str(ROOT / "mule"), *arguments], capture_output=True, text=True, cwd=self.folder)

    def test_what_it_does_not_know_is_one_line_and_exit_code_two(self) -> None:
        for arguments in (("dance",), ("demo", "extra"), ("user",)):
            found = self.run_mule(*arguments)
            self.assertEqual((found.returncode, found.stdout), (2, ""))
            self.assertEqual(found.stderr.count("\n"), 1)

    def test_help_names_every_command_and_explains_each(self) -> None:
        for arguments in ((), ("--help",), ("help",)):
            found = self.run_mule(*arguments)
            self.assertEqual((found.returncode, found.stderr), (0, ""))
        for command in ("demo", "user", "doctor", "backup", "restore", "test"):
            self.assertIn(f"\n  {command}", found.stdout)
            self.assertIn(f"Usage: ./mule {command}", self.run_mule(command, "--help").stdout)
        for name, core in COMMANDS.items():
            self.assertRegex(found.stdout, rf"\n  {name} {re.escape(core.usage)} +{re.escape(core.help)}\n")
        self.assertIn(COMMANDS["weigh"].example, self.run_mule("weigh", "--help").stdout)

    def test_the_command_line_works_from_any_folder(self) -> None:
        found = self.run_mule("weigh", "nothing-here", "--json")
        self.assertEqual((found.returncode, found.stdout), (2, ""))
        self.assertIn("nothing-here: does not exist", found.stderr)
