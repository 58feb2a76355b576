"""Scripts of ours that run in the pages under examination, each in a file of its own."""

from __future__ import annotations

import hashlib
from functools import lru_cache
from pathlib import Path

_HERE = Path(__file__).parent


@lru_cache(maxsize=64)
def in_page(name: str) -> str:
    """The text of a script by its name."""
    return (_HERE / f"{name}.js").read_text()


def kept_in_page(name: str, *needed: str) -> str:
    """A function of one argument by a script's name; its own state, and that of the scripts it needs, stays in the
    page.
    """
    first = "".join(f"window[Symbol.for('unladen.{other}')] ??= {in_page(other)};\n" for other in needed)
    return f"(asked) => {{ {first} return (window[Symbol.for('unladen.{name}')] ??= {in_page(name)})(asked) }}"


@lru_cache(maxsize=1)
def all_in_page() -> str:
    """A digest of all scripts: what was seen through other ones may be something else."""
    texts = b"\0".join(file.read_bytes() for file in sorted(_HERE.glob("*.js")))
    return hashlib.sha256(texts).hexdigest()
