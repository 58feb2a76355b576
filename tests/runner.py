"""Django's test runner with a count of what passed."""

from __future__ import annotations

from typing import Any
from unittest import TextTestResult

from django.conf import settings
from django.test.runner import DiscoverRunner


class CountingRunner(DiscoverRunner):
    """Keeps `passed` and `failed` after a run; a test that was skipped counts as neither."""

    passed = 0
    failed = 0

    def setup_test_environment(self, **options: Any) -> None:
        """As Django does, with a password hash that costs nothing."""
        super().setup_test_environment(**options)
        settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]

    def suite_result(self, suite: Any, result: TextTestResult, **options: Any) -> int:
        """Count, then answer as Django does."""
        self.failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        self.passed = max(0, result.testsRun - len(result.failures) - len(result.unexpectedSuccesses))
        self.passed -= len([1 for test, _ in result.errors if hasattr(test, "_testMethodName")]) + len(result.skipped)
        return super().suite_result(suite, result, **options)
