"""Documents kept with what they were read from: they hold for every capture in which those files are the same."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from typing import Any

from unladen.atomic_files import write_whole
from unladen.capture.model import Capture


class ReadShelf:
    """Documents by key, several of each, with the marks of the files (by URL) that they depend on, as `mark` makes
    them.
    """

    def __init__(self, root: Path, most: int, mark: Callable[[Capture, str], str] = Capture.fingerprint) -> None:
        self.root = root
        self.most = most
        self._mark = mark

    def _files(self, key: str) -> list[Path]:
        folder = self._folder(key)
        return sorted(folder.glob("*.json")) if folder.is_dir() else []

    def _folder(self, key: str) -> Path:
        return self.root / hashlib.sha256(key.encode()).hexdigest()[:32]

    def holding(self, capture: Capture, key: str, *, newest: bool = False) -> Iterator[tuple[dict[str, Any], str]]:
        """Notes and document of those that hold for a capture, oldest first unless told otherwise.

        Documents are long, so only those that hold are read; damaged ones are passed over.
        """
        for file in sorted(self._files(key), reverse=newest):
            try:
                with file.open() as lines:
                    notes = json.loads(lines.readline())
                    if all(self._mark(capture, url) == mark for url, mark in notes["reads"].items()):
                        yield notes, lines.read()
            except (OSError, ValueError, KeyError, TypeError, AttributeError):
                continue

    def keep(self, key: str, reads: Mapping[str, str], notes: Mapping[str, Any], document: str) -> None:
        """Keep a document; of too many the oldest goes. `notes` can be read without it."""
        files = self._files(key)
        for old in files[: max(0, len(files) - self.most + 1)]:
            old.unlink(missing_ok=True)
        number = int(files[-1].stem) + 1 if files else 1
        head = json.dumps({**notes, "reads": dict(reads)})
        write_whole(self._folder(key) / f"{number:06}.json", f"{head}\n{document}")
