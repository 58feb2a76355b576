"""The published schemas, and what is written from what the remedies declare."""

from __future__ import annotations

import json
from unittest import TestCase

import jsonschema

from docs import write_schemas


class Published(TestCase):
    def test_the_files_are_what_the_remedies_declare(self) -> None:
        for path, text in write_schemas.texts().items():
            self.assertEqual(path.read_text(), text, f"{path.name} is old: run docs/write_schemas.py")

    def test_they_are_schemas(self) -> None:
        for path in (write_schemas.DOCS / "schemas").glob("*.json"):
            jsonschema.Draft202012Validator.check_schema(json.loads(path.read_text()))
