"""Runs every check and test; the last line counts them."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor, as_completed
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
WEB = ROOT / "web"


def _checks() -> list[tuple[str, list[str], Path]]:
    python = sys.executable
    npx = [shutil.which("npx") or "npx", "--no-install"]
    return [
        ("ruff check", [python, "-m", "ruff", "check", "."], ROOT),
        ("ruff format", [python, "-m", "ruff", "format", "--check", "-q", "."], ROOT),
        ("mypy", [python, "-m", "mypy"], ROOT),
        ("tsc", [*npx, "tsc", "--noEmit"], WEB),
        ("prettier", [*npx, "prettier", "--check", "."], WEB),
        ("eslint", [*npx, "eslint", "src", "--max-warnings", "0"], WEB),
        ("migrations", [python, "manage.py", "makemigrations", "--check", "--dry-run"], ROOT),
    ]


def _run_checks() -> tuple[int, int]:
    passed = failed = 0
    for name, command, folder in _checks():
        found = subprocess.run(command, cwd=folder, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
        if found.returncode:
            failed += 1
            print(f"{name} failed:\n{found.stdout}", flush=True)
        else:
            passed += 1
            print(f"{name} passed", flush=True)
    return passed, failed


# Pieces that run side by side, a few more than there are cores since much of it is waiting for browsers. Whatever takes
# long stands here, the longest first; all other modules go together at the end, so that none is forgotten.
_LONG = (
    "tests.browser.test_check",
    "tests.browser.test_rules",
    "tests.server",
    "tests.browser.test_wanted",
    "tests.browser.test_lighten",
    "tests.browser.test_interface",
    "tests.browser.test_corpora",
    "tests.browser.test_images",
    "tests.browser.test_interface_weighing",
    "tests.core.raster.test_image_corpora",
    "tests.browser.test_order",
    "tests.browser.test_conditions",
    "tests.browser.test_interface_plan",
    "tests.browser.test_toys",
    "tests.browser.test_interface_live",
    "tests.browser.test_recording",
    "tests.browser.test_walk",
    "tests.core.video.test_video",
)
_AT_ONCE = 4
_OTHERS = 6
_SLOWEST = 10


def _pieces() -> list[list[str]]:
    """What runs in a process of its own each: all test modules there are, each once."""
    modules = [
        ".".join(p.relative_to(ROOT).with_suffix("").parts) for p in sorted((ROOT / "tests").rglob("test_*.py"))
    ]
    others = [name for name in modules if name not in _LONG and not name.startswith("tests.server.")]
    return [[name] for name in _LONG] + [others[n::_OTHERS] for n in range(_OTHERS)]


_took: list[tuple[int, str]] = []  # seconds and names of the slowest tests of all pieces


def _run_piece(labels: list[str], folder: Path) -> tuple[str, int, int]:
    """What one piece prints, and how many passed and failed. A piece that dies without a count has failed."""
    begin = time.monotonic()
    environment = os.environ | {"MULE_TEST_DATABASE": str(folder / f"{labels[0]}.sqlite3")}
    found = subprocess.run(
        [sys.executable, "-m", "tests", *labels],
        cwd=ROOT,
        env=environment,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
    )
    *text, last = found.stdout.splitlines() or [""]
    counts = re.fullmatch(r"(\d+) passed, (\d+) failed", last)
    passed, failed = (int(counts[1]), int(counts[2])) if counts else (0, 1)
    name = labels[0] + (f" and {len(labels) - 1} more" if len(labels) > 1 else "")
    slow = next((line for line in reversed(text) if line.startswith("slowest: ")), "")
    _took.extend((int(seconds), test) for test, seconds in re.findall(r"(\w+) (\d+) s", slow))
    slow = ", ".join(slow.split(", ")[:3])
    head = f"{name}: {passed} passed, {failed} failed, {time.monotonic() - begin:.0f} s; {slow}"
    return "\n".join([head, *(text if failed else [])]), passed, failed


def _run_pieces() -> tuple[int, int]:
    passed = failed = 0
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(_AT_ONCE) as pool:
        running = [pool.submit(_run_piece, labels, Path(folder)) for labels in _pieces()]
        for piece in as_completed(running):
            text, well, badly = piece.result()
            print(text, flush=True)
            passed, failed = passed + well, failed + badly
    return passed, failed


def _run_tests(labels: list[str]) -> tuple[int, int]:
    import django
    from django.conf import settings
    from django.test.utils import get_runner

    django.setup()
    from tests.runner import CountingRunner

    runner = get_runner(settings, "tests.runner.CountingRunner")(verbosity=1, interactive=False)
    assert isinstance(runner, CountingRunner)
    runner.run_tests(labels)
    print(f"slowest: {runner.slowest(_SLOWEST)}", flush=True)
    return runner.passed, runner.failed


def main(labels: list[str]) -> int:
    """Run the checks and all tests, or only the tests named; returns the exit code."""
    os.chdir(ROOT)
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
    if labels:
        passed, failed = _run_tests(labels)
    else:
        # The checks run on one core, beside the first tests.
        with ThreadPoolExecutor(1) as beside:
            checks = beside.submit(_run_checks)
            pieces = _run_pieces()
        passed, failed = (sum(pair) for pair in zip(checks.result(), pieces, strict=True))
        slowest = ", ".join(f"{name} {seconds} s" for seconds, name in sorted(_took, reverse=True)[:_SLOWEST])
        print(f"slowest of all: {slowest}", flush=True)
    print(f"{passed} passed, {failed} failed", flush=True)
    return 1 if failed or not passed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
