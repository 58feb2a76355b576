"""Versions of the plan, edits from two sides, runs and their history, and what of it is sent."""

from __future__ import annotations

import json
import threading
import time
from typing import Any, ClassVar
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.test import Client
from django.test.utils import CaptureQueriesContext

from server.api.schemas.findings import Findings
from server.api.schemas.plans import PlanEdited, PlanOut
from server.previews.labels import preview_address
from server.previews.wsgi import respond
from server.sites import plans, storage
from server.sites.documents import Archive, Evidence, Weighed
from server.sites.jobs import run_job
from server.sites.models import Job, PlanVersion, Run, Site, StoredWeighIn
from tests.plans import change
from tests.server.cases import FILES, ServerCase
from tests.sites import page
from unladen.plan import Plan, Switch


class PlanCase(ServerCase):
    """A site with a plan of two changes, not weighed."""

    IDS: ClassVar[tuple[str, ...]] = ("webp:/a.jpg", "exact:/a.jpg")

    def setUp(self) -> None:
        super().setUp()
        self.site = self.read_site()
        Job.objects.all().delete()
        changes = tuple(change(id, id.partition(":")[0], ("/a.jpg",), ("/index.html",)) for id in self.IDS)
        plans.begin(self.site, Plan("steady", changes))
        self.path = f"/api/sites/{self.site.pk}"

    def switch(self, id: str, on: bool) -> dict[str, Any]:
        return {"do": "switch", "ids": [id], "on": on}

    def wanted(self) -> dict[str, bool]:
        return {c["id"]: c["on"] for c in self.get(f"{self.path}/plan")["changes"]}

    def go(self, to: str) -> Any:
        body = {"version": self.get(f"{self.path}/plan")["version"], "to": to}
        return json.loads(self.send("post", f"{self.path}/plan/go", body).content)


class Editing(PlanCase):
    def test_an_edit_that_comes_too_late_is_refused_and_changes_nothing(self) -> None:
        version = self.get(f"{self.path}/plan")["version"]
        first, second = (
            {"version": version, "commands": [self.switch(id, False)]} for id in self.IDS
        )  # two windows that show the same plan
        self.assertEqual(self.send("post", f"{self.path}/plan/commands", first).status_code, 200)
        late = self.send("post", f"{self.path}/plan/commands", second)
        self.assertEqual(late.status_code, 409)
        self.assertIn("changed in another window", late.content.decode())
        self.assertEqual(self.wanted(), {self.IDS[0]: False, self.IDS[1]: True})
        # Loaded and said again, it is taken.
        self.edit(self.path, self.switch(self.IDS[1], False))
        self.assertEqual(self.wanted(), dict.fromkeys(self.IDS, False))

    def test_edits_at_the_same_time_are_one_after_the_other(self) -> None:
        version = self.get(f"{self.path}/plan")["version"]
        codes: list[int] = []

        def edit(id: str) -> None:
            client = Client()
            client.force_login(self.user)
            body = json.dumps({"version": version, "commands": [self.switch(id, False)]})
            codes.append(client.post(f"{self.path}/plan/commands", body, "application/json").status_code)
            connection.close()

        threads = [threading.Thread(target=edit, args=(id,)) for id in self.IDS]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sorted(codes), [200, 409])
        self.assertEqual(sum(self.wanted().values()), 1)

    def test_all_of_an_edit_or_nothing(self) -> None:
        answer = self.edit(
            self.path, self.switch(self.IDS[0], False), self.switch("webp:/unknown.jpg", True), status=422
        )
        self.assertIn("webp:/unknown.jpg", answer["detail"])
        self.assertEqual(self.wanted(), dict.fromkeys(self.IDS, True))
        self.assertEqual(PlanVersion.objects.count(), 1)

    def test_an_edit_that_makes_no_difference_makes_no_version(self) -> None:
        self.edit(self.path, self.switch(self.IDS[0], True))
        self.assertEqual(PlanVersion.objects.count(), 1)

    def test_edits_start_no_work(self) -> None:
        self.edit(self.path, self.switch(self.IDS[0], False))
        self.assertFalse(Job.objects.exists())

    def test_what_an_edit_answers_makes_of_the_old_plan_the_new_one(self) -> None:
        before = self.get(f"{self.path}/plan")
        edited = self.edit(self.path, self.switch(self.IDS[1], False), {"do": "keep", "files": ["/logo.png"]})
        now = self.get(f"{self.path}/plan")
        PlanEdited.model_validate(edited)
        PlanOut.model_validate(now)
        self.assertEqual([c["id"] for c in edited["changes"]], [self.IDS[1]])
        self.assertIsNone(edited["order"])
        known = {c["id"]: c for c in [*before["changes"], *edited["changes"]]}
        rest = {name: value for name, value in edited.items() if name not in ("order", "changes")}
        self.assertEqual(rest | {"changes": [known[c["id"]] for c in before["changes"]]}, now)

    def test_a_plan_from_a_file_tells_the_new_order(self) -> None:
        document = {"format": "unladen/plan/2", "effort": "bold", "changes": []}
        file = SimpleUploadedFile("plan.json", json.dumps(document).encode())
        version = self.get(f"{self.path}/plan")["version"]
        answer = self.client.post(f"{self.path}/plan/document", {"document": file, "version": version}).json()
        self.assertEqual((answer["effort"], answer["order"], answer["changes"]), ("bold", [], []))


