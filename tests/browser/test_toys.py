"""A remedy, a kind of excess and a probe of somebody else's: one module and one line each, and the rest follows.

Everything here runs in a copy of the program to which just that was added.
"""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path
from typing import Any

from playwright.sync_api import expect, sync_playwright

from tests.browser.test_interface import ROOT, WAIT
from tests.serving import serving
from tests.sites import FolderCase, page, zip_of
from unladen.weigh.chromium.browser import find_chromium

REMEDY = """
from dataclasses import dataclass
from unladen.remedies import fields
from unladen.remedies.change import Params
from unladen.remedies.spec import Remedy

@dataclass(frozen=True, slots=True, kw_only=True)
class ToyParams(Params):
    word: str = fields.word("good", "bad", default="good")

def apply(change, draft):
    for path in change.pages:
        page, document = draft.page(path)
        root = next(e for e in document.elements if e.tag == "html")
        draft.edits.edit(change, page, document.set_attribute(root, "data-toy", change.params.word), "data-toy")

REMEDY = Remedy(
    "toy", "markup", ToyParams, "A toy for the page", "It plays with nobody", apply, may_edit_pages=True, steadies=True
)
"""
SURVEYOR = """
from dataclasses import dataclass
from typing import Literal
from unladen.remedies import Change, remedy_named
from unladen.survey.findings import Facts, Finding
from unladen.survey.spec import Found, Surveyor

@dataclass(frozen=True, slots=True, kw_only=True)
class ToyFacts(Facts):
    about: Literal["toy"] = "toy"
    colour: str = "red"

def find(context):
    def one(page):
        word = "bad" if "two" in page else "good"
        change = Change(f"toy:{page}", "toy", (page,), (page,), remedy_named("toy").params(word=word))
        told = f"No toy on {page}", "It is dull"
        return Finding(f"toy:{page}", "toys", "documents", *told, (page,), 0, 0, 0, True, ToyFacts(), (change,))
    return Found(tuple(one(page) for page in context.evidence.pages))

SURVEYOR = Surveyor("toys", find, (ToyFacts,), remedies=("toy",))
"""
PROBE = """
from unladen.check.pairs import Difference
from unladen.check.probes.spec import Observation, Probe

async def observe(scene):
    return Observation({"toy": await scene.page.evaluate("document.documentElement.dataset.toy || ''")})

def compare(before, again, after):
    return [Difference("toy", "a bad toy")] if after.values["toy"] == "bad" else []

PROBE = Probe("toy", observe, compare)
"""
ADDED = (
    ("unladen/remedies/toy.py", REMEDY, "unladen/remedies/registry.py", "ALL: tuple[Remedy, ...] = (\n"),
    ("unladen/survey/toys.py", SURVEYOR, "unladen/survey/surveyors.py", "SURVEYORS: tuple[Surveyor, ...] = (\n"),
    ("unladen/check/probes/toy.py", PROBE, "unladen/check/probes/__init__.py", "PROBES: tuple[Probe, ...] = (\n"),
)
DESCRIBE = """
import json
from unladen.ledger import ledger_schema
from unladen.plan.schema import plan_schema
print(json.dumps({"plan": plan_schema(), "ledger": ledger_schema()}))
"""
FILL = """
import sys, django
django.setup()
from pathlib import Path
from django.contrib.auth.models import User
from django.core.management import call_command
from server.sites.site_import import take_in
user = User.objects.create_user("ada", password="a long enough one")
print(take_in(user, Path(sys.argv[1]), "toys.zip").pk)
call_command("db_worker", "--batch", "--no-startup-delay", "--no-reload", verbosity=0)
"""
FILES = {f"{name}.html": page(f"<h1>{name}</h1><p>Text", "", "Toys") for name in ("index", "two")}


