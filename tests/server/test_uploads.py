"""What is handed in: who may, how much, where it goes, and that nothing of it stays where it should not."""

from __future__ import annotations

import io
import os
import tempfile
import time
import zipfile
from pathlib import Path
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, override_settings

from server.sites import storage, work
from server.sites.jobs import run_job
from server.sites.models import Job, Site
from server.sites.sweep import own_temporary_folder, sweep
from tests.server.cases import ServerCase
from tests.sites import page
from unladen.progress import Progress

LONG = os.urandom(300_000)


class Uploads(ServerCase):
    def setUp(self) -> None:
        super().setUp()
        self.incoming = self.folder / "incoming"
        self.incoming.mkdir()
        self.enterContext(override_settings(FILE_UPLOAD_TEMP_DIR=self.incoming, DATA_DIR=self.folder))

    def kept(self) -> list[str]:
        """All files below the folders that uploads come through."""
        found = [*self.incoming.rglob("*"), *(self.folder / "sites").rglob("arrived/*")]
        return [path.name for path in found]

    def test_strangers_leave_nothing_on_the_disk_even_with_a_cookie(self) -> None:
        stranger = Client()
        stranger.cookies["sessionid"] = "madeupbythecaller0123456789abcdef"
        file = SimpleUploadedFile("big.zip", LONG)
        with mock.patch("django.core.files.uploadhandler.TemporaryUploadedFile") as opened:
            self.assertEqual(stranger.post("/api/sites", {"archive": file}).status_code, 401)
        self.assertFalse(opened.called)
        self.assertEqual(self.kept(), [])

    def test_too_much_is_refused_by_its_stated_length(self) -> None:
        with override_settings(UPLOAD_LIMIT=100_000):
            answer = self.upload(LONG, "big.zip")
        self.assertEqual((answer.status_code, "larger than the limit of 0 MB" in str(answer.content)), (413, True))
        long = self.client.post("/api/sites/visit", b"x" * 2_500_000, "application/json")
        self.assertEqual((long.status_code, "larger than the limit of 2 MB" in long.json()["detail"]), (413, True))
        self.assertEqual(self.kept(), [])

    def test_bodies_of_no_stated_length_are_refused(self) -> None:
        endless = self.client.post("/api/sites", b"x", "application/zip", headers={"Transfer-Encoding": "chunked"})
        self.assertEqual((endless.status_code, endless.json()), (411, {"detail": "Content-Length is required."}))

    def test_the_sum_of_a_users_sites_is_bounded_and_shown(self) -> None:
        self.new_site()
        self.work()
        room = self.get("/api/session")
        stored = Site.objects.get().stored
        self.assertGreater(stored, 1_000)
        self.assertEqual(room["stored"], stored)
        with override_settings(USER_LIMIT=stored + 200_000):
            answer = self.upload(LONG, "more.zip")
            self.assertEqual((answer.status_code, "Delete a site to free space" in str(answer.content)), (413, True))
            with override_settings(USER_LIMIT=stored):
                small = [self.upload(), self.send("post", "/api/sites/visit", {"address": "http://a.example/"})]
                self.assertEqual([answer.status_code for answer in small], [413, 413])
            bob = Client()
            bob.force_login(self.other)
            self.assertEqual(self.upload(client=bob).status_code, 200)  # small, and room of one's own

    def test_what_is_unpacked_counts_while_it_is_unpacked_over_all_jobs_of_a_user(self) -> None:
        with override_settings(USER_LIMIT=11_000_000):
            for number in range(3):
                packed = io.BytesIO()
                with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
                    archive.writestr("index.html", page(f"Site {number}"))
                    archive.writestr("film.bin", str(number).encode() * 4_000_000)  # a few kB in the archive
                self.assertEqual(self.upload(packed.getvalue(), f"site-{number}.zip").status_code, 200)
            first, second, third = Site.objects.order_by("created")
            for site in (first, second):  # at work at the same time
                work.arrived(site, site.jobs.get().params, Progress())
            job = third.jobs.get()
            run_job(job.pk)
            job.refresh_from_db()
            self.assertEqual(job.state, Job.State.FAILED)
            self.assertRegex(job.error, "[01] MB of it are unpacked, and your quota of 11 MB is full")
            self.assertEqual(list(storage.folder(third.pk).rglob("*")), [])
            self.assertEqual(Site.objects.get(pk=third.pk).stored, 0)
            self.assertLess(self.get("/api/session")["stored"], 11_000_000)

    def test_an_archive_is_read_by_a_job_and_does_not_stay(self) -> None:
        site = self.new_site()
        self.assertEqual((site.name, len(self.kept())), ("little", 1))
        self.work()
        site.refresh_from_db()
        self.assertEqual((site.name, self.kept()), ("Little site", []))

    def test_what_only_shows_when_it_is_read_is_told_by_the_job(self) -> None:
        response = self.upload(self.archive({"readme.txt": b"x"}), "mine.zip")
        self.assertEqual(response.status_code, 200)
        self.work()
        job = Job.objects.get()
        self.assertEqual(job.state, "failed")
        self.assertIn("mine.zip: ", job.error)
        self.assertIn("no HTML page", job.error)
        self.assertEqual(self.kept(), [])

    def test_what_killed_processes_left_is_swept_and_nothing_else(self) -> None:
        site = self.new_site()
        left = [self.incoming / "half.upload", storage.arrived(site.pk) / "of-no-job"]
        gone = self.folder / "sites" / "4fd7b2a0-0000-4000-8000-000000000000" / "bodies"
        gone.mkdir(parents=True)
        dead = self.folder / "temporary" / "99999999"
        dead.mkdir(parents=True)
        for path in left:
            path.write_bytes(b"x")
        self.assertEqual(sweep(), [dead])  # all else is too young
        hour_ago = time.time() - 4000
        for path in (*left, gone.parent):
            os.utime(path, (hour_ago, hour_ago))
        self.assertEqual(set(sweep()), {*left, gone.parent})
        self.assertEqual(len(self.kept()), 1)
        self.work()
        self.assertEqual(len(self.get(f"/api/sites/{site.pk}")["pages"]), 1)

    def test_temporary_files_lie_in_a_folder_of_the_process(self) -> None:
        before = tempfile.tempdir
        self.addCleanup(setattr, tempfile, "tempdir", before)
        with mock.patch.dict(os.environ):
            own_temporary_folder()
            with tempfile.NamedTemporaryFile() as file:
                self.assertEqual(Path(file.name).parent, self.folder / "temporary" / str(os.getpid()))
        self.assertEqual(sweep(), [])  # this process lives


class Newer(ServerCase):
    def test_a_newer_copy_that_cannot_be_read_leaves_the_older_one(self) -> None:
        site = self.new_site()
        self.work()
        newer = SimpleUploadedFile("newer.zip", self.archive({"readme.txt": b"x"}))
        self.assertEqual(self.client.post(f"/api/sites/{site.pk}/newer", {"archive": newer}).status_code, 200)
        self.work()
        self.assertEqual(len(self.get(f"/api/sites/{site.pk}")["pages"]), 1)
        newer = SimpleUploadedFile("newer.zip", self.archive({"index.html": page(""), "b.html": page("")}))
        self.client.post(f"/api/sites/{site.pk}/newer", {"archive": newer})
        self.work()
        self.assertEqual(len(self.get(f"/api/sites/{site.pk}")["pages"]), 2)