class Versions(PlanCase):
    def test_undo_redo_and_any_version_are_a_matter_of_pointers(self) -> None:
        first = self.get(f"{self.path}/plan")
        self.assertEqual((first["undo"], first["redo"]), (None, None))
        second = self.edit(self.path, self.switch(self.IDS[0], False))
        third = self.edit(self.path, self.switch(self.IDS[1], False))
        self.assertEqual(third["undo"], second["version"])
        back = self.go(third["undo"])
        self.assertEqual((back["version"], back["redo"]), (second["version"], third["version"]))
        self.assertEqual(self.wanted(), {self.IDS[0]: False, self.IDS[1]: True})
        self.go(first["version"])
        self.assertEqual(self.wanted(), dict.fromkeys(self.IDS, True))
        # An edit from here is a branch; nothing of the other is lost.
        self.edit(self.path, self.switch(self.IDS[1], False))
        listed = self.get(f"{self.path}/plan/versions")
        self.assertEqual([v["on"] for v in listed], [1, 0, 1, 2])
        self.assertEqual(sum(v["head"] for v in listed), 1)
        self.go(third["version"])
        self.assertEqual(self.wanted(), dict.fromkeys(self.IDS, False))

    def test_a_version_can_be_named_and_others_go_when_there_are_too_many(self) -> None:
        head = plans.head_of(Site.objects.get())
        self.send("patch", f"{self.path}/plan/versions/{head.pk}", {"name": " before the fair "})
        for number in range(plans.MOST_VERSIONS + 5):
            plans.edit(self.site, None, [Switch((self.IDS[0],), bool(number % 2))])
        listed = self.get(f"{self.path}/plan/versions")
        self.assertEqual(len(listed), plans.MOST_VERSIONS + 1)
        self.assertEqual(listed[-1]["name"], "before the fair")
        self.assertTrue(listed[0]["head"])

    def test_undo_of_a_plan_that_was_edited_elsewhere_is_refused(self) -> None:
        first = self.get(f"{self.path}/plan")["version"]
        second = self.edit(self.path, self.switch(self.IDS[0], False))["version"]
        stale = self.send("post", f"{self.path}/plan/go", {"version": first, "to": first})
        self.assertEqual(stale.status_code, 409)
        self.assertEqual(self.get(f"{self.path}/plan")["version"], second)

    def test_of_another_user_there_are_none(self) -> None:
        client = Client()
        client.force_login(self.other)
        for path in ("plan", "plan/versions", "runs", "run", "findings", "weigh-ins"):
            self.assertEqual(client.get(f"{self.path}/{path}").status_code, 404, path)


