"""Reviews by clients, reports and allowances over the API."""

from __future__ import annotations

import io
import json
import threading
import zipfile
from datetime import timedelta
from functools import partial
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from typing import Any
from unittest import mock

from django.core.cache import cache
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, override_settings
from django.utils import timezone

from server.reviews import reviewing
from server.reviews.models import Answer, Review
from server.sites.models import AuditEntry, Site
from tests.server.cases import FILES, ServerCase
from tests.sites import photo
from unladen.replay.upstream import allowed_from


class Shown(ServerCase):
    """A site with a run."""

    def setUp(self) -> None:
        super().setUp()
        cache.clear()
        self.prepare_once(self.lighten)
        self.site = Site.objects.get()
        self.path = f"/api/sites/{self.site.pk}"
        self.guest = Client()

    def lighten(self) -> None:
        site = self.new_site()
        self.work()
        self.send("post", f"/api/sites/{site.pk}/lighten", {"effort": "steady"})
        self.work()

    def review(self, **body: Any) -> tuple[str, dict[str, Any]]:
        made = json.loads(self.send("post", f"{self.path}/reviews", body).content)
        return made["address"].rpartition("/")[2], made["review"]

    def say(self, token: str, client: Client | None = None, **body: Any) -> Any:
        path = f"/api/review/{token}/answers"
        return (client or self.guest).post(path, json.dumps({"who": "Ida"} | body), "application/json")

    def opened(self, token: str, client: Client | None = None) -> Any:
        return (client or self.guest).get(f"/api/review/{token}")

    def changes(self) -> dict[str, bool]:
        return {change["id"]: change["on"] for change in self.get(f"{self.path}/plan")["changes"]}

    def test_the_way_of_a_review(self) -> None:
        self.send("put", "/api/letterhead", {"name": "Weir & Sons", "words": "Dear Ida", "logo": ""})
        token, row = self.review(name="For Ida")
        self.assertEqual((row["state"], row["opened"], row["answers"], row["shown"]), ("open", None, [], True))
        seen = self.opened(token).json()
        self.assertEqual((seen["site"], seen["sender"], seen["words"]), ("Little site", "Weir & Sons", "Dear Ida"))
        self.assertEqual({shot["device"] for shot in seen["shots"]}, {"phone", "desktop"})
        ids = [topic["id"] for topic in seen["topics"]]
        webp = next(topic for topic in seen["topics"] if topic["id"].startswith("webp"))
        self.assertGreater(webp["bytes"], 1000)
        self.assert_pictures(token, seen)
        # Refused with a word: it goes off, and the builder sees by whom and why. Accepted again: it comes back.
        self.assertEqual(self.say(token, topic=webp["id"], kind="refuse").status_code, 422)
        self.assertEqual(self.say(token, topic=webp["id"], kind="refuse", word="too soft").status_code, 200)
        self.assertFalse(self.changes()[webp["id"]])
        self.assertTrue(self.get(f"{self.path}/plan")["differs"])
        (told,) = self.get(f"{self.path}/reviews")[0]["answers"]
        self.assertEqual((told["kind"], told["word"], told["who"]), ("refuse", "too soft", "Ida"))
        report = self.client.get(f"{self.path}/report.html").content.decode()
        self.assertIn("Ida did not want it: too soft", report)
        self.say(token, Client(), topic=webp["id"], kind="accept", who="Ole")
        self.assertTrue(self.changes()[webp["id"]])
        for id in ids:
            self.say(token, topic=id, kind="ask" if id == ids[-1] else "accept", word="why?")
        row = self.get(f"{self.path}/reviews")[0]
        self.assertEqual((len(row["answers"]), row["history"]), (len(ids), len(ids) + 2))
        self.assertIsNotNone(row["opened"])

    def assert_pictures(self, token: str, seen: dict[str, Any]) -> None:
        shot = seen["shots"][0]
        sizes = []
        for width in (390, 1280):
            answer = self.guest.get(f"/api/review/{token}/pages/{shot['before']}?width={width}")
            self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "image/webp"))
            sizes.append(len(answer.content))
        self.assertLessEqual(sizes[0], sizes[1])
        self.assertEqual(self.guest.get(f"/api/review/{token}/images?path={seen['pictures'][0]}").status_code, 200)

    def test_nothing_else_can_be_reached_from_it(self) -> None:
        token, row = self.review()
        for path in (self.path, f"{self.path}/reviews", "/api/letterhead", f"{self.path}/lighter.zip", "/api/sites"):
            self.assertEqual(self.guest.get(path).status_code, 401, path)
        image = Site.objects.get().images[0]["digest"]
        for path in (
            f"pages/{image}",
            f"pages/{image}?width=7",
            "pages/..",
            "images?path=/index.html",
            "images?path=/none.jpg",
        ):
            self.assertEqual(self.guest.get(f"/api/review/{token}/{path}").status_code, 404, path)
        self.assertEqual(self.say(token, topic="no such", kind="accept").status_code, 404)
        bob = Client()
        bob.force_login(self.other)
        self.assertEqual(bob.get(f"{self.path}/reviews").status_code, 404)
        self.assertEqual(bob.post(f"{self.path}/reviews/{row['id']}/withdraw").status_code, 404)
        self.assertFalse(AuditEntry.objects.filter(what__contains=token).exists())
        strict = Client(enforce_csrf_checks=True)
        self.assertEqual(self.say(token, strict, topic="x", kind="accept").status_code, 403)

    def test_links_end_with_the_access_of_who_made_them(self) -> None:
        self.answered("put", f"{self.path}/people/bob", {"role": "edit"})
        bob = Client()
        bob.force_login(self.other)
        mine = self.answered("post", f"{self.path}/reviews", {"days": 5})
        his = bob.post(f"{self.path}/reviews", {"days": 5}, "application/json").json()
        self.answered("delete", f"{self.path}/people/bob")
        states = [
            Client().get(f"/api/review/{each['address'].rpartition('/')[2]}").status_code for each in (mine, his)
        ]
        self.assertEqual(states[0], 200)
        self.assertNotEqual(states[1], 200)

    def test_guessed_expired_and_withdrawn_links(self) -> None:
        token, row = self.review(days=1)
        self.assertEqual(self.opened(token[:-1]).status_code, 404)
        Review.objects.update(until=timezone.now() - timedelta(seconds=1))
        self.assertEqual(self.opened(token).status_code, 410)
        self.assertEqual(self.say(token, topic="x", kind="accept").status_code, 410)
        Review.objects.update(until=timezone.now() + timedelta(days=1))
        self.send("post", f"{self.path}/reviews/{row['id']}/withdraw")
        self.assertEqual(self.opened(token).status_code, 410)
        self.assertIn("withdrawn", self.opened(token).json()["detail"])
        answers = [self.opened(f"guess{n}").status_code for n in range(50)]
        self.assertEqual((answers[0], answers[-1]), (404, 429))

    def test_a_password_is_asked_for_and_not_too_often(self) -> None:
        token, _ = self.review(password="a mill by the sea")
        self.assertEqual(
            self.opened(token).json(), {**self.opened(token).json(), "locked": True, "topics": [], "site": ""}
        )
        self.assertEqual(self.say(token, topic="x", kind="accept").status_code, 403)

        def unlock(password: str) -> Any:
            return self.guest.post(
                f"/api/review/{token}/open", json.dumps({"password": password}), "application/json"
            )

        self.assertEqual(unlock("wrong").status_code, 403)
        self.assertFalse(unlock("a mill by the sea").json()["locked"])
        self.assertFalse(self.opened(token).json()["locked"])
        self.assertTrue(self.opened(token, Client()).json()["locked"])
        self.assertEqual([unlock("wrong").status_code for _ in range(9)][-1], 429)
        self.assertEqual(unlock("a mill by the sea").status_code, 429)
        with mock.patch.object(reviewing, "_MOST_ANSWERS", 0):
            topic = self.opened(token).json()["topics"][0]["id"]
            self.assertEqual(self.say(token, topic=topic, kind="accept").status_code, 429)
        self.assertEqual(Answer.objects.count(), 0)

    def test_reports_ledgers_and_what_stands_on_top(self) -> None:
        pdf = self.client.get(f"{self.path}/report.pdf?paper=Letter")
        self.assertEqual((pdf.status_code, pdf["Content-Type"], pdf.content[:5]), (200, "application/pdf", b"%PDF-"))
        self.assertEqual(self.client.get(f"{self.path}/report.pdf?paper=A0").status_code, 422)
        self.assertIn(b"unexplained,", self.client.get(f"{self.path}/ledger.csv").content)

        def hand_in(body: bytes, name: str) -> Any:
            return self.client.post("/api/letterhead/logo", {"logo": SimpleUploadedFile(name, body, "image/png")})

        self.assertTrue(
            hand_in(photo(90, 40, 1, "PNG"), "a.png").json()["logo"].startswith("data:image/webp;base64,")
        )
        for body in (b"<svg xmlns='http://www.w3.org/2000/svg'><script/></svg>", b"x" * 3_000_000):
            self.assertEqual(hand_in(body, "b.svg").status_code, 422)
        kept = json.loads(self.send("put", "/api/letterhead", {"name": "n" * 200, "logo": "javascript:1"}).content)
        self.assertTrue(kept["logo"].startswith("data:image/webp"))
        self.assertEqual(json.loads(self.send("put", "/api/letterhead", {"name": ""}).content)["logo"], "")

    def test_allowances_are_set_judged_and_taken_away(self) -> None:
        limits = [
            {"measure": "bytes", "most": 50_000},
            {"measure": "bytes", "most": 20_000, "kind": "images", "device": "phone"},
            {"measure": "growth", "most": 0},
            {"measure": "bytes", "most": 5, "pages": ["/none*"]},
        ]
        told = json.loads(self.send("put", f"{self.path}/allowance", {"limits": limits}).content)
        self.assertEqual((Site.objects.get().allowance, len(told["limits"])), (50_000, 4))
        rows = {(row["limit"], row["device"]): row for row in told["kept"]}
        images = rows[(1, "phone")]
        self.assertGreater(images["found"], images["now"])
        self.assertTrue(images["culprits"][0]["name"].startswith("/a"))
        self.assertLess(rows[(2, "phone")]["now"], 0)
        self.assertNotIn((3, "phone"), rows)
        for body, status in ((self.client.get(f"{self.path}/allowance/document").content, 200), (b"{", 422)):
            file = SimpleUploadedFile("a.json", body, "application/json")
            taken = self.client.post(f"{self.path}/allowance/document", {"document": file})
            self.assertEqual(taken.status_code, status)
        for wrong in ([limits[0], limits[0] | {"most": 7}], [{"measure": "seconds", "most": 1, "link": "fast"}]):
            self.assertEqual(self.send("put", f"{self.path}/allowance", {"limits": wrong}).status_code, 422)
        self.assertEqual(len(Site.objects.get().limits), 3)

    def test_what_is_put_in_by_hand_and_the_way_back(self) -> None:
        steps = self.get(f"{self.path}/by-hand")["steps"]
        self.assertTrue(steps[0]["files"] and steps[0]["snippets"])
        key = steps[0]["key"]
        ticked = json.loads(self.send("put", f"{self.path}/by-hand/{key}", {"done": True}).content)
        self.assertIsNotNone(ticked["steps"][0]["done"])
        self.assertEqual(self.send("put", f"{self.path}/by-hand/none", {"done": True}).status_code, 404)
        archives = {}
        for name in ("patch", "originals", "lighter"):
            body = b"".join(self.client.get(f"{self.path}/{name}.zip").streaming_content)  # type: ignore[attr-defined]
            archives[name] = zipfile.ZipFile(io.BytesIO(body))
        self.assertIn("changes.diff", archives["patch"].namelist())
        self.assertEqual(archives["originals"].read("index.html"), FILES["index.html"])
        self.visit(archives["lighter"], key)

    def visit(self, lighter: zipfile.ZipFile, key: str) -> None:
        """The live site before and after it was put in."""
        root = self.folder / "live"
        root.mkdir()
        server = ThreadingHTTPServer(("127.0.0.1", 0), partial(SimpleHTTPRequestHandler, directory=str(root)))
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        allowed = allowed_from(f"live.example=127.0.0.1:{server.server_port}")
        for put_in in (False, True):
            for name, body in FILES.items():
                (root / name).write_bytes(body)
            if put_in:
                lighter.extractall(root)
            with override_settings(VISIT_ALLOWED=allowed):
                answer = self.send("post", f"{self.path}/visit-again", {"address": "http://live.example/index.html"})
                self.assertEqual(answer.status_code, 200)
                self.work()
            self.assertIsNone(self.get(f"{self.path}/job"))
            told = self.get(f"{self.path}/by-hand")
            step = next(step for step in told["steps"] if step["key"] == key)
            self.assertEqual((step["there"], bool(step["why_not"])), (put_in, not put_in))
            found, live = (sum(row[side] for row in told["weighed"]) for side in ("found", "live"))
            self.assertEqual(live < found * 0.9, put_in)
        self.assertEqual(self.send("post", f"{self.path}/visit-again", {"address": "ftp://x"}).status_code, 422)
