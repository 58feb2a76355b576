"""Which change turned which bytes into which.

Sizes are encoded bodies in bytes as sent; pages are paths, files are URLs.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field

from unladen.errors import Notice


@dataclass(frozen=True, slots=True)
class Edited:
    """A file changed in its place; for all that use it, or for these pages."""

    change: str
    url: str
    before_bytes: int
    after_bytes: int
    pages: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class Replaced:
    """These pages ask for the file `after` where they asked for `before`."""

    change: str
    before: str
    after: str
    before_bytes: int
    after_bytes: int
    pages: frozenset[str]


@dataclass(frozen=True, slots=True)
class Offered:
    """These pages may ask for the file `after` instead of `before`, as the browser chooses.

    `measured`: browsers fetch such files in parts, so that what was saved is read from the requests and not from the
    sizes.
    """

    change: str
    before: str
    after: str
    before_bytes: int
    after_bytes: int
    pages: frozenset[str]
    measured: bool = False


@dataclass(frozen=True, slots=True)
class Added:
    """A file that takes the place of none."""

    change: str
    url: str
    bytes: int
    pages: frozenset[str]


@dataclass(frozen=True, slots=True)
class Spared:
    """A page does not ask for a file any more until it is wanted, or for good."""

    change: str
    url: str
    page: str


@dataclass(frozen=True, slots=True)
class Withheld:
    """A page does not ask for a file any more until it is wanted, nor for all that the file causes."""

    change: str
    url: str
    page: str


Entry = Edited | Replaced | Offered | Added | Spared | Withheld
# What a file as found has gone through on its way to what a page asks for.
Step = Edited | Replaced | Offered


@dataclass(slots=True)
class Journal:
    """All entries in order, and what could not be done."""

    entries: list[Entry] = field(default_factory=list)
    notices: list[Notice] = field(default_factory=list)
    _edits: dict[str, list[Edited]] = field(default_factory=lambda: defaultdict(list))
    _steps: dict[str, list[tuple[int, Step]]] = field(default_factory=lambda: defaultdict(list))
    _spared: dict[tuple[str, str], str] = field(default_factory=dict)
    _withheld: dict[tuple[str, str], str] = field(default_factory=dict)
    _makers: dict[str, list[Edited | Replaced | Offered | Added]] = field(default_factory=lambda: defaultdict(list))

    def write(self, entry: Entry) -> None:
        """Add an entry; of several changes that spare a page the same file the last one counts."""
        match entry:
            case Edited():
                self._edits[entry.url].append(entry)
                if entry.pages:
                    self._steps[entry.url].append((len(self.entries), entry))
                    self._makers[entry.url].append(entry)
            case Replaced() | Offered():
                self._steps[entry.before].append((len(self.entries), entry))
                self._makers[entry.after].append(entry)
            case Added():
                self._makers[entry.url].append(entry)
            case Spared():
                self._spared[(entry.url, entry.page)] = entry.change
            case Withheld():
                self._withheld[(entry.url, entry.page)] = entry.change
        self.entries.append(entry)

    def spared_by(self, url: str, page: str) -> str:
        """The change that spares a page this file, or ""."""
        return self._spared.get((url, page), "")

    def withheld_by(self, url: str, page: str) -> str:
        """The change that withholds this file from a page with all that it causes, or ""."""
        return self._withheld.get((url, page), "")

    def edits_of(self, url: str) -> list[Edited]:
        """The steps of a file changed in its place."""
        return list(self._edits.get(url, ()))

    def chains_of(self, url: str, page: str) -> dict[str, list[Step]]:
        """For a file as found: the steps to it as it is now, and to each file that the page may show instead."""
        chains: dict[str, list[Step]] = {url: []}
        waiting = [(number, step) for number, step in self._steps.get(url, ()) if page in step.pages]
        while waiting:
            number, step = min(waiting, key=lambda entry: entry[0])
            waiting.remove((number, step))
            if isinstance(step, Edited):
                chains[step.url] = [*chains[step.url], step]
                continue
            new = step.after not in chains
            chains[step.after] = [*chains[step.before], step]
            if new:  # its own steps count from the moment that it is there
                waiting += [(n, s) for n, s in self._steps.get(step.after, ()) if n > number and page in s.pages]
        return chains

    def maker_of(self, url: str, page: str) -> str:
        """The change that made a file for a page, or ""."""
        return next((e.change for e in reversed(self._makers.get(url, ())) if page in e.pages), "")
