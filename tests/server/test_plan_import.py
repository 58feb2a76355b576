"""Other plans beside the plan, from files and of older versions; presets; the report of a newer copy."""

from __future__ import annotations

import json
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile

from server.sites.models import StoredPreset
from tests.server.cases import FILES, ServerCase
from tests.server.test_plans import PlanCase
from tests.sites import page, photo


class OtherPlans(PlanCase):
    def document(self, edit: Any = lambda data: None) -> bytes:
        """The plan as it would be saved, edited by hand."""
        data = json.loads(self.client.get(f"{self.path}/plan/document").content)
        edit(data)
        return json.dumps(data).encode()

    def send_file(self, to: str, data: bytes, status: int = 200, **fields: str) -> Any:
        file = SimpleUploadedFile("theirs.json", data, "application/json")
        response = self.client.post(f"{self.path}/plan/{to}", {"document": file, **fields})
        self.assertEqual(response.status_code, status, response.content)
        return response.json()

    def theirs(self, data: dict[str, Any]) -> None:
        data["effort"] = "bold"
        data["changes"][0]["on"] = False
        data["changes"][1]["targets"] = ["/a.jpg", "/gone.jpg"]

    def test_a_file_is_looked_at_before_anything_is_changed(self) -> None:
        before = self.get(f"{self.path}/plan")
        found = self.send_file("look", self.document(self.theirs))
        self.assertEqual((found["fits"], found["gone"]), (0, []))
        self.assertEqual([(p["id"], p["lost"]) for p in found["partly"]], [("exact:/a.jpg", ["/gone.jpg"])])
        rows = {row["key"]: (row["here"], row["there"], row["conflict"]) for row in found["apart"]}
        self.assertEqual(rows["effort"], ("steady", "bold", True))
        self.assertEqual(rows["change:webp:/a.jpg"], ("on", "off", True))
        self.assertEqual(rows["change:exact:/a.jpg"], ("on, for /a.jpg", "on, for 2 files", True))
        self.assertEqual(self.get(f"{self.path}/plan"), before)

    def test_of_a_file_some_places_are_taken_and_that_can_be_undone(self) -> None:
        version = self.get(f"{self.path}/plan")["version"]
        take = json.dumps(["change:webp:/a.jpg"])
        self.send_file("document", self.document(self.theirs), version=version, take=take)
        self.assertEqual(self.wanted(), {"webp:/a.jpg": False, "exact:/a.jpg": True})
        self.assertEqual(self.get(f"{self.path}/plan")["effort"], "steady")
        self.go(version)
        self.assertEqual(self.wanted()["webp:/a.jpg"], True)

    def test_nonsense_is_refused_naming_the_file(self) -> None:
        version = self.get(f"{self.path}/plan")["version"]
        for data in (b"", b"{", b"[" * 100_000, b"\xff\xfe", b'{"format": "unladen/plan/9"}'):
            self.assertIn("theirs.json", self.send_file("look", data, 422)["detail"])
        for take in ("{", '"x"', "[1]", "[" * 100_000):
            self.send_file("document", self.document(), 422, version=version, take=take)

    def test_versions_side_by_side_and_what_is_taken_of_one(self) -> None:
        first = self.get(f"{self.path}/plan")["version"]
        self.edit(self.path, self.switch("webp:/a.jpg", False), self.switch("exact:/a.jpg", False))
        found = self.get(f"{self.path}/plan/versions/{first}/beside")
        self.assertEqual([row["there"] for row in found["apart"]], ["on", "on"])
        body = {
            "version": self.get(f"{self.path}/plan")["version"], "other": first, "take": ["change:exact:/a.jpg"],
        }  # fmt: skip
        self.assertEqual(self.send("post", f"{self.path}/plan/merge", body).status_code, 200)
        self.assertEqual(self.wanted(), {"webp:/a.jpg": False, "exact:/a.jpg": True})
        # What was said of an older state of the plan is refused.
        self.assertEqual(self.send("post", f"{self.path}/plan/merge", body).status_code, 409)
        self.client.force_login(self.other)
        self.assertEqual(self.client.get(f"{self.path}/plan/versions/{first}/beside").status_code, 404)


