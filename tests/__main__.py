"""Runs every check and test; the last line counts them."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import tempfile
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


# Parts that take about the same time and run side by side; much of it is waiting for browsers, so there are more than
# cores. Only the first one uses the database.
_PARTS = (
    [
        "tests.server",
        "tests.browser.test_interface",
        "tests.browser.test_interface_weighing",
        "tests.browser.test_interface_images",
        "tests.browser.test_interface_wanted",
    ],
    [
        "tests.browser.test_lighten",
        "tests.browser.test_corpora",
        "tests.browser.test_images",
    ],
    [
        "tests.browser.test_wanted",
        "tests.browser.test_weigh",
        "tests.browser.test_conditions",
    ],
    [
        "tests.core",
        "tests.browser.test_walk",
        "tests.browser.test_recording",
        "tests.browser.test_model",
    ],
)


def _run_parts() -> tuple[int, int]:
    with tempfile.TemporaryDirectory() as folder:
        logs = [Path(folder) / str(number) for number in range(len(_PARTS))]
        parts = []
        for labels, log in zip(_PARTS, logs, strict=True):
            with log.open("w") as out:
                command = [sys.executable, "-m", "tests", *labels]
                parts.append(subprocess.Popen(command, cwd=ROOT, stdout=out, stderr=subprocess.STDOUT))
        passed = failed = 0
        for part, log in zip(parts, logs, strict=True):
            part.wait()
            *text, last = log.read_text().splitlines() or [""]
            print("\n".join(text), flush=True)
            counts = re.fullmatch(r"(\d+) passed, (\d+) failed", last)
            # A part that dies without a count has failed, whatever it printed.
            passed += int(counts[1]) if counts else 0
            failed += int(counts[2]) if counts else 1
    return passed, failed


def _run_tests(labels: list[str]) -> tuple[int, int]:
    import django
    from django.conf import settings
    from django.test.utils import get_runner

    django.setup()
    runner = get_runner(settings, "tests.runner.CountingRunner")(verbosity=1, interactive=False)
    runner.run_tests(labels)
    return runner.passed, runner.failed


def main(labels: list[str]) -> int:
    """Run the checks and all tests, or only the tests named; returns the exit code."""
    os.chdir(ROOT)
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
    if labels:
        passed, failed = _run_tests(labels)
    else:
        passed, failed = (sum(pair) for pair in zip(_run_checks(), _run_parts(), strict=True))
    print(f"{passed} passed, {failed} failed", flush=True)
    return 1 if failed or not passed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
