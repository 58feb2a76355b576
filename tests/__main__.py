"""Runs every check and test; the last line counts them."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
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


def main(labels: list[str]) -> int:
    """Run the checks and all tests, or only the tests named; returns the exit code."""
    os.chdir(ROOT)
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
    import django
    from django.conf import settings
    from django.test.utils import get_runner

    passed, failed = (0, 0) if labels else _run_checks()
    django.setup()
    runner = get_runner(settings, "tests.runner.CountingRunner")(verbosity=1, interactive=False)
    runner.run_tests(labels or ["tests"])
    passed, failed = passed + runner.passed, failed + runner.failed
    print(f"{passed} passed, {failed} failed", flush=True)
    return 1 if failed or not passed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
