"""The published schemas, and what is written from what the remedies declare."""

from __future__ import annotations

import json
import re
from unittest import TestCase

import jsonschema

from docs import write_schemas
from unladen.glossary import GLOSSARY

ROOT = write_schemas.DOCS.parent


class Published(TestCase):
    def test_the_files_are_what_the_remedies_declare(self) -> None:
        for path, text in write_schemas.texts().items():
            self.assertEqual(path.read_text(), text, f"{path.name} is old: run docs/write_schemas.py")

    def test_they_are_schemas(self) -> None:
        for path in (write_schemas.DOCS / "schemas").glob("*.json"):
            jsonschema.Draft202012Validator.check_schema(json.loads(path.read_text()))


class Glossary(TestCase):
    def test_every_word_stands_once_and_its_name_is_one_in_the_code(self) -> None:
        words = [entry.word.lower() for entry in GLOSSARY]
        self.assertEqual(sorted(set(words)), sorted(words))
        files = [path for room in ("unladen", "server") for path in (ROOT / room).rglob("*.py")]
        code = "\n".join(path.read_text() for path in files if path.name != "glossary.py")
        lost = [entry.code for entry in GLOSSARY if entry.code and not re.search(rf"\b{entry.code}\b", code)]
        self.assertEqual(lost, [])
