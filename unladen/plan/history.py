"""Undo and redo as pointers: every edit makes a version with a parent, and one version is the head."""

from __future__ import annotations

from collections.abc import Hashable, Iterable
from typing import TypeVar

K = TypeVar("K", bound=Hashable)


def undo_to(versions: Iterable[tuple[K, K | None]], head: K) -> K | None:
    """The version that stood before the head, of (version, parent) pairs; None at the beginning."""
    return next((parent for version, parent in versions if version == head), None)


def redo_to(versions: Iterable[tuple[K, K | None]], head: K) -> K | None:
    """The version that was made last from the head, of (version, parent) pairs in the order of their making."""
    children = [version for version, parent in versions if parent == head]
    return children[-1] if children else None
