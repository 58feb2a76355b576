"""Django's test runner with a count of what passed."""

from __future__ import annotations

import time
from typing import Any, ClassVar
from unittest import TextTestResult

from django.conf import settings
from django.test.runner import DiscoverRunner


class CountingRunner(DiscoverRunner):
    """Keeps `passed` and `failed` after a run; a test that was skipped counts as neither."""

    passed = 0
    failed = 0
    took: ClassVar[dict[str, float]] = {}

    def setup_test_environment(self, **options: Any) -> None:
        """As Django does, with a password hash that costs nothing."""
        super().setup_test_environment(**options)
        settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]

    def get_resultclass(self) -> Any:
        """One that also notes how long each test took, in seconds."""

        class Timed(TextTestResult):
            def startTest(self, test: Any) -> None:
                super().startTest(test)
                CountingRunner.took[test.id()] = -time.monotonic()

            def stopTest(self, test: Any) -> None:
                super().stopTest(test)
                CountingRunner.took[test.id()] += time.monotonic()

        return super().get_resultclass() or Timed

    def slowest(self, most: int = 3) -> str:
        """The tests that took longest, in words."""
        rows = sorted(self.took.items(), key=lambda row: -row[1])[:most]
        return ", ".join(f"{name.rpartition('.')[2]} {seconds:.0f} s" for name, seconds in rows)

    def suite_result(self, suite: Any, result: TextTestResult, **options: Any) -> int:
        """Count, then answer as Django does."""
        self.failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        self.passed = max(0, result.testsRun - len(result.failures) - len(result.unexpectedSuccesses))
        self.passed -= len([1 for test, _ in result.errors if hasattr(test, "_testMethodName")]) + len(result.skipped)
        return super().suite_result(suite, result, **options)
