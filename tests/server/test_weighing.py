"""Weigh-ins under other conditions, their history, walks, rules and visits, through the API."""

from __future__ import annotations

import csv
import http.server
import io
import json
import threading
from typing import Any

from django.db.models.signals import post_save
from django.test import Client, override_settings

from server.sites.models import Job, Site, StoredWeighIn
from tests.server.cases import STYLE, ServerCase
from tests.sites import page, photo
from unladen.capture import read_site
from unladen.replay.upstream import Allowed

FILES = {
    "index.html": page("<img src=a.jpg width=300 height=200><script src=a.js></script>", STYLE, "Mill"),
    "two.html": page("two"),
    "a.jpg": photo(600, 400),
    "a.js": b"function used() { return 1 } function unused() { return " + b"'x'," * 900 + b"1 } used();",
}
MORE = {"devices": ["tablet"], "visit": "repeat", "link": "10 Mbit/s, 40 ms", "runs": 1, "pages": ["/index.html"]}


class FirstFigures(ServerCase):
    def test_a_page_of_a_new_site_shows_as_soon_as_it_is_weighed(self) -> None:
        self.upload(self.archive(FILES), "mill.zip")
        site = Site.objects.get()
        path = f"/api/sites/{site.pk}"
        seen: list[tuple[Any, ...]] = []

        def look(created: bool, **_: Any) -> None:
            if created and not seen:
                found = self.get(f"{path}/weigh-ins")["found"]
                itself = self.get(path)
                seen.append((itself["taken"], itself["pages"], len(found), found[0]["transferred"] > 0))

        # An attempt that came to nothing leaves no figures behind.
        stray = {"side": "found", "page": "/stray.html", "device": "phone", "conditions": "x"}
        StoredWeighIn.objects.create(site=site, summary={}, record={}, **stray)
        post_save.connect(look, StoredWeighIn)
        self.addCleanup(post_save.disconnect, look, StoredWeighIn)
        self.work()
        ((taken, pages, count, weighs),) = seen
        self.assertEqual((taken, len(pages), count, weighs), (None, 1, 1, True))
        after = self.get(path)
        self.assertEqual((after["pages"], site.weigh_ins.count()), (["/index.html", "/two.html"], 4))
        self.assertTrue(all(row.pinned for row in site.weigh_ins.all()))


