"""What stands in for an embed, chosen through the API."""

from __future__ import annotations

import json
from typing import Any
from urllib.parse import urlencode

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


def answer(url: str, body: bytes, media_type: str = "text/html") -> Response:
    return Response(url, 200, (("content-type", media_type),), body)


class Embeds(ServerCase):
    def setUp(self) -> None:
        super().setUp()
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
        self.site = Site.objects.get()
        self.path = f"/api/sites/{self.site.pk}"

    def embed(self) -> dict[str, Any]:
        (change,) = (c for c in self.get(self.path)["changes"] if c["id"] == ID)
        return dict(change)

    def choose(self, **choice: Any) -> tuple[int, Any]:
        response = self.send("post", f"{self.path}/embeds/choose", {"id": ID, "way": "still"} | choice)
        return response.status_code, json.loads(response.content)

    def hand_in(self, data: bytes, name: str = "mine.png") -> tuple[int, Any]:
        file = SimpleUploadedFile(name, data, "image/png")
        response = self.client.post(f"{self.path}/embeds/picture", {"picture": file, "id": ID})
        return response.status_code, json.loads(response.content)

    def test_a_still_a_picture_of_ones_own_and_back(self) -> None:
        self.assertEqual(self.embed()["embed"]["pictures"], ["seen", "poster"])
        self.assertFalse(self.embed()["on"])
        status, job = self.choose(title="The wheel", start="autoplay=1")
        self.assertEqual((status, job["state"]), (200, "waiting"))
        self.work()
        change = self.embed()
        self.assertEqual((change["on"], change["set_aside"], change["embed"]["title"]), (True, "", "The wheel"))
        self.assertGreater(change["saved"]["requests"], 1)
        bench = self.get(self.path)
        self.assertEqual(bench["result"]["unexplained"], {"bytes": 0, "requests": 0})
        seen = self.client.get(f"{self.path}/embeds/picture?{urlencode({'id': ID, 'which': 'seen'})}")
        self.assertEqual((seen["Content-Type"], seen.content[8:12]), ("image/webp", b"WEBP"))
        self.assertEqual(self.hand_in(photo(600, 400, 7, "PNG"))[0], 200)
        self.work()
        self.assertEqual(self.embed()["embed"]["picture"], "own")
        self.assertEqual(self.choose(way="leave")[0], 200)
        self.work()
        self.assertFalse(self.embed()["on"])
        self.assertEqual(self.get(self.path)["result"]["changed"], [])

    def test_bad_input_is_refused_with_the_reason(self) -> None:
        for choice, word in (
            ({"id": "embed:nothing"}, "no embed"),
            ({"picture": "own"}, "no such picture"),
            ({"start": 'a=1"><script>'}, "name=value"),
        ):
            status, body = self.choose(**choice)
            self.assertEqual((status, word in body["detail"]), (422, True), body)
        self.assertEqual(self.choose(way="explode")[0], 422)
        for data, word in ((b"", "empty"), (b"no picture", "no image"), (photo(90, 60)[:300], "mine.png")):
            status, body = self.hand_in(data)
            self.assertEqual((status, word in body["detail"]), (422, True), body)
        self.assertFalse(self.embed()["on"])
        for query in ({"id": ID, "which": "own"}, {"id": "x", "which": "seen"}):
            self.assertEqual(self.client.get(f"{self.path}/embeds/picture?{urlencode(query)}").status_code, 404)
        self.client.force_login(self.other)
        self.assertEqual(self.choose()[0], 404)
        self.assertEqual(self.hand_in(photo(60, 40))[0], 404)

    def test_a_plan_that_names_a_file_outside_reads_nothing(self) -> None:
        plan = self.get(f"{self.path}/plan")
        for change in plan["changes"]:
            change["on"] = change["id"] == ID
            if change["id"] == ID:
                change["params"]["pictures"][0]["digest"] = "../../../../etc/passwd"
        file = SimpleUploadedFile("plan.json", json.dumps(plan).encode(), "application/json")
        self.assertEqual(self.client.post(f"{self.path}/plan", {"document": file}).status_code, 200)
        self.work()
        notices = {notice["reason"] for notice in self.get(self.path)["result"]["notices"]}
        self.assertIn("has a picture that is not here, so its still is plain", notices)
