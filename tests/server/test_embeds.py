"""What stands in for an embed, chosen through the API."""

from __future__ import annotations

import json
from typing import Any
from urllib.parse import urlencode
from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile

from demo.services import filler
from server.sites.models import Site
from tests.server.cases import ServerCase
from tests.sites import page, photo
from unladen.capture.recorded import Response
from unladen.capture.warc import write_warc

HOST, REEL = "https://site.example/", "https://reel.example/1"
FRAME = f'<iframe src="{REEL}" title="Film of the mill" width=300 height=200></iframe>'
ID = f"embed:{REEL}"
SWITCH = {"do": "switch", "ids": [ID], "on": True}


def answer(url: str, body: bytes, media_type: str = "text/html") -> Response:
    return Response(url, 200, (("content-type", media_type),), body)


class Embeds(ServerCase):
    def setUp(self) -> None:
        super().setUp()
        self.prepare_once(self.weigh)
        self.site = Site.objects.get()
        self.path = f"/api/sites/{self.site.pk}"

    def weigh(self) -> None:
        poster = "<meta property='og:image' content='/poster.jpg'><script src=/1.js></script>"
        target = self.folder / "site.warc"
        write_warc(
            [
                answer(HOST, page(FRAME, "<meta name=viewport content='width=device-width'>")),
                answer(REEL, page("<button>Play</button>", poster)),
                answer("https://reel.example/1.js", filler("reel", 40_000, 1).encode(), "text/javascript"),
                answer("https://reel.example/poster.jpg", photo(320, 180), "image/jpeg"),
            ],
            target,
        )
        self.upload(target.read_bytes(), "site.warc")
        self.work()

    def embed(self) -> dict[str, Any]:
        (change,) = (c for c in self.get(f"{self.path}/plan")["changes"] if c["id"] == ID)
        return dict(change)

    def choose(self, **choice: Any) -> tuple[int, Any]:
        command = {"do": "embed", "id": ID, "way": "still"} | choice
        version = self.get(f"{self.path}/plan")["version"]
        response = self.send("post", f"{self.path}/plan/commands", {"version": version, "commands": [command]})
        return response.status_code, json.loads(response.content)

    def hand_in(self, data: bytes, name: str = "mine.png") -> tuple[int, Any]:
        file = SimpleUploadedFile(name, data, "image/png")
        version = self.get(f"{self.path}/plan")["version"]
        response = self.client.post(f"{self.path}/plan/picture", {"picture": file, "id": ID, "version": version})
        return response.status_code, json.loads(response.content)

    def test_a_still_a_picture_of_ones_own_and_back(self) -> None:
        self.assertEqual(self.embed()["embed"]["pictures"], ["seen", "poster"])
        self.assertFalse(self.embed()["on"])
        self.assertEqual(self.choose(title="The wheel", start="autoplay=1")[0], 200)
        change = self.embed()
        self.assertEqual((change["on"], change["embed"]["title"]), (True, "The wheel"))
        run = self.carry_out(self.path)
        (outcome,) = (o for o in run["outcomes"] if o["change"] == ID)
        self.assertEqual(outcome["standing"], "passed")
        self.assertGreater(outcome["saved"]["requests"], 1)
        self.assertEqual(run["unexplained"], {"bytes": 0, "requests": 0})
        seen = self.client.get(f"{self.path}/plan/picture?{urlencode({'id': ID, 'which': 'seen'})}")
        self.assertEqual((seen["Content-Type"], seen.content[8:12]), ("image/webp", b"WEBP"))
        self.assertEqual(self.hand_in(photo(600, 400, 7, "PNG"))[0], 200)
        self.carry_out(self.path)
        self.assertEqual(self.embed()["embed"]["picture"], "own")
        self.assertEqual(self.choose(way="leave")[0], 200)
        self.assertFalse(self.embed()["on"])
        self.assertEqual(self.carry_out(self.path)["changed"], [])

    def test_bad_input_is_refused_with_the_reason(self) -> None:
        for choice, word in (
            ({"id": "embed:nothing"}, "no embed"),
            ({"picture": "own"}, "no such picture"),
            ({"start": 'a=1"><script>'}, "characters"),
        ):
            status, body = self.choose(**choice)
            self.assertEqual((status, word in body["detail"]), (422, True), body)
        self.assertEqual(self.choose(way="explode")[0], 422)
        for data, word in (
            (b"", "empty"),
            (b"no picture", "not a readable image"),
            (photo(90, 60)[:300], "mine.png"),
        ):
            status, body = self.hand_in(data)
            self.assertEqual((status, word in body["detail"]), (422, True), body)
        self.assertFalse(self.embed()["on"])
        for query in ({"id": ID, "which": "own"}, {"id": "x", "which": "seen"}):
            self.assertEqual(self.client.get(f"{self.path}/plan/picture?{urlencode(query)}").status_code, 404)
        self.client.force_login(self.other)
        response = self.send("post", f"{self.path}/plan/commands", {"version": str(uuid4()), "commands": [SWITCH]})
        self.assertEqual(response.status_code, 404)
        form = {"picture": SimpleUploadedFile("a.png", photo(60, 40)), "id": ID, "version": str(uuid4())}
        self.assertEqual(self.client.post(f"{self.path}/plan/picture", form).status_code, 404)

    def test_a_plan_that_names_a_file_outside_reads_nothing(self) -> None:
        plan = self.get(f"{self.path}/plan/document")
        version = self.get(f"{self.path}/plan")["version"]

        def taken(digest: str) -> Any:
            for change in plan["changes"]:
                change["on"] = change["id"] == ID
                if change["id"] == ID:
                    change["params"]["pictures"][0]["digest"] = digest
            file = SimpleUploadedFile("plan.json", json.dumps(plan).encode(), "application/json")
            return self.client.post(f"{self.path}/plan/document", {"document": file, "version": version})

        refused = taken("../../../../etc/passwd")
        self.assertEqual(refused.status_code, 422)
        self.assertIn(f"plan.json: in the change “{ID}” pictures.0.digest", refused.json()["detail"])
        self.assertEqual(taken("0" * 64).status_code, 200)
        notices = {notice["reason"] for notice in self.carry_out(self.path)["notices"]}
        self.assertIn("has a missing picture, so its placeholder is plain", notices)
