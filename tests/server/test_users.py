"""Accounts in the administrator's hands, and the log of who did what."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.test import Client

from server.audit_log import routes
from server.sites.models import AuditEntry, PreviewKey
from tests.server.cases import ServerCase

# Endings of the addresses under which a file leaves the product.
HANDED_OUT = (".zip", ".html", ".pdf", ".csv", ".har", ".json", "/document")


class Accounts(ServerCase):
    def setUp(self) -> None:
        super().setUp()
        self.user.is_staff = True
        self.user.save()

    def sign_in(self, name: str, password: str) -> int:
        body = {"username": name, "password": password}
        return Client().post("/api/session", body, "application/json").status_code

    def test_for_others_there_are_no_accounts(self) -> None:
        bob = Client()
        bob.force_login(self.other)
        for method, path in (("get", "users"), ("post", "users"), ("patch", "users/ada"), ("get", "deeds")):
            body = {"username": "x", "password": "a long enough one"} if method == "post" else {}
            answer = getattr(bob, method)(f"/api/{path}", body, "application/json")
            self.assertEqual((answer.status_code, Client().get("/api/users").status_code), (404, 401))
        self.assertFalse(self.get("/api/session", bob)["admin"])
        self.assertTrue(self.get("/api/session")["admin"])

    def test_made_shut_off_and_let_in_again(self) -> None:
        rows = self.answered("post", "/api/users", {"username": "cleo", "password": "correct horse battery"})
        self.assertEqual([row["username"] for row in rows], ["ada", "bob", "cleo"])
        self.assertEqual(self.sign_in("cleo", "correct horse battery"), 200)
        bob = Client()
        bob.force_login(self.other)
        self.assertEqual(bob.get("/api/sites").status_code, 200)
        self.upload(client=bob)
        theirs = self.get("/api/sites", bob)[0]["id"]
        host = self.get(f"/api/sites/{theirs}", bob)["preview_found"]
        self.assertTrue(PreviewKey.objects.filter(token=host[13:45]).exists())
        self.answered("patch", "/api/users/bob", {"active": False})
        self.assertEqual((bob.get("/api/sites").status_code, self.sign_in("bob", "a long enough one")), (401, 403))
        self.assertFalse(PreviewKey.objects.exists())
        self.answered("patch", "/api/users/bob", {"active": True, "password": "another long enough one"})
        self.assertEqual(self.sign_in("bob", "another long enough one"), 200)

    def test_weak_passwords_taken_names_and_oneself(self) -> None:
        weak = self.answered("post", "/api/users", {"username": "dora", "password": "1234567890"}, 422)
        self.assertIn("entirely numeric", weak["detail"])
        alike = self.answered("post", "/api/users", {"username": "cleopatra", "password": "cleopatra7"}, 422)
        self.assertIn("too similar", alike["detail"])
        self.answered("post", "/api/users", {"username": "BOB", "password": "correct horse battery"}, 409)
        self.answered("post", "/api/users", {"username": "a b<script>", "password": "correct horse battery"}, 422)
        self.answered("patch", "/api/users/ada", {"admin": False}, 409)
        self.answered("patch", "/api/users/nobody", {"active": False}, 404)
        self.assertEqual(User.objects.count(), 2)

    def test_what_is_done_and_refused_is_noted_with_who_and_about_what(self) -> None:
        site = self.new_site()
        self.sign_in("bob", "wrong")
        bob = Client()
        bob.force_login(self.other)
        bob.delete(f"/api/sites/{site.pk}")
        self.client.get("/api/sites")
        self.client.delete(f"/api/sites/{site.pk}")
        rows = [(row["who"], row["what"], row["about"], row["status"]) for row in self.get("/api/deeds")]
        self.assertEqual(
            rows,
            [
                ("ada", "deleted the site", "little", 204),
                ("bob", "deleted the site", "little", 404),
                ("", "signed in", "", 403),
                ("ada", "added the site", "", 200),
            ],
        )
        self.assertEqual(len(self.get("/api/deeds?who=bob")), 1)
        self.assertNotIn("wrong", str(list(AuditEntry.objects.values())))

    def test_every_route_that_changes_something_or_hands_a_file_out_declares_its_words(self) -> None:
        silent = [
            route
            for route, words in routes().items()
            if not words and (route[0] != "GET" or route[1].endswith(HANDED_OUT))
        ]
        self.assertEqual(silent, [])
