"""What must never be touched."""

from __future__ import annotations

import fnmatch
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlsplit

from unladen.remedies.fields import FieldRefused

_LONGEST = 4_000  # characters of a pattern or a reason
_MOST = 5_000
KINDS = ("files", "pages", "selectors", "hosts")


@dataclass(frozen=True, slots=True)
class KeepNote:
    """What is said of one entry, by kind and pattern: `why` it is kept, and the one `remedy` it is for, "" for all."""

    kind: str
    pattern: str
    why: str = ""
    remedy: str = ""


@dataclass(frozen=True, slots=True)
class KeepList:
    """What must never be touched.

    Patterns (with `*`) of files (paths, or addresses on other hosts), of pages and of hosts; CSS selectors of elements
    whose markup stays as it is, with all that is in them.
    """

    files: tuple[str, ...] = ()
    pages: tuple[str, ...] = ()
    selectors: tuple[str, ...] = ()
    hosts: tuple[str, ...] = ()
    notes: tuple[KeepNote, ...] = ()

    def _counts(self, kind: str, pattern: str, remedy: str) -> bool:
        note = next((n for n in self.notes if (n.kind, n.pattern) == (kind, pattern)), None)
        return note is None or not note.remedy or not remedy or note.remedy == remedy

    def holds_file(self, path: str, remedy: str = "") -> bool:
        """Whether a file is kept as it is, from all remedies or from this one."""
        if any(fnmatch.fnmatchcase(path, p) and self._counts("files", p, remedy) for p in self.files):
            return True
        if not self.hosts or "://" not in path:
            return False
        host = urlsplit(path).hostname or ""
        return any(fnmatch.fnmatchcase(host, p) and self._counts("hosts", p, remedy) for p in self.hosts)

    def holds_page(self, path: str, remedy: str = "") -> bool:
        """Whether a page is kept as it is."""
        return any(fnmatch.fnmatchcase(path, p) and self._counts("pages", p, remedy) for p in self.pages)

    def selectors_for(self, remedy: str) -> tuple[str, ...]:
        """The selectors of what a remedy must not edit."""
        return tuple(s for s in self.selectors if self._counts("selectors", s, remedy))

    def costs(self, excess: Iterable[Mapping[str, Any]]) -> dict[tuple[str, str], int]:
        """What entries that keep files or hosts cost, by kind and pattern, in bytes.

        That is the excess, in plain values, of which all targets are kept by the one entry.
        """
        rows = [(row["targets"], row["bytes"]) for row in excess if row["targets"]]
        alone = {("files", p): KeepList(files=(p,)) for p in self.files} | {
            ("hosts", p): KeepList(hosts=(p,)) for p in self.hosts
        }
        return {
            entry: sum(size for targets, size in rows if all(keep.holds_file(t) for t in targets))
            for entry, keep in alone.items()
        }

    def as_json(self) -> dict[str, Any]:
        """Plain values."""
        notes = [{"kind": n.kind, "pattern": n.pattern, "why": n.why, "remedy": n.remedy} for n in self.notes]
        return {kind: list(getattr(self, kind)) for kind in KINDS} | {"notes": notes}

    @classmethod
    def from_json(cls, data: Any) -> KeepList:
        """Read from a document; raises `FieldRefused`."""
        if not isinstance(data, Mapping):
            raise FieldRefused("keep", "must be an object")
        lists = {kind: texts_of(data.get(kind, []), f"keep.{kind}") for kind in KINDS}
        notes = data.get("notes", [])
        if not isinstance(notes, list) or len(notes) > _MOST or not all(isinstance(n, Mapping) for n in notes):
            raise FieldRefused("keep.notes", f"should be a list of at most {_MOST:,} objects")
        read = tuple(
            KeepNote(*texts_of([n.get(name, "") for name in ("kind", "pattern", "why", "remedy")], "keep.notes"))
            for n in notes
        )
        return cls(**lists, notes=read)


def texts_of(value: Any, place: str) -> tuple[str, ...]:
    """A list of texts; raises `FieldRefused`."""
    if isinstance(value, list | tuple):
        for text in value:
            if not isinstance(text, str) or len(text) > _LONGEST:
                break
        else:
            return tuple(value)
    raise FieldRefused(place, f"should be a list of texts of at most {_LONGEST:,} characters")
