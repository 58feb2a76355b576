"""The API: who may do what, and what it says when something is wrong."""

from __future__ import annotations

import io
import json
import uuid
from pathlib import Path
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test import Client, override_settings

from server.sites.models import Job, Site
from tests.server.cases import FILES, ServerCase
from tests.sites import page
from tests.stored import stored_site

ROOT = Path(__file__).resolve().parent.parent.parent


class SigningIn(ServerCase):
    def test_with_name_and_password_and_out_again(self) -> None:
        client = Client()
        self.assertEqual(self.get("/api/session", client)["username"], "")
        wrong = client.post("/api/session", {"username": "ada", "password": "no"}, "application/json")
        self.assertEqual((wrong.status_code, "Wrong user name or password" in wrong.json()["detail"]), (403, True))
        right = {"username": "ada", "password": "a long enough one"}
        self.assertEqual(client.post("/api/session", right, "application/json").json()["username"], "ada")
        self.assertEqual(client.delete("/api/session").json()["username"], "")

    def test_a_foreign_page_cannot_act_for_the_user(self) -> None:
        client = Client(enforce_csrf_checks=True)
        right = {"username": "ada", "password": "a long enough one"}
        self.assertEqual(client.post("/api/session", right, "application/json").status_code, 403)
        client.force_login(self.user)
        self.assertEqual(client.post("/api/sites").status_code, 403)
        token = client.get("/api/session").cookies["csrftoken"].value
        self.assertEqual(client.delete("/api/session", headers={"X-CSRFToken": token}).status_code, 200)

    def test_nobody_gets_anything(self) -> None:
        for path in ("/api/sites", f"/api/sites/{uuid.uuid4()}", f"/api/jobs/{uuid.uuid4()}"):
            response = Client().get(path)
            self.assertEqual(
                (response.status_code, response.json()), (401, {"detail": "You are not signed in. Sign in first."})
            )

    def test_the_demos_way_in_exists_in_the_demo_only(self) -> None:
        from server.pages import entry_token

        client = Client()
        self.assertEqual(client.get(f"/enter/{entry_token(self.user)}").status_code, 404)
        with override_settings(IS_DEMO=True):
            self.assertEqual(client.get("/enter/forged").status_code, 404)
            self.assertEqual(client.get(f"/enter/{entry_token(self.user)}").status_code, 302)
        self.assertEqual(self.get("/api/session", client)["username"], "ada")


