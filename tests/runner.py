"""Django's test runner with a count of what passed, and how long the slowest took."""

from __future__ import annotations

from typing import Any
from unittest import TextTestResult

from django.test.runner import DiscoverRunner


class CountingRunner(DiscoverRunner):
    """Keeps `passed` and `failed` after a run; a test that was skipped counts as neither."""

    passed = 0
    failed = 0

    def __init__(self, **options: Any) -> None:
        super().__init__(durations=10, **options)

    def suite_result(self, suite: Any, result: TextTestResult, **options: Any) -> int:
        """Count, then answer as Django does."""
        self.failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        self.passed = max(0, result.testsRun - len(result.failures) - len(result.unexpectedSuccesses))
        self.passed -= len([1 for test, _ in result.errors if hasattr(test, "_testMethodName")]) + len(result.skipped)
        return super().suite_result(suite, result, **options)
