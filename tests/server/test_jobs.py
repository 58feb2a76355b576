"""Jobs: cancel, failure, a killed worker, an orphan that comes back too late, a site deleted meanwhile."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest import mock

from django.db import connection
from django.test import Client, override_settings
from django.utils import timezone

from server.sites import jobs, plans, runs, work
from server.sites.documents import Archive, Evidence, Weighed
from server.sites.models import MOST_ATTEMPTS, Job, Run, Site
from server.sites.outcome import Outcome
from tests.server.cases import FILES, ServerCase
from tests.sites import photo
from unladen.errors import BrowserMissing
from unladen.plan import Plan
from unladen.progress import Progress, Proof, Proven

ROOT = Path(__file__).resolve().parent.parent.parent


class Running(ServerCase):
    def job(self) -> Job:
        return Job.objects.latest("created")

    def test_one_that_was_stopped_goes_on_with_the_same_and_tells_what_it_had_proven(self) -> None:
        """What it finds is there while it runs; one that ran to its end has nothing to go on with."""
        told: list[Any] = []

        def work_on(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
            progress.found(Proof("/index.html", "phone", Proven.AT_REST))
            progress.found(Proof("/index.html", "phone", Proven.SAME))
            told.append((params, self.job().proofs))
            if len(told) == 1:
                jobs.cancel(self.job())
            return Outcome()

        self.upload()
        site = self.job().site
        with mock.patch.dict(work.KINDS, {"weigh": work_on}):
            self.work()
            proof = {"page": "/index.html", "device": "phone", "proven": "same", "text": ""}
            stopped = self.get(f"/api/sites/{site.pk}/job")
            self.assertEqual((stopped["state"], stopped["proofs"]), ("cancelled", [proof]))
            self.send("post", f"/api/jobs/{stopped['id']}/go-on")
            self.work()
        self.assertEqual(told[0], told[1])
        self.assertIsNone(self.get(f"/api/sites/{site.pk}/job"))
        answer = self.client.post(f"/api/jobs/{site.jobs.latest('created').pk}/go-on")
        self.assertEqual(answer.status_code, 409)

    def test_a_waiting_job_is_cancelled_at_once(self) -> None:
        self.new_site()
        jobs.cancel(self.job())
        self.assertEqual(self.job().state, "cancelled")
        self.work()
        self.assertIsNone(Site.objects.get().baseline)

    def test_a_running_job_stops_at_its_next_step(self) -> None:
        self.new_site()
        steps: list[int] = []

        def slow(site: Site, params: object, progress: Progress) -> work.Outcome:
            jobs.cancel(self.job())
            for step in range(200):
                steps.append(step)
                progress.step("weigh", step, 200)
                time.sleep(0.05)
            return work.Outcome({"allowance": 5})

        with mock.patch.dict(work.KINDS, {"weigh": slow}):
            self.work()
        self.assertEqual(self.job().state, "cancelled")
        self.assertLess(len(steps), 200)
        self.assertEqual(Site.objects.get().allowance, 1_000_000)

    def test_failures_say_why(self) -> None:
        for error, words in (
            (BrowserMissing("Chromium was not found"), "Chromium was not found"),
            (RuntimeError("oh"), "the server failed (RuntimeError: oh)"),
        ):
            self.new_site()
            with (
                mock.patch.dict(work.KINDS, {"weigh": mock.Mock(side_effect=error)}),
                self.assertLogs("server") if isinstance(error, RuntimeError) else mock.MagicMock(),
            ):
                self.work()
            self.assertEqual(self.job().state, "failed")
            self.assertIn(words, self.job().error)

    def test_an_orphan_cannot_overwrite_what_a_newer_attempt_wrote(self) -> None:
        self.new_site()

        def overtaken(site: Site, params: object, progress: Progress) -> work.Outcome:
            Job.objects.update(attempt=2)  # the recovery took it for dead, and another worker has it now
            return work.Outcome({"allowance": 5})

        with mock.patch.dict(work.KINDS, {"weigh": overtaken}):
            self.work()
        self.assertEqual(Site.objects.get().allowance, 1_000_000)
        self.assertEqual(self.job().state, "running")

    def test_a_site_deleted_under_a_job_leaves_nothing(self) -> None:
        site = self.new_site()

        def deleting(found: Site, params: object, progress: Progress) -> work.Outcome:
            self.client.delete(f"/api/sites/{site.pk}")
            (self.folder / "sites" / str(site.pk) / "memo").mkdir(parents=True)
            return work.Outcome({"allowance": 5}, begins=Plan("steady", ()))

        with mock.patch.dict(work.KINDS, {"weigh": deleting}):
            self.work()
        self.assertEqual(list((self.folder / "sites").rglob("*")), [])

    def test_the_dead_are_queued_again_but_not_for_ever(self) -> None:
        self.new_site()
        long_ago = timezone.now() - timedelta(minutes=5)
        Job.objects.update(state="running", attempt=1, heartbeat=timezone.now())
        self.assertEqual(jobs.recover(), 0)
        Job.objects.update(heartbeat=long_ago)
        self.assertEqual(jobs.recover(), 1)
        self.assertEqual(self.job().state, "waiting")
        Job.objects.update(state="running", attempt=MOST_ATTEMPTS, heartbeat=long_ago)
        jobs.recover()
        self.assertEqual(self.job().state, "failed")
        self.assertIn("the worker died", self.job().error)


class Aside(ServerCase):
    """What takes longest to try out comes in the background of the first list."""

    def setUp(self) -> None:
        super().setUp()
        self.enterContext(override_settings(REFINES=True))
        smooth = self.archive({**FILES, "a.jpg": photo(600, 400, grain=2)})
        self.site = Site.objects.get(pk=json.loads(self.upload(smooth).content)["id"])
        jobs.run_job(self.site.jobs.get().pk)
        self.path = f"/api/sites/{self.site.pk}"

    def remedies(self) -> dict[str, bool]:
        return {change["remedy"]: change["on"] for change in self.get(f"{self.path}/plan")["changes"]}

    def latest(self) -> Job:
        return self.site.jobs.latest("created")

    def test_the_first_list_does_not_wait_for_the_slow_encoder(self) -> None:
        self.assertNotIn("avif", self.remedies())
        self.assertEqual((self.latest().kind, self.latest().state), ("refine", "waiting"))
        self.assertTrue(self.get(f"{self.path}/job")["aside"])
        change = next(c for c in self.get(f"{self.path}/plan")["changes"] if c["remedy"] == "webp")
        self.edit(self.path, {"do": "switch", "ids": [change["id"]], "on": True, "insist": False})
        self.work()
        self.assertEqual((self.remedies()["webp"], self.remedies()["avif"]), (True, False))
        self.assertIn("avif", {id.split(":")[0] for e in self.bench(self.path)["excess"] for id in e["changes"]})
        self.assertIsNone(self.get(f"{self.path}/job"))
        self.assertFalse(Site.objects.get().unrefined)

    def test_it_steps_back_for_what_the_user_wants_and_comes_again(self) -> None:
        first = self.latest()
        self.send("post", f"{self.path}/lighten", {"effort": "gentle"})
        first.refresh_from_db()
        self.assertEqual((first.state, self.latest().kind), ("cancelled", "lighten"))
        with mock.patch.dict(work.KINDS, {"lighten": lambda site, params, progress: work.Outcome()}):
            self.work()
        self.assertEqual((self.latest().kind, self.latest().state), ("refine", "done"))

    def test_one_that_the_user_stops_stays_away(self) -> None:
        self.send("post", f"/api/jobs/{self.latest().pk}/cancel")
        with mock.patch.dict(work.KINDS, {"lighten": lambda site, params, progress: work.Outcome()}):
            self.send("post", f"{self.path}/lighten", {"effort": "gentle"})
            self.work()
        self.assertEqual((self.latest().kind, self.latest().state), ("lighten", "done"))

    def test_what_a_run_left_open_is_looked_at_closer_before_anything_else_aside(self) -> None:
        """And the run that comes of it shows only where the first one still does."""
        head = Site.objects.get().head
        assert head is not None

        def made(open_: bool) -> Run:
            return Run(
                site=self.site,
                version=head,
                ledger={},
                evidence=Evidence(),
                index={},
                weighed=Weighed(),
                archive=Archive(),
                open=open_,
            )

        def narrow(site: Site, params: dict[str, Any], progress: Progress) -> Outcome:
            plan = plans.plan_of(head)
            return Outcome(run=made(False), base=head, plan=plan, instead=Run.objects.get(pk=params["run"]))

        for switched in (False, True):
            first = made(True)
            first.save()
            Site.objects.update(run=first)

            def closer(site: Site, params: dict[str, Any], progress: Progress, switched: bool = switched) -> Outcome:
                if switched:
                    Site.objects.update(run=None)
                return narrow(site, params, progress)

            idle = lambda site, params, progress: work.Outcome()  # noqa: E731
            with mock.patch.dict(work.KINDS, {"lighten": idle, "narrow": closer}), mock.patch.object(runs, "tidy"):
                self.send("post", f"{self.path}/lighten", {"effort": "gentle"})
                self.work()
            kinds = list(self.site.jobs.order_by("-created").values_list("kind", flat=True))
            self.assertIn("narrow", kinds[:2])
            first.refresh_from_db()
            self.assertFalse(first.open)
            shown = Site.objects.get().run
            self.assertEqual(shown is not None and shown.pk != first.pk, not switched)


class Turns(ServerCase):
    """Several users, and fewer workers than jobs."""

    def setUp(self) -> None:
        super().setUp()
        self.bob = Client()
        self.bob.force_login(self.other)
        self.ran: list[str] = []
        self.enterContext(mock.patch.dict(work.KINDS, {"weigh": self.note}))

    def note(self, site: Site, params: object, progress: Progress) -> work.Outcome:
        self.ran.append(site.owner.username)
        progress.step("weigh", 1, 2)
        return work.Outcome()

    def test_users_take_turns_whoever_came_first(self) -> None:
        for _ in range(3):
            self.upload()
        self.upload(client=self.bob)
        self.work()
        self.assertEqual(self.ran, ["ada", "bob", "ada", "ada"])

    def test_one_users_jobs_leave_a_worker_to_others(self) -> None:
        for client in (self.client, self.client, self.bob):
            self.upload(client=client)
        Job.objects.filter(pk=Job.objects.earliest("created").pk).update(state="running", heartbeat=timezone.now())
        self.work()
        self.assertEqual(self.ran, ["bob"])
        with override_settings(JOBS_AT_ONCE=2):
            jobs.run_next.enqueue()
            self.work()
        self.assertEqual(self.ran, ["bob", "ada"])

    def test_a_paused_job_gives_its_worker_back_and_comes_again(self) -> None:
        self.upload()
        first = Job.objects.get()
        self.upload(client=self.bob)
        Job.objects.filter(pk=first.pk).update(paused=True)
        self.work()
        self.assertEqual(self.ran, ["bob"])  # one that is paused before it begins does not begin
        asked: list[bool] = []

        def paused_on_the_way(site: Site, params: object, progress: Progress) -> work.Outcome:
            if not asked:
                asked.append(True)
                jobs.steer(first, paused=True, easy=False)
            return self.note(site, params, progress)

        with (
            mock.patch.dict(work.KINDS, {"weigh": paused_on_the_way}),
            mock.patch.object(jobs, "_PATIENCE", 0.1),
            mock.patch.object(jobs, "_WRITE_EVERY", 0.0),
        ):
            jobs.steer(first, paused=False, easy=False)
            self.work()
            first.refresh_from_db()
            self.assertEqual((first.state, first.paused, first.attempt), ("waiting", True, 0))
            jobs.steer(first, paused=False, easy=False)
            self.work()
        first.refresh_from_db()
        self.assertEqual((first.state, first.attempt, self.ran), ("done", 1, ["bob", "ada", "ada"]))

    def test_nobody_has_more_jobs_than_one_may(self) -> None:
        with override_settings(JOBS_OF_A_USER=2):
            told = [self.upload() for _ in range(3)]
            self.assertEqual([answer.status_code for answer in told], [200, 200, 429])
            self.assertEqual(self.upload(client=self.bob).status_code, 200)
        self.assertEqual((Site.objects.count(), len(list((self.folder / "sites").iterdir()))), (3, 3))


class Killed(ServerCase):
    def test_processes_that_encode_end_with_the_one_that_started_them(self) -> None:
        program = (
            "import time\nfrom unladen.executors import new_pool\nimport os\n"
            "if __name__ == '__main__':\n    pool = new_pool(2)\n    print(pool.submit(os.getpid).result(), "
            "flush=True)\n"
            "    pool.submit(time.sleep, 600).result()\n"
        )
        script = self.folder / "pool.py"
        script.write_text(program)
        environment = os.environ | {"PYTHONPATH": str(ROOT)}
        parent = subprocess.Popen([sys.executable, script], env=environment, stdout=subprocess.PIPE, text=True)
        assert parent.stdout is not None
        child = Path(f"/proc/{parent.stdout.readline().strip()}")
        self.assertTrue(child.exists())
        parent.kill()
        parent.communicate()
        end = time.monotonic() + 60
        while child.exists() and "zombie" not in (child / "status").read_text() and time.monotonic() < end:
            time.sleep(0.2)
        self.assertFalse(child.exists() and "zombie" not in (child / "status").read_text())

    def worker(self) -> subprocess.Popen[bytes]:
        environment = os.environ | {
            "MULE_DATABASE": str(connection.settings_dict["NAME"]),
            "MULE_SITES": str(self.folder / "sites"),
            "DJANGO_SETTINGS_MODULE": "server.settings",
        }
        return subprocess.Popen(
            [sys.executable, "manage.py", "work"], cwd=ROOT, env=environment, stderr=subprocess.DEVNULL
        )

    def wait_for(self, state: str, limit: float = 90) -> None:
        end = time.monotonic() + limit
        while (job := Job.objects.earliest("created")).state != state:
            self.assertLess(time.monotonic(), end, f"still {job}: {job.error}")
            time.sleep(0.1)

    def test_a_worker_that_is_killed_loses_no_job(self) -> None:
        self.new_site()
        first = self.worker()
        self.addCleanup(first.kill)
        self.wait_for("running")
        first.send_signal(signal.SIGKILL)
        first.wait()
        Job.objects.update(heartbeat=timezone.now() - timedelta(minutes=1))
        second = self.worker()
        self.addCleanup(second.wait)
        self.addCleanup(second.terminate)
        self.wait_for("done")
        self.assertEqual(Job.objects.earliest("created").attempt, 2)
        self.assertEqual(len(Site.objects.get().known.weigh_ins), 2)
