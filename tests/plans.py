"""Changes made from plain values, as a document would have them."""

from __future__ import annotations

from typing import Any

from unladen.remedies import Change, remedy_named


def change(
    id: str,
    remedy: str,
    targets: tuple[str, ...],
    pages: tuple[str, ...],
    params: dict[str, Any] | None = None,
    **flags: bool,
) -> Change[Any]:
    """A change with its parameters checked."""
    return Change(id, remedy, targets, pages, remedy_named(remedy).params.from_json(params or {}), **flags)