class Light(PlanCase):
    """Lists and pictures do not read the long documents behind them."""

    def test_versions_and_runs_are_listed_without_being_read(self) -> None:
        for number in range(4):
            self.edit(self.path, self.switch(self.IDS[0], bool(number % 2)))
        for path in (f"{self.path}/plan/versions", f"{self.path}/runs", f"{self.path}/job", "/api/sites"):
            with CaptureQueriesContext(connection) as seen:
                self.get(path)
            for query in seen.captured_queries:
                for column in ('"document"', '"evidence"'):
                    self.assertNotIn(column, query["sql"], path)

    def test_a_file_that_evidence_only_mentions_is_no_picture(self) -> None:
        store = storage.store(self.site.pk)
        shown, mentioned = store.put(b"\x89PNG shown"), store.put(b"\x89PNG mentioned")
        pair = {"page": "/", "device": "phone", "differences": [], "before": shown, "after": "", "width": 390}
        outcome = {"change": "x", "standing": "passed", "reason": "", "pair": None, "judged": {"own": mentioned}}
        evidence = Evidence([pair], [outcome])
        Run.objects.create(
            site=self.site, version=plans.head_of(Site.objects.get()), ledger={}, evidence=evidence, index={},
            weighed=Weighed(), archive=Archive(),
        )  # fmt: skip
        for name, status in ((shown, 200), (mentioned, 404), ("0" * 64, 404), ("%", 404)):
            self.assertEqual(self.client.get(f"{self.path}/pictures/{name}").status_code, status, name)


class Tags(PlanCase):
    def test_what_is_known_already_is_not_sent_again(self) -> None:
        for part in ("plan", "findings", "run", "weigh-ins"):
            tag = self.client.get(f"{self.path}/{part}").headers["ETag"]
            again = self.client.get(f"{self.path}/{part}", headers={"If-None-Match": tag})
            self.assertEqual((again.status_code, again.content), (304, b""), part)
        tag = self.client.get(f"{self.path}/plan").headers["ETag"]
        self.edit(self.path, self.switch(self.IDS[0], False))
        self.assertEqual(self.client.get(f"{self.path}/plan", headers={"If-None-Match": tag}).status_code, 200)