class Weighing(ServerCase):
    def setUp(self) -> None:
        super().setUp()
        self.prepare_once(self.weigh)
        self.site = Site.objects.get()
        self.path = f"/api/sites/{self.site.pk}"

    def weigh(self) -> None:
        self.upload(self.archive(FILES), "mill.zip")
        self.work()

    def history(self, page: str = "/index.html") -> list[dict[str, Any]]:
        return self.get(f"{self.path}/history?page={page}")  # type: ignore[no-any-return]

    def refused(self, status: int, words: str, method: str, path: str, body: Any = None) -> None:
        response = self.send(method, self.path + path, body)
        self.assertEqual(response.status_code, status, response.content)
        self.assertIn(words, json.loads(response.content)["detail"])

    def test_the_first_weigh_ins_are_pinned_by_themselves(self) -> None:
        rows = self.history()
        self.assertEqual({(row["device"], row["pinned"], row["held"], row["name"]) for row in rows}, {
            ("phone", True, True, "As found"), ("desktop", True, True, "As found"),
        })  # fmt: skip
        self.assertEqual(len(self.bench(self.path)["weigh_ins"]), 4)
        key = rows[0]["id"]
        self.refused(409, "uses this weigh-in", "patch", f"/weigh-ins/{key}", {"pinned": False})
        self.refused(409, "cannot be deleted", "delete", f"/weigh-ins/{key}")

    def test_further_conditions_stand_beside_the_baseline(self) -> None:
        self.assertEqual(self.send("post", self.path + "/weigh-ins", MORE).status_code, 200)
        self.work()
        (row,) = [row for row in self.history() if row["device"] == "tablet"]
        self.assertEqual((row["visit"], row["link"], row["runs"], row["pinned"]), ("repeat", MORE["link"], 1, False))
        first = next(row for row in self.history() if row["device"] == "phone")
        self.assertLess(row["transferred"], first["transferred"] / 20)
        detail = self.get(f"{self.path}/weigh-ins/{row['id']}")
        self.assertEqual([r["cached"] for r in detail["requests"]], [False, True, True])
        # Two under different conditions are marked on their face.
        found = self.get(f"{self.path}/compare?before={first['id']}&after={row['id']}")
        self.assertIn("visit: first and repeat", found["marks"])
        self.assertEqual(found["difference"]["transferred"], row["transferred"] - first["transferred"])
        self.assertEqual(self.get(f"{self.path}/compare?before={first['id']}&after={first['id']}")["marks"], [])
        # It may be named, pinned, let go and deleted.
        path = f"{self.path}/weigh-ins/{row['id']}"
        self.send("patch", path, {"name": "  on the train ", "pinned": True})
        self.assertEqual(next(r["name"] for r in self.history() if r["id"] == row["id"]), "on the train")
        self.refused(409, "cannot be deleted", "delete", f"/weigh-ins/{row['id']}")
        self.send("patch", path, {"pinned": False})
        self.assertEqual(self.send("delete", path).status_code, 204)
        self.assertNotIn(row["id"], [r["id"] for r in self.history()])

    def test_a_pinned_one_takes_the_place_in_the_baseline(self) -> None:
        old = next(row for row in self.history() if row["device"] == "phone")
        again = {"devices": ["phone"], "pages": ["/index.html"], "runs": 1}
        self.send("post", self.path + "/weigh-ins", again)
        self.work()
        new = next(row for row in self.history() if row["device"] == "phone" and row["id"] != old["id"])
        self.assertIn(old["id"], [w["id"] for w in self.bench(self.path)["weigh_ins"]])
        self.send("patch", f"{self.path}/weigh-ins/{new['id']}", {"pinned": True})
        self.assertIn(new["id"], [w["id"] for w in self.bench(self.path)["weigh_ins"] if w["held"]])
        self.assertEqual(len(self.bench(self.path)["pages"]), 2)

    def test_conditions_that_cannot_be(self) -> None:
        for change, words in (
            ({"devices": ["fridge"]}, "fridge"),
            ({"link": "fast"}, "fast"),
            ({"runs": 99}, "runs"),
            ({"pages": ["/none.html"]}, "/none.html"),
            ({"devices": []}, "devices"),
        ):
            self.refused(422, words, "post", "/weigh-ins", MORE | change)
        self.assertEqual(Job.objects.filter(state="waiting").count(), 0)

    def test_requests_with_chain_headers_and_open_formats(self) -> None:
        row = next(r for r in self.history() if r["device"] == "desktop")
        path = f"{self.path}/weigh-ins/{row['id']}"
        detail = self.get(path)
        self.assertEqual(sum(r["transferred"] for r in detail["requests"]), row["transferred"])
        self.assertEqual(sum(b["transferred"] for b in detail["brought"]), row["transferred"])
        image = next(i for i, r in enumerate(detail["requests"]) if r["url"].endswith("a.jpg"))
        self.assertEqual(detail["requests"][image]["chain"], [0, image])
        headers = self.get(f"{path}/requests/{image}")
        self.assertIn(["content-type", "image/jpeg"], headers["response"])
        self.assertIn(".localhost:", headers["preview"])
        self.assertEqual(self.client.get(f"{path}/requests/99").status_code, 404)
        har = self.folder / "out.har"
        har.write_bytes(self.client.get(f"{path}/weigh-in.har").content)
        self.assertEqual(len(read_site(har, self._store()).exchanges), len(detail["requests"]))
        text = self.client.get(f"{path}/requests.csv").content.decode()
        self.assertEqual(sum(int(r["transferred"]) for r in csv.DictReader(io.StringIO(text))), row["transferred"])

    def _store(self) -> Any:
        from unladen.capture import BodyStore

        return BodyStore(self.folder / "again")

    def test_a_walk_gives_the_use_map_and_excess(self) -> None:
        self.assertEqual(self.get(self.path + "/use")["walks"], [])
        orders = {"page": "/index.html", "own": [{"action": "click", "selector": "#none"}], "off": []}
        self.assertEqual(self.send("put", self.path + "/walk", orders).status_code, 200)
        self.refused(422, "selector", "put", "/walk", orders | {"own": [{"action": "click"}]})
        self.send("post", self.path + "/walk", {"pages": ["/index.html"]})
        self.work()
        found = self.get(self.path + "/use")
        (file,) = found["files"]
        self.assertTrue(0 < file["used"] < file["size"] == len(FILES["a.js"]))
        self.assertEqual(list(file["pages"]), ["/index.html"])
        steps = [step for walk in found["walks"] for step in walk["steps"] if step["own"]]
        self.assertEqual({step["outcome"] for step in steps}, {"there is no such element"})
        text = self.get(f"{self.path}/use/text?url={file['url']}")
        used = "".join(text["text"][a:b] for a, b in text["spans"])
        self.assertIn("return 1", used)
        self.assertNotIn("'x','x'", used)
        self.assertEqual(self.client.get(f"{self.path}/use/text?url=https://x.example/").status_code, 404)
        self.assertEqual(self.bench(self.path)["walked"], 2)

    def test_what_a_walk_found_outlives_other_work_and_the_plan_outlives_a_walk(self) -> None:
        # Long, and no packing makes it short.
        never = "".join(f"{number * 7919 % 99991:x}" for number in range(1800)).encode()
        script = b"function used() { return 1 }\nfunction unused() {\n  return '" + never + b"'\n}\nused();\n"
        self.upload(self.archive(FILES | {"a.js": script}), "other.zip")
        self.work()
        self.path = f"/api/sites/{Site.objects.latest('created').pk}"

        def unused() -> list[str]:
            return [row["id"] for row in self.get(self.path + "/findings")["excess"] if row["excess"] == "unused"]

        wanted = self.get(self.path + "/plan")["changes"][0]["id"]
        self.edit(self.path, {"do": "switch", "ids": [wanted], "on": True}, {"do": "keep", "files": ["/x.png"]})
        self.send("post", self.path + "/walk", {"pages": ["/index.html"]})
        self.work()
        self.assertTrue(unused())
        plan = self.get(self.path + "/plan")
        self.assertEqual([c["id"] for c in plan["changes"] if c["on"]], [wanted])
        self.assertEqual(plan["keep"]["files"], ["/x.png"])
        found = unused()
        # Carrying an effort out weighs nothing of that anew, and loses nothing of it.
        self.send("post", self.path + "/lighten", {"effort": "gentle"})
        self.work()
        self.assertEqual(unused(), found)
        self.assertEqual(self.get(self.path + "/plan")["keep"]["files"], ["/x.png"])

    def test_whose_a_host_is(self) -> None:
        rules = [{"pattern": "site.example/a.js", "kind": "third party", "name": "the agency"}]
        self.assertEqual(self.send("put", self.path + "/rules", {"rules": rules}).status_code, 200)
        self.work()
        row = self.history()[0]
        brought = self.get(f"{self.path}/weigh-ins/{row['id']}")["brought"]
        self.assertIn("the agency", [entry["name"] for entry in brought])
        self.refused(422, "is not a pattern", "put", "/rules", {"rules": [{"pattern": "http://x", "kind": "site"}]})

    def test_another_users_site_does_not_exist(self) -> None:
        other = Client()
        other.force_login(self.other)
        row = StoredWeighIn.objects.first()
        assert row is not None
        for path in (
            "/use",
            "/history?page=/index.html",
            "/weigh-ins",
            f"/weigh-ins/{row.pk}",
            f"/weigh-ins/{row.pk}/weigh-in.har",
        ):
            self.assertEqual(other.get(self.path + path).status_code, 404, path)
        self.assertEqual(other.post(self.path + "/walk", "{}", "application/json").status_code, 404)

    def test_a_deleted_site_takes_its_weigh_ins_with_it(self) -> None:
        self.client.delete(self.path)
        self.assertEqual(StoredWeighIn.objects.count(), 0)