class Sites(ServerCase):
    def test_a_site_is_its_owners_alone(self) -> None:
        site = self.new_site()
        job = site.jobs.get()
        other = Client()
        other.force_login(self.other)
        self.assertEqual(self.get("/api/sites", other), [])
        base = f"/api/sites/{site.pk}"
        for path in (
            base,
            f"{base}/plan",
            f"{base}/lighter.zip",
            f"{base}/ledger.json",
            f"{base}/pictures/x",
            f"/api/jobs/{job.pk}",
        ):
            self.assertEqual(other.get(path).status_code, 404, path)
        self.assertEqual(other.get(f"{base}/requests?page=/index.html&device=phone").status_code, 404)
        self.assertEqual(other.delete(base).status_code, 404)
        for path in (f"{base}/weigh", f"/api/jobs/{job.pk}/cancel"):
            self.assertEqual(other.post(path).status_code, 404, path)
        self.assertEqual(other.post(f"{base}/lighten", {"effort": "bold"}, "application/json").status_code, 404)
        self.assertTrue(Site.objects.filter(pk=site.pk).exists())

    def test_an_upload_is_named_by_its_title_and_queued(self) -> None:
        answer = json.loads(self.upload().content)
        self.assertEqual((answer["name"], answer["job"]["state"]), ("little", "waiting"))
        self.work()
        answer = self.get("/api/sites")[0]
        self.assertEqual((answer["name"], answer["pages"], answer["files"]), ("Little site", 1, 2))

    def test_a_bad_archive_is_refused_by_name_and_leaves_nothing(self) -> None:
        for data, words in ((b"hello", "mine.zip: is not a ZIP file"), (b"", "mine.zip: is empty")):
            response = self.upload(data, "mine.zip")
            self.assertEqual(response.status_code, 422)
            self.assertIn(words, json.loads(response.content)["detail"])
        with override_settings(UPLOAD_LIMIT=100):
            self.assertEqual(self.upload().status_code, 413)
        self.assertEqual(Site.objects.count(), 0)
        self.assertEqual(list((self.folder / "sites").rglob("*")), [])

    def test_what_was_left_out_of_an_upload_is_said(self) -> None:
        site = json.loads(self.upload(self.archive({"index.html": page(""), "../x.html": b"x"})).content)
        self.work()
        notices = self.get(f"/api/sites/{site['id']}")["notices"]
        self.assertEqual([notice["name"] for notice in notices], ["../x.html"])

    def test_deleting_leaves_nothing_behind(self) -> None:
        site = self.new_site()
        self.work()
        self.assertTrue((self.folder / "sites" / str(site.pk)).exists())
        self.assertEqual(self.client.delete(f"/api/sites/{site.pk}").status_code, 204)
        self.assertEqual((Site.objects.count(), Job.objects.count()), (0, 0))
        self.assertEqual(list((self.folder / "sites").rglob("*")), [])

    def test_every_answer_keeps_other_hosts_out(self) -> None:
        response = self.client.get("/api/session")
        self.assertIn("default-src 'self'", response.headers["Content-Security-Policy"])
        self.assertEqual(response.headers["X-Frame-Options"], "DENY")


class Description(ServerCase):
    def test_the_front_ends_types_are_made_from_the_api_as_it_is(self) -> None:
        out = io.StringIO()
        call_command("schema", stdout=out)
        self.assertEqual(json.loads(out.getvalue()), json.loads((ROOT / "web" / "schema.json").read_text()))


