"""Files written so that nobody ever reads a part of one."""

from __future__ import annotations

import os
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


@contextmanager
def written_whole(path: Path) -> Iterator[Path]:
    """A path beside it to write to.

    What is there at the end takes the file's place, and nothing does after an error.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    temporary = path.with_name(f"{path.name}.{os.getpid()}-{threading.get_ident()}.part")
    try:
        yield temporary
        temporary.replace(path)
    finally:
        temporary.unlink(missing_ok=True)


def write_whole(path: Path, text: str) -> None:
    """The same for a text at hand."""
    with written_whole(path) as temporary:
        temporary.write_text(text)