class OwnPresets(PlanCase):
    def keep(self, name: str, status: int = 200) -> Any:
        response = self.send("post", f"{self.path}/plan/preset", {"name": name})
        self.assertEqual(response.status_code, status, response.content)
        return json.loads(response.content)

    def test_kept_replaced_by_name_tried_on_another_site_and_forgotten(self) -> None:
        self.edit(self.path, self.switch("exact:/a.jpg", False))
        (preset,) = self.keep(" Ours ")
        self.assertEqual((preset["name"], preset["effort"], preset["without"]), ("Ours", "steady", ["exact"]))
        self.edit(self.path, self.switch("exact:/a.jpg", True))
        (again,) = self.keep("Ours")
        self.assertEqual((again["id"], again["without"]), (preset["id"], []))
        self.keep("  ", 422)
        self.assertEqual(self.get("/api/presets"), [again])
        self.assertEqual(self.client.delete(f"/api/presets/{again['id']}").json(), [])

    def test_nobody_else_sees_or_uses_it(self) -> None:
        (preset,) = self.keep("Ours")
        body = {"effort": "steady", "preset": preset["id"]}
        self.client.force_login(self.other)
        self.assertEqual(self.get("/api/presets"), [])
        self.assertEqual(self.client.delete(f"/api/presets/{preset['id']}").status_code, 404)
        theirs = f"/api/sites/{self.new_site().pk}"
        self.work()
        self.assertEqual(self.send("post", f"{theirs}/lighten", body).status_code, 404)
        self.assertEqual(StoredPreset.objects.count(), 1)


class TryingPresets(ServerCase):
    def test_a_preset_goes_without_what_its_plan_went_without(self) -> None:
        body = (
            "<img src=a.jpg width=600 height=400><div style='height:4000px'></div><img src=b.jpg width=300 "
            "height=200>"
        )
        files = FILES | {"index.html": page(body), "b.jpg": photo(900, 600, 2)}
        path = f"/api/sites/{json.loads(self.upload(self.archive(files)).content)['id']}"
        self.work()
        changes = self.get(f"{path}/plan")["changes"]
        remedies = {change["remedy"] for change in changes}
        self.assertGreater(len(remedies), 1)
        only = changes[0]["remedy"]
        ids = [change["id"] for change in changes if change["remedy"] == only]
        self.edit(path, {"do": "switch", "ids": ids, "on": True})
        (preset,) = json.loads(self.send("post", f"{path}/plan/preset", {"name": "One thing"}).content)
        self.assertEqual(set(preset["without"]), remedies - {only})
        self.send("post", f"{path}/lighten", {"effort": "steady", "preset": preset["id"]})
        self.work()
        wanted = {change["remedy"] for change in self.get(f"{path}/plan")["changes"] if change["on"]}
        self.assertEqual(wanted, {only})
        self.assertIsNotNone(self.get(f"{path}/run"))


class NewerCopies(ServerCase):
    def test_what_was_wanted_and_is_not_there_any_more_is_told(self) -> None:
        both = "<img src=a.jpg width=600 height=400><img src=b.jpg width=300 height=200>"
        files = FILES | {"index.html": page(both), "b.jpg": photo(900, 600, 2)}
        path = f"/api/sites/{json.loads(self.upload(self.archive(files)).content)['id']}"
        self.work()
        ids = [change["id"] for change in self.get(f"{path}/plan")["changes"]]
        self.edit(path, {"do": "switch", "ids": ids, "on": True})
        newer = SimpleUploadedFile("newer.zip", self.archive(), "application/zip")
        self.assertEqual(self.client.post(f"{path}/newer", {"archive": newer}).status_code, 200)
        self.work()
        told = {notice["name"]: notice["reason"] for notice in self.get(path)["notices"]}
        self.assertIn("the newer copy does not have it", told["/b.jpg"])
        self.assertNotIn("/a.jpg", told)