class Meanwhile(ServerCase):
    """A real job, held at a step while something else happens."""

    def setUp(self) -> None:
        super().setUp()
        self.prepare_once(self.weigh)
        self.site = Site.objects.get()
        self.path = f"/api/sites/{self.site.pk}"
        self.wanted = self.get(f"{self.path}/plan")["changes"][0]["id"]
        self.edit(self.path, {"do": "switch", "ids": [self.wanted], "on": True, "insist": True})

    def weigh(self) -> None:
        self.read_site()
        self.work()

    def held(self, job: Job) -> threading.Thread:
        """A worker on this job, which waits at its first step."""
        jobs = Job.objects.filter(pk=job.pk)
        self.enterContext(mock.patch("server.sites.jobs._PATIENCE", None))
        jobs.update(paused=True)

        def work() -> None:
            run_job(job.pk)
            connection.close()

        worker = threading.Thread(target=work, daemon=True)
        worker.start()
        self.addCleanup(jobs.update, paused=False)
        while jobs.get().state == Job.State.WAITING and worker.is_alive():
            time.sleep(0.02)
        return worker

    def test_an_edit_while_a_job_ends_is_not_lost(self) -> None:
        head = self.get(f"{self.path}/plan")
        self.send("post", f"{self.path}/runs", {"version": head["version"], "again": []})
        job = Job.objects.latest("created")
        worker = self.held(job)
        wanted = self.wanted
        self.edit(self.path, {"do": "switch", "ids": [wanted], "on": False}, {"do": "keep", "files": ["/logo.png"]})
        Job.objects.filter(pk=job.pk).update(paused=False)
        worker.join()
        found = self.bench(self.path)
        self.assertEqual(Job.objects.get(pk=job.pk).state, "done")
        self.assertFalse(next(c for c in found["plan"]["changes"] if c["id"] == wanted)["on"])
        self.assertEqual(found["plan"]["keep"]["files"], ["/logo.png"])
        # The run is of the plan that it was asked for, and it is said that this is another one by now.
        self.assertEqual(found["run"]["version"], head["version"])
        self.assertIn(wanted, {outcome["change"] for outcome in found["run"]["outcomes"]})
        self.assertTrue(found["plan"]["differs"])
        self.go_back(head["version"])
        self.assertFalse(self.get(f"{self.path}/plan")["differs"])

    def go_back(self, to: str) -> None:
        body = {"version": self.get(f"{self.path}/plan")["version"], "to": to}
        self.assertEqual(self.send("post", f"{self.path}/plan/go", body).status_code, 200)

    def test_other_settings_made_meanwhile_stay(self) -> None:
        version = self.get(f"{self.path}/plan")["version"]
        self.send("post", f"{self.path}/runs", {"version": version, "again": []})
        job = Job.objects.latest("created")
        worker = self.held(job)
        self.send("patch", self.path, {"allowance": 123_456})
        Job.objects.filter(pk=job.pk).update(paused=False)
        worker.join()
        self.assertEqual(self.get(self.path)["allowance"], 123_456)

    def test_a_plan_that_was_carried_out_before_is_shown_and_not_done_again(self) -> None:
        first = self.get(f"{self.path}/plan")["version"]
        run = self.carry_out(self.path)
        self.edit(self.path, {"do": "switch", "ids": [self.wanted], "on": False})
        other = self.carry_out(self.path)
        self.assertNotEqual(other["id"], run["id"])
        self.go_back(first)
        answer = self.send("post", f"{self.path}/runs", {"version": first, "again": []})
        self.assertIsNone(json.loads(answer.content)["job"])
        self.assertEqual(self.get(f"{self.path}/run")["id"], run["id"])
        self.assertEqual([row["shown"] for row in self.get(f"{self.path}/runs")], [False, True])
        # The archives of both can be had.
        self.assertEqual(self.client.get(f"{self.path}/lighter.zip").status_code, 200)

    def test_what_waits_for_a_longer_search_says_so_until_somebody_stops_that(self) -> None:
        row = Run.objects.get(pk=self.carry_out(self.path)["id"])
        row.evidence.outcomes[0]["open"] = row.open = True
        row.save()
        self.assertTrue(self.get(f"{self.path}/run")["outcomes"][0]["open"])
        job = Job.objects.create(site=self.site, kind=Job.Kind.NARROW, params={"run": str(row.pk)})
        self.send("post", f"/api/jobs/{job.pk}/cancel")
        self.assertFalse(self.get(f"{self.path}/run")["outcomes"][0]["open"])

    def test_a_newer_copy_is_seen_in_the_preview_of_the_site_as_found(self) -> None:
        host = preview_address(self.site, "found").removeprefix("http://").rstrip("/")
        self.assertNotIn(b"brand new", respond(host, "/index.html", {}).body)
        changed = FILES | {"index.html": page("<p>brand new</p><img src=a.jpg>", "", "Little site")}
        file = SimpleUploadedFile("newer.zip", self.archive(changed), "application/zip")
        self.assertEqual(self.client.post(f"{self.path}/newer", {"archive": file}).status_code, 200)
        self.work()
        self.assertIn(b"brand new", respond(host, "/index.html", {}).body)

    def test_findings_are_sent_as_they_are_declared(self) -> None:
        Findings.model_validate(self.get(f"{self.path}/findings"))


