"""Every address of the API, with a site, a plan and a run at hand, asked well and badly: no answer is a fault of
ours.
"""

from __future__ import annotations

import json
import os
import random
from typing import Any
from urllib.parse import urlencode
from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile

from server.api.main import api
from server.sites.models import Job
from tests.fuzz.mutate import TOKENS
from tests.server.cases import ServerCase

EACH = int(os.environ.get("FUZZ_EACH", "14"))
ODD: tuple[Any, ...] = (
    None,
    True,
    -1,
    0,
    10**30,
    1e308,
    "",
    " ",
    "x" * 5000,
    "\x00",
    "\ud800",
    "../..",
    "/index.html",
    "phone",
    "webp:/a.jpg",
    "<script>",
    [],
    [None],
    {},
    {"do": "magic"},
    [[[]]],
    {"": {"": 1}},
    "2026-02-30",
    "1e999",
    "😀",
    "http://[::1",
    "{place}",
    "%s%n",
    "' OR 1=1 --",
)
_METHODS = ("get", "post", "put", "patch", "delete")


class Asked(ServerCase):
    def setUp(self) -> None:
        super().setUp()
        self.site = self.new_site()
        self.work()
        self.path = f"/api/sites/{self.site.pk}"
        self.edit(self.path, {"do": "switch", "ids": ["webp:/a.jpg"], "on": True})
        self.run_ = self.carry_out(self.path)
        self.schema: dict[str, Any] = json.loads(json.dumps(api.get_openapi_schema()))

    def value(self, schema: dict[str, Any], dice: random.Random, depth: int = 0) -> Any:
        """Something of this schema, or, now and then, nothing of the kind."""
        if dice.random() < 0.12 or depth > 5:
            return dice.choice(ODD)
        if "$ref" in schema:
            return self.value(self.schema["components"]["schemas"][schema["$ref"].rpartition("/")[2]], dice, depth)
        for several in ("anyOf", "oneOf", "allOf"):
            if several in schema:
                return self.value(dice.choice(schema[several]), dice, depth + 1)
        if "const" in schema:
            return schema["const"]
        if "enum" in schema:
            return dice.choice(schema["enum"])
        match schema.get("type"):
            case "object":
                found = {name: self.value(of, dice, depth + 1) for name, of in schema.get("properties", {}).items()}
                return {name: value for name, value in found.items() if dice.random() < 0.9}
            case "array":
                return [self.value(schema.get("items", {}), dice, depth + 1) for _ in range(dice.randrange(3))]
            case "integer" | "number":
                return dice.choice((0, 1, 2, 3, 390, 1280, -5, 2**40))
            case "boolean":
                return dice.random() < 0.5
        if schema.get("format") == "uuid":
            return dice.choice((str(uuid4()), self.version))
        return dice.choice(
            ("/index.html", "/a.jpg", "webp:/a.jpg", "phone", "steady", "picture", "x", ".a > b", "http://a.example/")
        )

    @property
    def version(self) -> str:
        plan = self.get(f"{self.path}/plan")
        return str(plan["version"]) if plan else str(uuid4())

    def place(self, name: str, dice: random.Random) -> str:
        """What stands in an address."""
        known = {"site_id": str(self.site.pk), "run_id": self.run_["id"], "username": "bob"}
        return (
            known.get(name, dice.choice(("x", "0", str(uuid4()), "%00", "..", "a.jpg")))
            if dice.random() < 0.9
            else "x"
        )

    def ask(self, method: str, path: str, operation: dict[str, Any], dice: random.Random) -> tuple[int, str, str]:
        query: dict[str, Any] = {}
        for parameter in operation.get("parameters", ()):
            if parameter["in"] == "path":
                path = path.replace(f"{{{parameter['name']}}}", self.place(parameter["name"], dice))
            elif dice.random() < 0.8:
                query[parameter["name"]] = self.value(parameter["schema"], dice)
        words = {name: json.dumps(value)[:500].strip('"') for name, value in query.items()}
        address = path + ("?" + urlencode(words, errors="replace") if words else "")
        content = operation.get("requestBody", {}).get("content", {})
        self.client.raise_request_exception = False
        if "multipart/form-data" in content:
            data = dice.choice(
                (self.archive(), b"", b"{}", b"[" * 9000, dice.choice(TOKENS), json.dumps(self.run_).encode())
            )
            fields = self.value(content["multipart/form-data"]["schema"], dice)
            form = {k: str(v)[:2000] for k, v in fields.items()} if isinstance(fields, dict) else {}
            for name in content["multipart/form-data"]["schema"].get("properties", {}):
                if name in ("archive", "document", "picture"):
                    form[name] = SimpleUploadedFile(dice.choice(("x.zip", "x.json", "\x00", "é\u202e")), data)  # type: ignore[assignment]
            answer = getattr(self.client, method)(address, form)
        else:
            of = content.get("application/json", {}).get("schema", {})
            body = json.dumps(self.value(of, dice)) if of else ""
            if dice.random() < 0.06:
                body = dice.choice(("{", "[" * 100_000, "\x00", "NaN", '{"a": ' + "9" * 5000 + "}"))
            answer = self.client.generic(method.upper(), address, body, "application/json")
        return (
            answer.status_code,
            f"{method} {address[:200]}",
            bytes(getattr(answer, "content", b""))[:300].decode("utf-8", "replace"),
        )

    def test_no_answer_is_a_fault_of_ours(self) -> None:
        faults, good = [], set()
        for path, methods in self.schema["paths"].items():
            for method in _METHODS:
                operation = methods.get(method)
                if operation is None or (method, path) in (
                    ("delete", "/api/sites/{site_id}"),
                    ("delete", "/api/session"),
                ):
                    continue
                for number in range(EACH):
                    Job.objects.all().delete()  # what was queued would have the site busy
                    self.client.force_login(self.user)
                    self.user.refresh_from_db()
                    status, asked, told = self.ask(
                        method, path, operation, random.Random(f"{method} {path} {number}")
                    )
                    if status >= 500:
                        faults.append((asked, told))
                    if status < 300:
                        good.add((method, path))
        self.assertEqual(faults, [])
        # The good paths are reached too, or the bad ones would prove little.
        self.assertGreater(len(good), 25, sorted(good))
