"""Documents kept with what they were read from: they hold for every capture in which those files are the same."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

from unladen.capture.model import Capture
from unladen.whole import write_whole


class ReadShelf:
    """Documents by key, several of each, with the fingerprints of the files (by URL) that they depend on."""

    def __init__(self, root: Path, most: int) -> None:
        self.root = root
        self.most = most

    def _files(self, key: str) -> list[Path]:
        folder = self._folder(key)
        return sorted(folder.glob("*.json")) if folder.is_dir() else []

    def _folder(self, key: str) -> Path:
        return self.root / hashlib.sha256(key.encode()).hexdigest()[:32]

    def holding(self, capture: Capture, key: str) -> Iterator[tuple[Path, dict[str, Any], str]]:
        """File, notes and document of those that hold for a capture, oldest first; damaged ones are passed over."""
        for file in self._files(key):
            try:
                head, _, document = file.read_text().partition("\n")
                notes = json.loads(head)
                if all(capture.fingerprint(url) == mark for url, mark in notes["reads"].items()):
                    yield file, notes, document
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

    def forget(self, capture: Capture, key: str) -> None:
        """Let those go that hold for a capture."""
        for file, _, _ in self.holding(capture, key):
            file.unlink(missing_ok=True)
