"""The words under which a route of the API stands in the audit log, declared beside the route."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

View = TypeVar("View", bound=Callable[..., object])


def audited(words: str) -> Callable[[View], View]:
    """Mark a route: what its caller did, in the past tense, such as "edited the plan"."""

    def mark(view: View) -> View:
        view.audit_words = words  # type: ignore[attr-defined]
        return view

    return mark


def words_of(view: Callable[..., object]) -> str:
    """The words of a route, "" where it has none."""
    return str(getattr(view, "audit_words", ""))
