"""Settings from the environment."""

from __future__ import annotations

import os


def whole_number(name: str, usual: int) -> int:
    """What a variable says, or what is usual where it says nothing of the kind."""
    said = os.environ.get(name, "")
    return int(said) if said.isascii() and said.isdigit() else usual