class Toys(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.copy = self.folder / "copy"
        for name in ("unladen", "server"):
            shutil.copytree(ROOT / name, self.copy / name, ignore=shutil.ignore_patterns("__pycache__"))
        shutil.copy(ROOT / "manage.py", self.copy)
        (self.copy / "web").symlink_to(ROOT / "web")
        for path, text, registry, before in ADDED:
            (self.copy / path).write_text(text)
            self.add_line(self.copy / registry, before, Path(path))
        self.environment = os.environ | {
            "MULE_DATA": str(self.folder / "data"),
            "DJANGO_SETTINGS_MODULE": "server.settings",
            "PYTHONPATH": str(self.copy),
            "MULE_RUNS": "1",
            "MULE_GLANCES": "0",
        }

    def add_line(self, registry: Path, before: str, path: Path) -> None:
        """The one line in the list, with the import that it needs."""
        text = registry.read_text()
        self.assertIn(before, text)
        kind = {"remedies": "REMEDY", "survey": "SURVEYOR", "check": "PROBE"}[path.parts[1]]
        module = ".".join(path.with_suffix("").parts)
        head, _, name = module.rpartition(".")
        text = text.replace(before, f"from {head} import {name}\n{before}    {name}.{kind},\n")
        registry.write_text(text)

    def run_in_copy(self, *command: str) -> str:
        found = subprocess.run(
            [sys.executable, *command], cwd=self.copy, env=self.environment, capture_output=True, text=True
        )
        self.assertEqual(found.returncode, 0, found.stderr)
        return found.stdout

    def test_the_schemas_of_plan_ledger_and_api_know_it(self) -> None:
        schemas = json.loads(self.run_in_copy("-c", DESCRIBE))
        self.assertIn("toy", schemas["plan"]["properties"]["changes"]["items"]["properties"]["remedy"]["enum"])
        self.assertIn('{"word": {"enum": ["good", "bad"]}}', json.dumps(schemas["plan"]))
        self.assertIn("toy", schemas["ledger"]["properties"]["remedies"]["propertyNames"]["enum"])
        api: dict[str, Any] = json.loads(self.run_in_copy("manage.py", "schema"))["components"]["schemas"]
        self.assertIn("toy", api["RemedyName"]["enum"])
        self.assertIn("ToyFacts", api)
        self.assertIn("toy", api["ExcessOut"]["properties"]["facts"]["discriminator"]["mapping"])

    def test_it_is_found_carried_out_and_checked(self) -> None:
        site, out = zip_of(FILES, self.folder / "toys.zip"), self.folder / "out.zip"
        options = ("--effort", "gentle", "--device", "desktop", "--json")
        ledger = json.loads(self.run_in_copy("-m", "unladen.cli", "lighten", str(site), *options, "--out", str(out)))
        found = {row["id"]: (row["standing"], row["reason"]) for row in ledger["changes"]}
        self.assertEqual(found["toy:/index.html"], ("passed", ""))
        self.assertEqual(found["toy:/two.html"][0], "set aside")
        self.assertIn("a bad toy", found["toy:/two.html"][1])

    def test_the_screens_show_it(self) -> None:
        site = zip_of(FILES, self.folder / "toys.zip")
        self.run_in_copy("manage.py", "migrate", "--no-input")
        key = self.run_in_copy("-c", FILL, str(site)).split()[0]
        address = self.enterContext(serving(self.copy, self.environment))
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=find_chromium(), chromium_sandbox=os.geteuid() != 0)
            window = browser.new_page(viewport={"width": 1280, "height": 800})
            window.goto(f"{address}/sites/{key}/lighten")
            window.get_by_label("User name").fill("ada")
            window.get_by_label("Password").fill("a long enough one")
            window.get_by_role("button", name="Sign in").click()
            expect(window.get_by_role("heading", name="A toy for the page")).to_be_visible(timeout=WAIT)
            expect(window.get_by_text("It plays with nobody")).to_be_visible()
            window.goto(f"{address}/sites/{key}/sort")
            expect(window.get_by_role("row").filter(has_text="No toy on /two.html")).to_be_visible()
            browser.close()
