"""The front end: its folders import one way, and its pure modules pass their own tests."""

from __future__ import annotations

import re
import subprocess
import unittest
from collections import defaultdict
from pathlib import Path

WEB = Path(__file__).resolve().parent.parent.parent / "web"
_IMPORT = re.compile(r"""(?:from|import\()\s*"(\.[^"]+)\"""")


def folders() -> dict[str, set[str]]:
    """Each folder of the front end with those that it imports from."""
    source = WEB / "src"
    graph: dict[str, set[str]] = defaultdict(set)
    for path in source.rglob("*.ts*"):
        inside = path.relative_to(source).parts
        for target in _IMPORT.findall(path.read_text()):
            other = (path.parent / target).resolve().relative_to(source).parts
            if len(inside) > 1 and len(other) > 1 and inside[0] != other[0]:
                graph[inside[0]].add(other[0])
    return graph


class FrontEnd(unittest.TestCase):
    def test_no_two_folders_import_each_other(self) -> None:
        graph = folders()
        self.assertIn("ui", graph["frame"])
        for start in list(graph):
            seen: set[str] = set()
            waiting = list(graph[start])
            while waiting:
                name = waiting.pop()
                self.assertNotEqual(name, start, f"{start} is in a circle")
                if name not in seen:
                    seen.add(name)
                    waiting.extend(graph.get(name, ()))

    def test_pure_modules_pass_their_own_tests(self) -> None:
        done = subprocess.run(
            ["npx", "--no-install", "vitest", "run"], cwd=WEB, capture_output=True, text=True, timeout=300
        )
        self.assertEqual(done.returncode, 0, (done.stdout + done.stderr)[-4000:])