class Visiting(ServerCase):
    def visit(self, address: str, allowed: Allowed) -> Job:
        with override_settings(VISIT_ALLOWED=allowed):
            response = self.send("post", "/api/sites/visit", {"address": address, "depth": 0, "pages": 1})
            self.assertEqual(response.status_code, 200, response.content)
            self.work()
        return Job.objects.latest("created")

    def test_a_live_site_becomes_a_site_that_is_weighed(self) -> None:
        class Handler(http.server.SimpleHTTPRequestHandler):
            def do_GET(self) -> None:
                self.send_response(200)
                self.send_header("Content-Type", "text/html")
                self.end_headers()
                self.wfile.write(FILES["index.html"])

            def log_message(self, *_: object) -> None:
                pass

        server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Handler)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        job = self.visit("http://mill.example/", Allowed({"mill.example": ("127.0.0.1", server.server_address[1])}))
        self.assertEqual((job.kind, job.state, job.error), ("record", "done", ""))
        bench = self.bench(f"/api/sites/{Site.objects.get().pk}")
        self.assertEqual((bench["name"], bench["pages"]), ("Mill", ["/"]))
        self.assertTrue(all(w["held"] for w in bench["weigh_ins"]))

    def test_a_refused_address_says_why_and_leaves_no_half_site(self) -> None:
        job = self.visit("http://localhost/", Allowed())
        self.assertEqual((job.state, "private or local address" in job.error), ("failed", True))
        self.assertEqual(self.get(f"/api/sites/{Site.objects.get().pk}")["files"], 0)
        response = self.send("post", "/api/sites/visit", {"address": "ftp://a.example/"})
        self.assertEqual(response.status_code, 422)
        self.assertIn("use http or https", json.loads(response.content)["detail"])

    def test_a_recording_is_taken_in_like_an_archive(self) -> None:
        entry = {
            "request": {"method": "GET", "url": "https://mill.example/"},
            "response": {
                "status": 200,
                "headers": [],
                "content": {"mimeType": "text/html", "text": FILES["index.html"].decode()},
            },
        }
        har = json.dumps({"log": {"version": "1.2", "entries": [entry]}}).encode()
        self.assertEqual(self.upload(har, "mill.har").status_code, 200)
        self.work()
        self.assertEqual(self.get("/api/sites")[0]["pages"], 1)
        self.upload(har[:-9], "cut.har")
        self.work()
        told = self.get("/api/sites")[0]["job"]
        self.assertEqual(told["state"], "failed")
        self.assertIn("cut.har: is not a HAR file: it is not a JSON document or is truncated", told["error"])
