"""The shape of the code: who may import whom, and formats as published."""

from __future__ import annotations

import ast
import json
import unittest
from pathlib import Path

from unladen.plan import PHASES
from unladen.remedies import REMEDIES

ROOT = Path(__file__).resolve().parent.parent.parent
# Each may import those before it (docs/architecture.md).
ORDER = [
    "errors", "progress", "capture", "markup", "raster", "film", "machines", "memo", "replay", "weigh", "plan", "survey",
    "remedies", "build", "check", "ledger", "lighten", "cli",
]  # fmt: skip


def imports(path: Path) -> set[str]:
    names = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom) and node.module:
            names.add(node.module)
        elif isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
    return names


class Shape(unittest.TestCase):
    def test_the_core_imports_one_way(self) -> None:
        for path in (ROOT / "unladen").rglob("*.py"):
            own = path.relative_to(ROOT / "unladen").parts[0].removesuffix(".py")
            if own == "__init__":
                continue
            for name in imports(path):
                parts = name.split(".")
                self.assertNotIn(parts[0], ("django", "ninja", "server", "demo", "tests"), f"{path} imports {name}")
                if parts[0] == "unladen" and len(parts) > 1 and parts[1] != own:
                    self.assertLess(ORDER.index(parts[1]), ORDER.index(own), f"{path} imports {name}")

    def test_only_one_module_knows_the_html_parser(self) -> None:
        users = [p for p in (ROOT / "unladen").rglob("*.py") if any(n.startswith("turbohtml") for n in imports(p))]
        self.assertEqual([p.name for p in users], ["html.py"])

    def test_the_server_does_not_reach_into_the_front_end_nor_the_tests(self) -> None:
        for path in (ROOT / "server").rglob("*.py"):
            for name in imports(path):
                self.assertNotIn(name.split(".")[0], ("tests", "web"), f"{path} imports {name}")

    def test_the_published_formats_know_every_remedy(self) -> None:
        for name in ("plan-1", "ledger-1"):
            text = json.dumps(json.loads((ROOT / "docs" / "schemas" / f"{name}.json").read_text()))
            self.assertIn(json.dumps(list(PHASES)), text, name)
        self.assertEqual(set(PHASES), set(REMEDIES))

    def test_no_file_names_a_registry(self) -> None:
        # Lock files must install from whatever registry the machine is set up for.
        for path in [*ROOT.glob("requirements/*"), ROOT / "web" / "package-lock.json", ROOT / "web" / ".npmrc"]:
            text = path.read_text()
            self.assertNotIn('"resolved"', text)
            self.assertNotIn("index-url", text)
