"""The published schemas, and what is written from what the remedies declare."""

from __future__ import annotations

import json
import re
import subprocess
import tempfile
from pathlib import Path
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


# What people read in the sources of the interface: text between tags, and texts of attributes and fields.
_BETWEEN_TAGS = re.compile(r">([^<>{}=;]*[a-z][^<>{}=;]*)<")
_ATTRIBUTES = re.compile(r'\b(?:aria-label|description|emptyText|hint|label|placeholder|title)(?:=|: )"([^"]+)"')


def interface_texts() -> str:
    """A line for each text of the interface: file and words."""
    lines = []
    for path in sorted((ROOT / "web" / "src").rglob("*.tsx")):
        source = path.read_text()
        for pattern in (_BETWEEN_TAGS, _ATTRIBUTES):
            lines += [f"{path.name}: {' '.join(text.split())}" for text in pattern.findall(source)]
    return "\n\n".join(lines) + "\n"


class Words(TestCase):
    def test_documents_and_interface_use_the_words_of_the_glossary(self) -> None:
        texts = interface_texts()
        self.assertIn("No sites match.", texts)
        with tempfile.TemporaryDirectory() as folder:
            interface = Path(folder) / "interface.txt"
            interface.write_text(texts)
            files = [*sorted(write_schemas.DOCS.glob("*.md")), ROOT / "README.md", interface]
            done = subprocess.run(
                ["npx", "--no-install", "textlint", "--no-color", *map(str, files)],
                cwd=ROOT / "web",
                capture_output=True,
                text=True,
                timeout=300,
            )
        self.assertEqual(done.returncode, 0, (done.stdout + done.stderr)[-6000:])


class Glossary(TestCase):
    def test_every_word_stands_once_and_its_name_is_one_in_the_code(self) -> None:
        words = [entry.word.lower() for entry in GLOSSARY]
        self.assertEqual(sorted(set(words)), sorted(words))
        files = [path for room in ("unladen", "server") for path in (ROOT / room).rglob("*.py")]
        code = "\n".join(path.read_text() for path in files if path.name != "glossary.py")
        lost = [entry.code for entry in GLOSSARY if entry.code and not re.search(rf"\b{entry.code}\b", code)]
        self.assertEqual(lost, [])