class Working(ServerCase):
    def test_from_upload_to_handover(self) -> None:
        site = self.new_site()
        base = f"/api/sites/{site.pk}"
        self.assertEqual(self.client.get(f"{base}/lighter.zip").status_code, 404)
        self.assertEqual(self.send("post", f"{base}/lighten", {"effort": "steady"}).status_code, 409)
        self.work()
        bench = self.bench(base)
        self.assertEqual(len(bench["weigh_ins"]), 2)
        self.assertEqual(
            [excess["id"] for excess in bench["excess"]], ["webp:/a.jpg", "avif:/a.jpg", "unpacked:texts"]
        )
        self.assertEqual(bench["excess"][0]["changes"], ["webp:/a.jpg"])
        self.assertFalse(any(change["on"] for change in bench["plan"]["changes"]))
        picture = self.client.get(f"{base}/pictures/{bench['pictures'][0]['name']}")
        self.assertEqual(picture.headers["Content-Type"], "image/jpeg")
        # A body of the uploaded site is not served from here, whatever its digest.
        site.refresh_from_db()
        digest = next(e["digest"] for e in site.index["exchanges"] if e["url"].endswith("index.html"))
        self.assertEqual(self.client.get(f"{base}/pictures/{digest}").status_code, 404)
        weigh_in = bench["weigh_ins"][0]
        rows = self.get(f"{base}/weigh-ins/{weigh_in['id']}")["requests"]
        self.assertEqual(sum(row["transferred"] for row in rows), weigh_in["transferred"])

        self.assertEqual(self.send("post", f"{base}/lighten", {"effort": "enormous"}).status_code, 422)
        self.assertEqual(self.send("post", f"{base}/lighten", {"effort": "steady"}).status_code, 200)
        self.assertEqual(self.send("post", f"{base}/lighten", {"effort": "steady"}).status_code, 409)
        self.work()
        bench = self.bench(base)
        run = bench["run"]
        self.assertEqual(run["checks"], {"pairs": 2, "passed": 2, "set_aside": 0})
        outcomes = [(o["change"], o["standing"]) for o in run["outcomes"]]
        wanted = ["webp:/a.jpg", "avif:/a.jpg", "precompress"]
        self.assertEqual(outcomes, [(change, "passed") for change in wanted])
        self.assertEqual(run["unexplained"], {"bytes": 0, "requests": 0})
        self.assertFalse(bench["plan"]["differs"])
        ledger = self.get(f"{base}/ledger.json")
        self.assertEqual(ledger["format"], "unladen/ledger/2")
        download = self.client.get(f"{base}/lighter.zip")
        self.assertIn("little-site-lighter.zip", download.headers["Content-Disposition"])
        self.assertEqual(len(download.getvalue()), run["archive_bytes"])

        after = self.edit(base, {"do": "switch", "ids": wanted, "on": False})
        self.assertTrue(after["differs"])
        self.assertFalse(site.jobs.filter(state=Job.State.WAITING).exists())  # an edit starts no work
        self.carry_out(base)
        bench = self.bench(base)
        self.assertEqual([w["transferred"] for w in bench["now"]], [w["transferred"] for w in bench["weigh_ins"]])
        plan = self.client.get(f"{base}/plan/document").content
        bad = self.import_plan(base, b"{}")
        self.assertEqual((bad.status_code, "p.json" in bad.json()["detail"]), (422, True))
        self.assertEqual(self.import_plan(base, plan).status_code, 200)

    def import_plan(self, base: str, document: bytes) -> Any:
        version = self.get(f"{base}/plan")["version"]
        file = SimpleUploadedFile("p.json", document, "application/json")
        return self.client.post(f"{base}/plan/document", {"document": file, "version": version})

    def test_bad_edits_change_nothing(self) -> None:
        site = self.new_site()
        base = f"/api/sites/{site.pk}"
        keep = {"do": "keep", "files": ["/a.jpg"]}
        self.edit(base, keep, status=409)
        self.work()
        before = self.get(f"{base}/plan")
        wrong = {"do": "switch", "ids": ["webp:/none.jpg"], "on": True}
        self.assertIn("webp:/none.jpg", self.edit(base, keep, wrong, status=422)["detail"])
        self.edit(base, {"do": "magic"}, status=422)
        self.assertEqual(self.get(f"{base}/plan"), before)
        self.assertEqual(self.edit(base, keep)["keep"]["files"], ["/a.jpg"])
        self.assertEqual(self.send("patch", base, {"allowance": 0}).status_code, 422)
        self.assertEqual(self.send("patch", base, {"allowance": 750_000}).status_code, 200)
        self.assertEqual(self.get(base)["allowance"], 750_000)
        self.assertEqual(len(FILES), self.get(base)["files"])


class Order(ServerCase):
    """Names, tags and what is put away in the list of sites."""

    def test_the_list_is_kept_in_order(self) -> None:
        site = stored_site(self.user, 4, 3)
        path = f"/api/sites/{site.pk}"
        odd = "مطحنة 🐴 " + "n" * 180
        for body in (
            {"name": odd},
            {"tags": [" for  Ida ", "for Ida", "mill"]},
            {"archived": True},
            {"allowance": 5},
        ):
            self.assertEqual(self.send("patch", path, body).status_code, 200, body)
        (row,) = self.get("/api/sites")
        self.assertEqual((row["name"], row["tags"], row["archived"]), (odd.strip(), ["for Ida", "mill"], True))
        self.assertEqual(sum(row["kinds_before"].values()), row["before"])
        self.assertGreater(row["over"], 0)
        for wrong in (
            {"name": " "},
            {"name": "n" * 500},
            {"tags": ["t" * 41]},
            {"tags": ["t"] * 21},
            {"allowance": 0},
        ):
            self.assertEqual(self.send("patch", path, wrong).status_code, 422, wrong)
        self.client.force_login(self.other)
        self.assertEqual(self.send("patch", path, {"archived": False}).status_code, 404)
