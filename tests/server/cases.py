"""What tests of the server share: users, sites, a worker in this process, files of their own."""

from __future__ import annotations

import json
import shutil
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any, ClassVar

from django.apps import apps
from django.contrib.auth.models import User
from django.core import serializers
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.http import HttpResponse
from django.test import Client, TransactionTestCase, override_settings
from django_tasks_db.models import DBTaskResult

from server.sites import work
from server.sites.models import Site
from tests.sites import page, photo, zip_of
from unladen.progress import Progress

STYLE = "<style>body{margin:0}img{max-width:100%;height:auto;display:block}</style>"
FILES = {"index.html": page("<img src=a.jpg width=600 height=400>", STYLE, "Little site"), "a.jpg": photo(300, 200)}


@dataclass(frozen=True, slots=True)
class _Stored:
    """All rows of the sites' tables as JSON, the key of the user they belong to, and a copy of the stored files."""

    rows: str
    user: int
    files: Path


class ServerCase(TransactionTestCase):
    """Real transactions in a database file, since jobs write beside requests."""

    _stored: ClassVar[dict[type, _Stored]] = {}

    def setUp(self) -> None:
        super().setUp()
        self.folder = Path(tempfile.mkdtemp(prefix="mule-server-"))
        self.addCleanup(shutil.rmtree, self.folder, True)
        settings = override_settings(
            SITES_DIR=self.folder / "sites", PAGES_AT_ONCE=2, RUNS=1, GLANCES=False, REFINES=False
        )
        settings.enable()
        self.addCleanup(settings.disable)
        self.user = User.objects.create_user("ada", password="a long enough one")
        self.other = User.objects.create_user("bob", password="a long enough one")
        self.client.force_login(self.user)

    def archive(self, files: dict[str, bytes] | None = None) -> bytes:
        """A ZIP file's bytes."""
        return zip_of(files or FILES, self.folder / "in.zip").read_bytes()

    def upload(
        self, data: bytes | None = None, name: str = "little.zip", client: Client | None = None
    ) -> HttpResponse:
        """Hand an archive in."""
        file = SimpleUploadedFile(name, self.archive() if data is None else data, "application/zip")
        return (client or self.client).post("/api/sites", {"archive": file})  # type: ignore[return-value]

    def new_site(self) -> Site:
        """A site that was just handed in."""
        return Site.objects.get(pk=json.loads(self.upload().content)["id"])

    def read_site(self, data: bytes | None = None, name: str = "little.zip") -> Site:
        """A site that was handed in and read, and is not weighed yet."""
        site = Site.objects.get(pk=json.loads(self.upload(data, name).content)["id"])
        site.index = work.arrived(site, site.jobs.get().params, Progress()).to_index()
        site.save()
        return site

    def prepare_once(self, prepare: Callable[[], object]) -> None:
        """What `prepare` stores, which it does for the first test of a class; the others get a copy of rows and
        files.
        """
        cls, sites = type(self), self.folder / "sites"
        tables = apps.get_app_config("sites").get_models()
        if stored := self._stored.get(cls):
            shutil.copytree(stored.files, sites, dirs_exist_ok=True)
            with transaction.atomic():  # rows name others that come later
                for row in serializers.deserialize("json", stored.rows):
                    for field in row.object._meta.fields:
                        if field.related_model is User and getattr(row.object, field.attname) == stored.user:
                            setattr(row.object, field.attname, self.user.pk)
                    row.save()
            return
        prepare()
        files = Path(tempfile.mkdtemp(prefix="mule-stored-"))
        cls.addClassCleanup(shutil.rmtree, files, True)
        cls.addClassCleanup(self._stored.pop, cls)
        shutil.copytree(sites, files, dirs_exist_ok=True)
        rows = [row for table in tables for row in table._default_manager.all()]
        self._stored[cls] = _Stored(serializers.serialize("json", rows), self.user.pk, files)

    def work(self) -> None:
        """Run all queued jobs in this process."""
        from django.core.management import call_command

        call_command("db_worker", "--batch", "--no-startup-delay", "--no-reload", verbosity=0)
        self.assertFalse(DBTaskResult.objects.filter(status="FAILED").exists())

    def get(self, path: str, client: Client | None = None) -> Any:
        """The JSON of an answer that must be 200."""
        response = (client or self.client).get(path)
        self.assertEqual(response.status_code, 200, response.content)
        return response.json()

    def answered(self, method: str, path: str, body: Any = None, status: int = 200) -> Any:
        """The JSON of an answer with this status."""
        response: Any = self.send(method, path, body)
        self.assertEqual(response.status_code, status, response.content)
        return response.json()

    def bench(self, path: str) -> dict[str, Any]:
        """All that the screens of a site show, from the resources that they read."""
        found = dict(self.get(path))
        weighed, run, plan = (self.get(f"{path}/{name}") for name in ("weigh-ins", "run", "plan"))
        found |= {"weigh_ins": weighed["found"], "now": weighed["now"], "pictures": weighed["pictures"]}
        found |= {"excess": self.get(f"{path}/findings")["excess"], "run": run, "plan": plan}
        return found | {"job": self.get(f"{path}/job")}

    def edit(self, path: str, *commands: dict[str, Any], status: int = 200) -> Any:
        """Commands for the plan as it stands; the plan after them."""
        version = (self.get(f"{path}/plan") or {}).get("version", "00000000-0000-0000-0000-000000000000")
        response = self.send("post", f"{path}/plan/commands", {"version": version, "commands": list(commands)})
        self.assertEqual(response.status_code, status, response.content)
        return json.loads(response.content)

    def carry_out(self, path: str, *again: str) -> Any:
        """The plan as it stands, carried out; the run that is shown then."""
        body = {"version": self.get(f"{path}/plan")["version"], "again": list(again)}
        response = self.send("post", f"{path}/runs", body)
        self.assertEqual(response.status_code, 200, response.content)
        self.work()
        return self.get(f"{path}/run")

    def send(self, method: str, path: str, body: Any = None) -> HttpResponse:
        """A request with a JSON body."""
        return getattr(self.client, method)(path, json.dumps(body or {}), "application/json")  # type: ignore[no-any-return]
