"""The shape of the code: who may import whom, and formats as published."""

from __future__ import annotations

import ast
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent.parent
# Each may import those before it (docs/architecture.md).
ORDER = [
    "environment", "errors", "documents", "atomic_files", "progress", "schemas", "page_scripts", "capture", "markup",
    "styles", "scripts", "fonts", "raster", "video", "executors", "work_cache", "replay", "weigh", "glossary",
    "remedies", "plan", "survey", "build", "check",
    "ledger", "lighten", "cli",
]  # fmt: skip


def imports(path: Path) -> set[str]:
    names = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom) and node.module:
            names.add(node.module)
        elif isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
    return names


def module_of(path: Path) -> str:
    """The dotted name of a file of the core."""
    return ".".join(path.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__")


def needed(path: Path) -> set[str]:
    """The modules of the core that a file imports; names in a package count as modules where there are such."""
    found = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("unladen"):
            own = module_of(path)
            for alias in node.names:
                inner = ROOT / Path(*f"{node.module}.{alias.name}".split("."))
                is_module = inner.with_suffix(".py").exists() or (inner / "__init__.py").exists()
                name = f"{node.module}.{alias.name}" if is_module else str(node.module)
                # What a package offers to others, its own modules take from where it is made.
                if name != own:
                    found.add(name)
    return found


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

    def test_no_module_needs_itself(self) -> None:
        # Within a package too: what two modules need of each other belongs in a third.
        graph = {module_of(path): needed(path) for path in (ROOT / "unladen").rglob("*.py")}
        for start in graph:
            seen: set[str] = set()
            waiting = [start]
            while waiting:
                for name in graph.get(waiting.pop(), ()):
                    self.assertNotEqual(name, start, f"{start} is in a circle")
                    if name not in seen:
                        seen.add(name)
                        waiting.append(name)

    def test_tests_of_the_core_stand_in_its_folders(self) -> None:
        for path in (ROOT / "tests" / "core").iterdir():
            if path.is_dir() and path.name != "__pycache__":
                self.assertTrue((ROOT / "unladen" / path.name).is_dir(), f"{path} has no folder in the core")

    def test_only_one_module_knows_the_html_parser(self) -> None:
        users = [p for p in (ROOT / "unladen").rglob("*.py") if any(n.startswith("turbohtml") for n in imports(p))]
        self.assertEqual([p.name for p in users], ["html.py"])

    def test_the_server_does_not_reach_into_the_front_end_nor_the_tests(self) -> None:
        for path in (ROOT / "server").rglob("*.py"):
            for name in imports(path):
                self.assertNotIn(name.split(".")[0], ("tests", "web"), f"{path} imports {name}")

    def test_no_file_names_a_registry(self) -> None:
        # Lock files must install from whatever registry the machine is set up for.
        for path in [*ROOT.glob("requirements/*"), ROOT / "web" / "package-lock.json", ROOT / "web" / ".npmrc"]:
            text = path.read_text()
            self.assertNotIn('"resolved"', text)
            self.assertNotIn("index-url", text)
