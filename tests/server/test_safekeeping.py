"""Backups of a server at work, taken back; and what the doctor says."""

from __future__ import annotations

import io
import os
import shutil
import sqlite3
import subprocess
import sys
import tarfile
from contextlib import closing
from pathlib import Path

from django.core.management import CommandError, call_command
from django.db import connection
from django.test import override_settings

from server.doctor import examine
from server.sites import storage
from server.sites.models import Site
from server.sites.safekeeping import DATABASE, back_up, take_back
from tests.server.cases import ServerCase
from unladen.errors import BadInput

ROOT = Path(__file__).resolve().parents[2]


class Backups(ServerCase):
    def setUp(self) -> None:
        super().setUp()
        self.out = self.folder / "backup.tar"
        self.enterContext(override_settings(DATA_DIR=self.folder))

    def test_a_backup_brings_back_what_was_deleted_and_drops_what_came_later(self) -> None:
        site = self.read_site()
        files = {path.relative_to(self.folder) for path in (self.folder / "sites").rglob("*") if path.is_file()}
        call_command("backup", str(self.out), stdout=io.StringIO())
        self.client.delete(f"/api/sites/{site.pk}")
        later = self.read_site()
        out = io.StringIO()
        call_command("restore", str(self.out), stdout=out)
        self.assertEqual([(r["id"], r["pages"]) for r in self.get("/api/sites")], [(str(site.pk), 1)])
        self.assertLessEqual(files, {p.relative_to(self.folder) for p in (self.folder / "sites").rglob("*")})
        before = Path(out.getvalue().strip().rpartition(" ")[2])
        with closing(sqlite3.connect(before)) as kept:
            self.assertEqual(kept.execute("SELECT name FROM sites_site").fetchall(), [(later.name,)])

    def test_what_can_be_computed_anew_is_left_out(self) -> None:
        site = self.read_site()
        made = storage.folder(site.pk) / "memo" / "made" / "x"
        made.parent.mkdir(parents=True)
        made.write_bytes(b"x")
        back_up(self.out)
        with tarfile.open(self.out) as archive:
            names = archive.getnames()
        self.assertEqual(names[0], DATABASE)
        self.assertGreaterEqual(len([name for name in names if "/bodies/" in name]), 2)
        self.assertEqual([name for name in names if "memo" in name], [])

    def test_nothing_is_written_over(self) -> None:
        self.out.write_bytes(b"precious")
        with self.assertRaisesRegex(CommandError, "exists already"):
            call_command("backup", str(self.out))
        self.assertEqual(self.out.read_bytes(), b"precious")

    def hostile(self, name: str, kind: bytes = tarfile.REGTYPE) -> Path:
        """A backup with one more member."""
        path = self.folder / "hostile.tar"
        shutil.copyfile(self.out, path)
        with tarfile.open(path, "a") as archive:
            member = tarfile.TarInfo(name)
            member.type, member.linkname = kind, "/etc/passwd"
            archive.addfile(member, io.BytesIO())
        return path

    def test_an_archive_that_is_none_of_ours_changes_nothing(self) -> None:
        site = self.read_site()
        back_up(self.out)
        inside = f"sites/{site.pk}/x"
        cases = [(name, tarfile.REGTYPE) for name in ("../x", "/etc/x", "sites/../x", "sites/x", "x")]
        cases += [(inside, tarfile.SYMTYPE), (inside, tarfile.LNKTYPE)]
        for name, kind in cases:
            with self.assertRaisesRegex(BadInput, "does not belong in a backup"):
                take_back(self.hostile(name, kind))
        for data in (b"", b"no archive", self.out.read_bytes()[: self.out.stat().st_size // 2]):
            path = self.folder / "damaged.tar"
            path.write_bytes(data)
            with self.assertRaises(BadInput):
                take_back(path)
        self.assertEqual([row["id"] for row in self.get("/api/sites")], [str(site.pk)])
        self.assertEqual(list(self.folder.glob("*-before-*")), [])

    def changed(self, *statements: str) -> Path:
        """A backup in whose database something is other."""
        folder, path = self.folder / "changed", self.folder / "changed.tar"
        with tarfile.open(self.out) as archive:
            archive.extract(DATABASE, folder, filter="data")
        with closing(sqlite3.connect(folder / DATABASE)) as database:
            for statement in statements:
                database.execute(statement)
            database.commit()
        with tarfile.open(path, "w") as archive:
            archive.add(folder / DATABASE, DATABASE)
        return path

    def test_a_database_of_another_program_or_version_changes_nothing(self) -> None:
        site = self.read_site()
        back_up(self.out)
        migration = "INSERT INTO django_migrations (app, name, applied) VALUES ('%s', '%s', 0)"
        for reason, statements in {
            "newer version": [migration % ("sites", "0999_later")],
            "newer .*version": [migration % ("reviews", "0999_later")],
            "does not belong to Unladen Mule": [migration % ("shop", "0001_initial")],
            "does not belong": ["DELETE FROM django_migrations", "DROP TABLE sites_site"],
            "belong to Unladen": ["PRAGMA application_id = 77"],
            "cannot be read": ["DROP TABLE django_migrations"],
            "cannot open its database.*sites_site": ["DROP TABLE sites_site"],
            "cannot open its database.*sites_run": ["ALTER TABLE sites_run RENAME COLUMN site_id TO place_id"],
        }.items():
            with self.subTest(reason), self.assertRaisesRegex(BadInput, reason):
                take_back(self.changed(*statements))
        self.assertEqual([row["id"] for row in self.get("/api/sites")], [str(site.pk)])
        self.assertEqual(list(self.folder.glob("*-before-*")), [])

    def test_a_backup_of_an_older_version_is_brought_up_to_date_before_it_takes_its_place(self) -> None:
        site = self.read_site()
        back_up(self.out)
        older = self.changed("PRAGMA application_id = 0", "DELETE FROM django_migrations WHERE name = '0002_maker'",
                             "DROP INDEX reviews_review_maker_id_4db01238",
                             "ALTER TABLE reviews_review DROP COLUMN maker_id")  # fmt: skip
        take_back(older)
        self.assertEqual([row["id"] for row in self.get("/api/sites")], [str(site.pk)])
        columns = {row[1] for row in connection.cursor().execute("PRAGMA table_info(reviews_review)").fetchall()}
        self.assertIn("maker_id", columns)


class Doctor(ServerCase):
    def words(self) -> dict[str, tuple[bool, str]]:
        return {finding.name: (finding.well, finding.words) for finding in examine()}

    def test_what_is_well_is_well(self) -> None:
        with override_settings(DATA_DIR=self.folder):
            self.folder.chmod(0o700)
            found = self.words()
        for name in ("programs", "data folder", "disk", "sites", "jobs", "browser"):
            self.assertTrue(found[name][0], found[name])

    def test_what_is_wrong_is_named(self) -> None:
        site = self.read_site()
        storage.remove(site.pk)
        self.folder.chmod(0o755)
        with override_settings(DATA_DIR=self.folder, WEB_DIR=self.folder / "nowhere"):
            found = self.words()
        self.assertIn("is not built", found["front end"][1])
        self.assertIn("chmod", found["data folder"][1])
        self.assertIn("1 of 1 sites", found["sites"][1])
        self.assertEqual(Site.objects.count(), 1)

    def test_a_broken_database_is_told_without_a_traceback(self) -> None:
        data = self.folder / "data"
        data.mkdir(mode=0o700)
        (data / "mule.sqlite3").write_bytes(b"this is no database " * 400)
        environment = os.environ | {"MULE_DATA": str(data), "DJANGO_SETTINGS_MODULE": "server.settings"}
        done = subprocess.run(
            [sys.executable, "manage.py", "doctor"], cwd=ROOT, env=environment, capture_output=True, text=True
        )
        self.assertEqual(done.returncode, 1)
        self.assertIn("WRONG  database: file is not a database", done.stdout)
        self.assertNotIn("Traceback", done.stdout + done.stderr)
