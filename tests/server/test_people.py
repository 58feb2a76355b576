"""Sites shared among users: who may look, edit and own, and what was done by whom."""

from __future__ import annotations

from django.test import Client

from server.sites.models import Job, PreviewKey, Site
from tests.server.cases import ServerCase


class Sharing(ServerCase):
    def setUp(self) -> None:
        super().setUp()
        self.site = self.read_site()
        self.path = f"/api/sites/{self.site.pk}"
        self.bob = Client()
        self.bob.force_login(self.other)

    def ask_as_bob(self, method: str, path: str, body: object = None) -> int:
        call = getattr(self.bob, method)
        answer = call(path) if method == "get" else call(path, body or {}, "application/json")
        return int(answer.status_code)

    def let_in(self, role: str) -> None:
        self.answered("put", f"{self.path}/people/bob", {"role": role})

    def test_who_was_not_let_in_sees_nothing(self) -> None:
        self.assertEqual(self.get("/api/sites", self.bob), [])
        for path in ("", "/people", "/done", "/findings"):
            self.assertEqual(self.ask_as_bob("get", self.path + path), 404)
        self.assertEqual(self.ask_as_bob("put", f"{self.path}/people/bob", {"role": "edit"}), 404)

    def test_looking_editing_and_owning(self) -> None:
        self.let_in("look")
        (row,) = self.get("/api/sites", self.bob)
        self.assertEqual((row["owner"], row["role"], row["shared"]), ("ada", "look", 1))
        self.assertEqual(self.get(self.path, self.bob)["role"], "look")
        # Nothing of it can be changed, stopped or deleted by who may look.
        job = self.site.jobs.get()
        for method, path in (
            ("patch", self.path),
            ("post", f"{self.path}/weigh"),
            ("post", f"{self.path}/pages"),
            ("post", f"/api/jobs/{job.pk}/cancel"),
            ("put", f"{self.path}/people/bob"),
            ("delete", self.path),
        ):
            body = {"role": "own", "chosen": [], "name": "Mine"}
            status = self.ask_as_bob(method, path, body | {"role": "edit"})
            self.assertEqual(status, 403, (method, path))
        self.assertEqual(Job.objects.get(pk=job.pk).cancel, False)
        self.let_in("edit")
        self.assertEqual(self.ask_as_bob("patch", self.path, {"name": "Tides"}), 200)
        self.assertEqual(Site.objects.get(pk=self.site.pk).name, "Tides")
        self.assertEqual(self.ask_as_bob("delete", self.path), 403)
        self.assertEqual(self.ask_as_bob("put", f"{self.path}/people/ada", {"role": "look"}), 403)
        answer = self.bob.delete(self.path)
        self.assertIn("Ask the owner, ada", answer.json()["detail"])

    def test_somebody_is_shut_out_or_leaves(self) -> None:
        self.let_in("edit")
        self.get(self.path, self.bob)  # previews get keys
        self.assertTrue(PreviewKey.objects.filter(site=self.site).exists())
        self.assertEqual(self.answered("delete", f"{self.path}/people/bob")["people"], [])
        self.assertEqual(self.ask_as_bob("get", self.path), 404)
        self.assertFalse(PreviewKey.objects.filter(site=self.site).exists())
        self.let_in("look")
        self.assertEqual(self.ask_as_bob("delete", f"{self.path}/people/bob"), 200)
        self.assertEqual(self.get("/api/sites", self.bob), [])
        self.answered("delete", f"{self.path}/people/bob", status=404)

    def test_names_that_lead_to_nobody(self) -> None:
        for name, words in (("nobody", "No active user is called nobody"), ("ada", "You own this site already")):
            told = self.answered("put", f"{self.path}/people/{name}", {"role": "look"}, 422)
            self.assertIn(words, told["detail"])
        self.other.is_active = False
        self.other.save()
        self.answered("put", f"{self.path}/people/bob", {"role": "look"}, 422)
        self.answered("put", f"{self.path}/people/ada", {"role": "own"}, 422)

    def test_what_was_done_by_whom(self) -> None:
        self.let_in("edit")
        self.ask_as_bob("patch", self.path, {"tags": ["sea"]})
        self.ask_as_bob("delete", self.path)  # refused, so it was not done
        rows = [(row["who"], row["what"]) for row in self.get(f"{self.path}/done", self.bob)]
        self.assertEqual(rows, [("bob", "edited the site"), ("ada", "gave access")])
        # What was done with another site of the same name is not told here.
        other = self.read_site()
        self.assertEqual(self.get(f"/api/sites/{other.pk}/done"), [])

    def test_its_work_counts_with_its_owner(self) -> None:
        self.let_in("edit")
        self.work()
        self.assertEqual(self.ask_as_bob("post", f"{self.path}/weigh"), 200)
        with self.settings(JOBS_OF_A_USER=1):
            self.assertEqual(self.ask_as_bob("post", f"{self.path}/weigh"), 409)