class FromBefore(ServerCase):
    """A database from before plans had versions and results were runs."""

    BEFORE: ClassVar[list[tuple[str, str]]] = [("sites", "0003_images")]

    @staticmethod
    def now() -> list[tuple[str, str]]:
        """The latest migrations, also of what stands on the sites and goes back with them."""
        return MigrationExecutor(connection).loader.graph.leaf_nodes()

    def migrate(self, to: list[tuple[str, str]]) -> Any:
        executor = MigrationExecutor(connection)
        executor.migrate(list(to))
        return MigrationExecutor(connection).loader.project_state(to).apps

    def test_sites_keep_their_plan_their_result_and_what_was_set_aside(self) -> None:
        self.addCleanup(self.migrate, self.now())
        old = self.migrate(self.BEFORE)
        site = self.old_site(old)
        bare = old.get_model("sites", "Site").objects.create(owner_id=self.user.pk, name="New", index=site.index)
        old.get_model("sites", "StoredWeighIn").objects.create(
            site_id=bare.pk, side="found", page="/", device="phone", summary={"spots": [1], "picture": ""}, record={}
        )
        self.migrate(self.now())
        weighed = StoredWeighIn.objects.get(site_id=bare.pk)
        self.assertEqual(weighed.summary, {"shown": [1], "picture": ""})
        weighed.delete()
        path = f"/api/sites/{site.pk}"
        found = self.bench(path)
        by_id = {c["id"]: c for c in found["plan"]["changes"]}
        self.assertEqual(set(by_id), {"lazy-images:/index.html", "webp:/a.jpg", "exact:/a.jpg"})
        self.assertTrue(by_id["webp:/a.jpg"]["on"])  # it was wanted; what a run found of it stands with the run
        outcomes = {o["change"]: (o["standing"], o["reason"]) for o in found["run"]["outcomes"]}
        self.assertEqual(outcomes["webp:/a.jpg"], ("set aside", "elements moved"))
        self.assertEqual(outcomes["lazy-images:/index.html"], ("passed", ""))
        self.assertNotIn("exact:/a.jpg", outcomes)
        self.assertEqual([e["changes"] for e in found["excess"]], [["lazy-images:/index.html"]])
        self.assertEqual(found["run"]["remedies"]["lazy-images"]["bytes"], 500)
        self.assertIsNone(self.bench(f"/api/sites/{bare.pk}")["plan"])
        # It can be edited from here.
        self.edit(path, {"do": "switch", "ids": ["exact:/a.jpg"], "on": True})
        self.assertTrue(self.get(f"{path}/plan")["undo"])

    def old_site(self, apps: Any) -> Any:
        saved = {"bytes": 500, "requests": 1}
        changes: list[dict[str, Any]] = [
            {
                "id": "lazy:/index.html",
                "remedy": "lazy",
                "targets": ["/a.jpg"],
                "pages": ["/index.html"],
                "params": {},
            },
            {
                "id": "webp:/a.jpg",
                "remedy": "webp",
                "targets": ["/a.jpg"],
                "pages": ["/index.html"],
                "params": {"similarity": 0.95},
                "on": True,
                "set_aside": "elements moved",
            },
            {
                "id": "exact:/a.jpg",
                "remedy": "exact",
                "targets": ["/a.jpg"],
                "pages": ["/index.html"],
                "params": {},
                "on": False,
            },
        ]
        excess = {
            "id": "lazy:/index.html",
            "excess": "far-images",
            "kind": "images",
            "title": "1 picture is far",
            "why": "",
            "pages": ["/index.html"],
            "targets": ["/a.jpg"],
            "bytes": 500,
            "of_bytes": 500,
            "requests": 1,
            "tried": True,
            "advice": "",
            "visit": "first",
            "facts": {"nearest": 3000},
            "curable": True,
        }
        ledger = {
            "format": "unladen/ledger/1",
            "effort": "steady",
            "before": [],
            "after": [],
            "notices": [],
            "changes": [
                {**c, "on": c.get("on", True), "set_aside": c.get("set_aside", ""), "saved": saved} for c in changes
            ],
            "remedies": {"lazy": saved},
            "unexplained": {"bytes": 0, "requests": 0},
            "lines": [{"change": "lazy:/index.html", "page": "/index.html", "device": "phone", **saved}],
            "checks": {"pairs": 1, "passed": 1, "set_aside": 1},
        }
        index = self.site_index()
        return apps.get_model("sites", "Site").objects.create(
            owner_id=self.user.pk,
            name="Old",
            index=index,
            baseline={"weigh_ins": [], "excess": [excess], "notices": [], "taken": "2026-11-01T10:00:00+00:00"},
            plan={
                "format": "unladen/plan/1",
                "effort": "steady",
                "changes": changes,
                "keep": {"files": [], "pages": []},
            },
            result={
                "ledger": ledger,
                "pairs": [],
                "evidence": [],
                "index": index,
                "weigh_ins": [],
                "archive_bytes": 1000,
                "changed_bytes": 100,
                "taken": "2026-11-01T11:00:00+00:00",
            },
        )

    def site_index(self) -> Any:
        from tests.sites import zip_of
        from unladen.capture import BodyStore, read_zip

        return read_zip(zip_of(FILES, self.folder / "old.zip"), BodyStore(self.folder / "bodies")).to_index()


