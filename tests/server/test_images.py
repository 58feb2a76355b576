"""The contact sheet, the loupe and choices for images, through the API."""

from __future__ import annotations

import io
import json
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from PIL import Image

from server.sites.models import Job, Site
from tests.server.cases import STYLE, ServerCase
from tests.sites import page, photo
from unladen.remedies import Delivery, ImageSettings

FILES = {
    "index.html": page(
        '<img src=a.jpg width=300 height=200><img src=b-900x600.jpg width=300 height=200><img data-src="hidden.png">',
        STYLE + "<meta name=viewport content='width=device-width'>",
        "Mill",
    ),
    "a.jpg": photo(1200, 800, 1, grain=4),
    "b-900x600.jpg": photo(900, 600, 2, grain=4),
    "b-300x200.jpg": photo(300, 200, 2, grain=4),
    "hidden.png": photo(60, 40, 3, "PNG"),
    "evil.svg": b'<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>',
    "broken.jpg": b"\xff\xd8 nothing",
}


class Images(ServerCase):
    def take_in(self, weighed: bool = True) -> None:
        if weighed:
            self.prepare_once(self.weigh)
        else:
            self.upload(self.archive(FILES), "mill.zip")
        self.site = Site.objects.get()
        self.path = f"/api/sites/{self.site.pk}"

    def weigh(self) -> None:
        self.upload(self.archive(FILES), "mill.zip")
        self.work()

    def sheet(self) -> dict[str, dict[str, Any]]:
        return {row["path"]: row for row in self.get(f"{self.path}/images")["images"]}

    def plan(self) -> dict[str, dict[str, Any]]:
        return {change["id"]: change for change in self.get(f"{self.path}/plan/document")["changes"]}

    def choose(self, *paths: str, status: int = 200, **choice: Any) -> Any:
        found = self.edit(self.path, {"do": "images", "paths": list(paths), **choice}, status=status)
        if status == 200:
            self.assertEqual(self.send("post", f"{self.path}/images/encode").status_code, 200)
        return found

    def test_the_sheet_the_loupe_and_a_choice(self) -> None:
        self.take_in()
        rows = self.sheet()
        self.assertEqual(set(rows), {"/" + name for name in FILES if not name.endswith("html")})
        a = rows["/a.jpg"]
        self.assertEqual((a["format"], a["width"], a["height"], a["bytes"]), ("JPEG", 1200, 800, len(FILES["a.jpg"])))
        self.assertEqual(a["shown"], {"phone": [300, 200], "desktop": [300, 200]})
        self.assertAlmostEqual(a["per_pixel"], a["bytes"] / 60_000)
        self.assertTrue(a["proposed"]["encoded"])
        self.assertFalse(a["proposed"]["on"])
        self.assertLess(a["proposed"]["bytes"], a["bytes"] / 4)
        self.assertTrue(rows["/hidden.png"]["by_script"])
        self.assertEqual(rows["/b-300x200.jpg"]["family"], "/b-900x600.jpg")
        self.assertIn("<script>", rows["/evil.svg"]["why_not"])
        self.assertTrue(rows["/broken.jpg"]["refused"])
        # Pictures that are served here are of our own making.
        thumb = self.client.get(f"{self.path}/images/thumb?path=/a.jpg")
        self.assertEqual((thumb["Content-Type"], thumb["X-Content-Type-Options"]), ("image/webp", "nosniff"))
        self.assertEqual(Image.open(io.BytesIO(thumb.content)).size, (96, 64))
        for path in ("/broken.jpg", "/evil.svg", "/../secret", "/index.html"):
            self.assertEqual(self.client.get(f"{self.path}/images/thumb?path={path}").status_code, 404, path)
        # Steps of the loupe: fewer bytes and less likeness at a lower quality.
        query = "path=/a.jpg&format=WEBP&width=600&quality="
        fine, coarse = (self.get(f"{self.path}/images/step?{query}{quality}") for quality in (90, 50))
        self.assertLess(coarse["bytes"], fine["bytes"])
        self.assertLess(coarse["likeness"], fine["likeness"])
        version = self.client.get(f"{self.path}/images/version?{query}50")
        self.assertEqual((len(version.content), version["Content-Type"]), (coarse["bytes"], "image/webp"))
        refused = self.client.get(f"{self.path}/images/step?path=/a.jpg&format=WEBP&width=0&quality=900")
        self.assertEqual(refused.status_code, 422)
        self.assertEqual(
            self.client.get(f"{self.path}/images/step?path=/a.jpg&format=EXE&width=0&quality=9").status_code, 422
        )
        # A choice goes into the plan at once; the file is at hand already.
        before = {id: change for id, change in self.plan().items() if "b-900x600" in id}
        self.choose("/a.jpg", format="WEBP", width=600, quality=50)
        self.work()
        change = self.plan()["webp:/a.jpg"]
        self.assertEqual((change["params"]["quality"], change["chosen"], change["on"]), (50, True, True))
        self.assertEqual({id: change for id, change in self.plan().items() if "b-900x600" in id}, before)
        row = self.sheet()["/a.jpg"]["proposed"]
        self.assertEqual((row["encoded"], row["quality"], row["on"]), (True, 50, True))
        self.assertTrue(self.get(f"{self.path}/plan")["differs"])
        # Carried out, it is what is handed over.
        run = self.carry_out(self.path)
        self.assertFalse(self.get(f"{self.path}/plan")["differs"])
        self.assertEqual({row["path"] for row in run["changed"]}, {"/index.html", "/a-600w.webp"})
        self.assertEqual(run["unexplained"], {"bytes": 0, "requests": 0})
        self.assertGreater(sum(saved["bytes"] for saved in run["remedies"].values()), 0)
        changed = self.client.get(f"{self.path}/changed.zip")
        self.assertIn("mill-changed.zip", changed["Content-Disposition"])
        # All sizes of one picture together; left alone means that nothing is proposed.
        self.choose("/b-300x200.jpg", format="leave", family=True)
        self.assertEqual({id for id in self.plan() if "b-900x600" in id and "lazy" not in id}, set())
        self.assertIn("no such image", self.choose("/nothing.jpg", status=422)["detail"])

    def test_settings_propose_anew_and_a_newer_copy_keeps_the_plan(self) -> None:
        self.take_in()
        self.choose("/b-900x600.jpg", format="AVIF", likeness="true")
        self.work()
        wanted = ImageSettings(likeness="fair").as_json() | Delivery(same_names=True).as_json()
        self.assertEqual(self.send("post", f"{self.path}/images/settings", wanted).status_code, 200)
        self.work()
        self.assertEqual({c["remedy"] for c in self.plan().values() if "/a.jpg" in c["targets"]}, {"shrink"})
        self.assertEqual(self.plan()["webp:/b-900x600.jpg"]["params"]["format"], "AVIF")
        self.assertEqual(self.get(f"{self.path}/images")["settings"], wanted)
        bad = self.send("post", f"{self.path}/images/settings", wanted | {"phone_width": 5})
        self.assertEqual(bad.status_code, 422)
        rule = {"folder": "img", "likeness": "true"}
        self.assertEqual(
            self.send("post", f"{self.path}/images/settings", wanted | {"folders": [rule]}).status_code, 422
        )
        self.send("post", f"{self.path}/images/settings", {})
        self.work()
        # A newer copy: one image is new, all others are known. What is done again is another file; reading touches
        # the time.
        encodes = {path.name: path.stat().st_ino for path in (self.folder / "sites").rglob("memo/*.json")}
        newer = self.archive(FILES | {"a.jpg": photo(1200, 800, 7, grain=4)})
        file = SimpleUploadedFile("newer.zip", newer, "application/zip")
        response = self.client.post(f"{self.path}/newer", {"archive": file})
        self.assertEqual(response.status_code, 200, response.content)
        self.work()
        self.assertEqual(self.sheet()["/a.jpg"]["bytes"], len(photo(1200, 800, 7, grain=4)))
        self.assertEqual(self.plan()["webp:/b-900x600.jpg"]["params"]["format"], "AVIF")
        after = {path.name: path.stat().st_ino for path in (self.folder / "sites").rglob("memo/*.json")}
        self.assertEqual({name: after[name] for name in encodes}, encodes)  # nothing was done twice
        self.assertLessEqual(len(after) - len(encodes), 8)
        nonsense = SimpleUploadedFile("x.zip", b"nonsense", "application/zip")
        self.assertEqual(self.client.post(f"{self.path}/newer", {"archive": nonsense}).status_code, 422)
        self.assertFalse(self.site.jobs.filter(state=Job.State.FAILED).exists())

    def test_only_the_owner_sees_them_and_steers(self) -> None:
        self.take_in(weighed=False)
        bob = Client()
        bob.force_login(self.other)
        for path in ("/images", "/images/thumb?path=/a.jpg", "/changed.zip"):
            self.assertEqual(bob.get(self.path + path).status_code, 404, path)
        job = Job.objects.create(site=self.site, kind=Job.Kind.ENCODE, state=Job.State.RUNNING)
        steer = f"/api/jobs/{job.pk}/steer"
        body = json.dumps({"paused": True, "easy": True})
        self.assertEqual(bob.post(steer, body, "application/json").status_code, 404)
        found = json.loads(self.client.post(steer, body, "application/json").content)
        self.assertEqual((found["paused"], found["easy"]), (True, True))
