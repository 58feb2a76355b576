"""Scripts of ours that run in the pages under examination, each in a file of its own."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

_HERE = Path(__file__).parent


@lru_cache(maxsize=64)
def in_page(name: str) -> str:
    """The text of a script by its name."""
    return (_HERE / f"{name}.js").read_text()