class WhatMayBe(PlanCase):
    """The keep list with its notes and costs, differences that are accepted, regions left out."""

    MASK = {"page": "/index.html", "device": "phone", "box": [0, 0, 90, 50], "why": "turns"}
    ACCEPTED = {"page": "/index.html", "device": "phone", "key": "words||p", "text": "a word", "why": "ours"}

    def plan(self) -> Any:
        return self.get(f"{self.path}/plan")

    def test_the_keep_list_says_why_and_what_each_entry_costs(self) -> None:
        note = {"kind": "files", "pattern": "/a.*", "why": "the owner's wish", "remedy": ""}
        edited = self.edit(self.path, {"do": "keep", "files": ["/a.*"], "hosts": ["*.far.example"], "notes": [note]})
        self.assertEqual((edited["keep"]["files"], edited["keep"]["notes"]), (["/a.*"], [note]))
        rest = {"changes": [], "pages": [], "visit": "first", "requests": 0}
        excess = [
            rest | {"targets": list(targets), "bytes": size}
            for targets, size in (
                (("/a.jpg",), 700),
                (("/a.jpg", "/b.jpg"), 50),
                (("https://cdn.far.example/x.js",), 30),
            )
        ]
        Site.objects.filter(pk=self.site.pk).update(baseline={"weigh_ins": [], "taken": None, "excess": excess})
        plans._latest._known.clear()
        costs = {
            entry["pattern"]: entry["bytes"]
            for entry in self.edit(self.path, self.switch(self.IDS[0], False))["keep"]["costs"]
        }
        self.assertEqual(costs, {"/a.*": 700, "*.far.example": 30})
        # What is left out of the command stays; a note goes with its entry.
        self.assertEqual(self.edit(self.path, {"do": "keep", "files": []})["keep"]["notes"], [])
        self.assertEqual(self.plan()["keep"]["hosts"], ["*.far.example"])

    def test_what_cannot_be_kept_is_refused_with_the_reason(self) -> None:
        for command, words in (
            ({"do": "keep", "selectors": ["p:::x"]}, "is not a selector"),
            ({"do": "keep", "files": ["x" * 5000]}, "keep"),
            ({"do": "masks", "masks": [self.MASK | {"box": [9, 9, 9, 20]}]}, "without a size"),
        ):
            self.assertIn(words, json.dumps(self.edit(self.path, command, status=422)))
        self.assertEqual(self.plan()["keep"]["selectors"], [])

    def test_a_difference_is_accepted_once_a_spot_and_taken_back(self) -> None:
        self.edit(self.path, {"do": "accept", **self.ACCEPTED}, {"do": "accept", **self.ACCEPTED, "why": "theirs"})
        (accepted,) = self.plan()["tolerance"]["accepted"]
        self.assertEqual(accepted["why"], "theirs")
        self.edit(self.path, {"do": "accept", **self.ACCEPTED, "device": "desktop"})
        self.edit(self.path, {"do": "accept", **self.ACCEPTED, "off": True})
        self.assertEqual([a["device"] for a in self.plan()["tolerance"]["accepted"]], ["desktop"])

    def test_regions_are_set_as_a_whole_and_go_with_the_document(self) -> None:
        self.edit(self.path, {"do": "masks", "masks": [self.MASK]})
        self.assertEqual(self.plan()["tolerance"]["masks"], [self.MASK])
        document = json.loads(self.client.get(f"{self.path}/plan/document").content)
        self.assertEqual(Plan.from_json(document).tolerance.masks[0].box, (0, 0, 90, 50))
        self.edit(self.path, {"do": "masks", "masks": []})
        self.assertEqual(self.plan()["tolerance"]["masks"], [])
        before = self.plan()["undo"]
        self.go(before)
        self.assertEqual(len(self.plan()["tolerance"]["masks"]), 1)

    def test_what_a_change_is_worth_is_known_before_any_run(self) -> None:
        row = {"changes": [self.IDS[0]], "pages": ["/index.html"], "visit": "first", "requests": 1, "bytes": 700}
        Site.objects.filter(pk=self.site.pk).update(baseline={"weigh_ins": [], "excess": [row], "surveyed": "now"})
        (worth,) = self.get(f"{self.path}/worth")
        # Nothing was weighed, so nothing is saved on any visit.
        self.assertEqual(worth, {"id": self.IDS[0], "bytes": 0, "requests": 0, "sure": False})
        self.client.force_login(self.other)
        self.assertEqual(self.client.get(f"{self.path}/worth").status_code, 404)
