"""What a difference points at: which changes touch the element, the file shown there, the script that failed."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass

from unladen.capture import Capture
from unladen.capture.addresses import url_of_site_path
from unladen.check.pairs import Difference
from unladen.check.snapshot import Snapshot
from unladen.plan import Unit
from unladen.remedies import Journal

# Differences that are about one file in its place and nothing else.
_OF_ONE_FILE = ("picture", "broken-image", "missing")
# These are about what is not there yet.
_ON_ARRIVAL = "arrival"
_NAME = re.compile(r"[.#](?:[-\w]|\\.)+|\[[-\w]+")


@dataclass(frozen=True, slots=True)
class Evidence:
    """Units in the order of suspicion. `direct`: each has a difference of its own; `near` are those it points at."""

    direct: dict[Unit, Difference]
    near: list[Unit]
    rest: list[Unit]

    @property
    def ranked(self) -> list[Unit]:
        """All of them, the most suspicious first."""
        return [*self.direct, *self.near, *self.rest]


def pointed_at(
    units: Sequence[Unit],
    differences: Sequence[Difference],
    capture: Capture,
    page: str,
    journal: Journal,
    before: Snapshot,
    after: Snapshot,
    late: Collection[str] = (),
    pieces_of: Callable[[Unit], Sequence[str]] = lambda unit: (),
) -> Evidence:
    """Sort units by what the differences are about; `page` is a path, the journal that of all of them together.

    `late`: the changes by which something comes later than it did; `pieces_of` tells the pieces of what a unit does.
    """
    shown = _files_by_place(before), _files_by_place(after)
    of_file: dict[str, list[Unit]] = {}
    for unit in units:
        for name in _names_of(unit, capture, page, journal):
            of_file.setdefault(name, []).append(unit)
    direct: dict[Unit, Difference] = {}
    near: dict[Unit, None] = {}
    for difference in differences:
        if difference.what == _ON_ARRIVAL:
            near |= {unit: None for unit in units if unit.change in late}
            continue
        if difference.clues:
            near |= {unit: None for unit in units if pieces_named(pieces_of(unit), difference.clues)}
        lead = difference.places[:1]
        files = [*_files(lead, shown), *difference.files]
        blamed = [unit for url in files for unit in of_file.get(url, ())]
        if difference.what in _OF_ONE_FILE and blamed:
            for unit in blamed:
                direct.setdefault(unit, difference)
        else:
            near |= dict.fromkeys(blamed)
            near |= dict.fromkeys(u for url in _files_near(lead, shown) for u in of_file.get(url, ()))
    near = {unit: None for unit in near if unit not in direct}
    return Evidence(direct, list(near), [u for u in units if u not in direct and u not in near])


def pieces_named(pieces: Sequence[str], clues: Collection[str]) -> list[str]:
    """Pieces (names such as `.open`, or selectors) that clues name, or that name a clue."""
    said = " ".join(clues)
    words = set(_NAME.findall(said))
    return [piece for piece in pieces if piece in said or not words.isdisjoint(_NAME.findall(piece))] if said else []


def _files_by_place(snapshot: Snapshot) -> dict[str, list[str]]:
    result: dict[str, list[str]] = {}
    for place, _, _, url in snapshot.values("picture").get("images") or ():
        result.setdefault(place, []).append(url)
    return result


def _files(places: Iterable[str], shown: Sequence[dict[str, list[str]]]) -> list[str]:
    return [url for place in places for table in shown for url in table.get(place, ())]


def _files_near(places: Iterable[str], shown: Sequence[dict[str, list[str]]]) -> list[str]:
    """The files shown within an element, or right before it: what they do moves it."""
    files: list[str] = []
    for place in places:
        above = place.rpartition(" > ")[0]
        for table in shown:
            for other, urls in table.items():
                if other.startswith(place + " > ") or (above and other.startswith(above + " > ")):
                    files += urls
    return files


def _names_of(unit: Unit, capture: Capture, page: str, journal: Journal) -> set[str]:
    """The addresses of all files that a unit takes or makes on a page."""
    url = url_of_site_path(capture.base_url, unit.target)
    names = {url}
    for entry in journal.entries:
        if entry.change != unit.change:
            continue
        old, new = getattr(entry, "before", ""), getattr(entry, "after", "")
        if old == url and new:
            names.add(new)
    # Through what other changes made of it.
    for made in journal.chains_of(url, page):
        if journal.maker_of(made, page) == unit.change:
            names.add(made)
    return names
