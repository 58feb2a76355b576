"""The parts of a report as plain values: blocks of headings, words, tables, pictures and drawings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from markupsafe import Markup

_SHORT = 14  # rows of a table that stays on one page
_TOP, _BOTTOM = 2, 3  # rows of a long table that stay together at a page's foot and head


@dataclass(frozen=True, slots=True)
class Cell:
    """Text of a cell and a note in small letters after it."""

    text: str
    note: str = ""


@dataclass(frozen=True, slots=True)
class Rows:
    """Rows of a table in one group; a whole group is never divided between two pages."""

    rows: Sequence[Sequence[Cell]]
    whole: bool


@dataclass(frozen=True, slots=True)
class Table:
    """A table whose last `numbers` columns hold figures."""

    heads: Sequence[str]
    rows: Sequence[Sequence[Cell]]
    numbers: int = 0

    @property
    def is_short(self) -> bool:
        """Whether all of it stays on one page."""
        return len(self.rows) <= _SHORT

    def mark(self, column: int) -> Markup:
        """The attribute of a column's cells."""
        return Markup(' class="n"' if column >= len(self.heads) - self.numbers else "")

    def groups(self) -> list[Rows]:
        """Rows that stay together: the first of a long table with its heading, the last with each other."""
        if self.is_short:
            return [Rows(self.rows, True)]
        return [
            Rows(self.rows[:_TOP], True),
            Rows(self.rows[_TOP:-_BOTTOM], False),
            Rows(self.rows[-_BOTTOM:], True),
        ]


@dataclass(frozen=True, slots=True)
class Pictures:
    """A page on a device, as found and now, as data URLs."""

    page: str
    device: str
    before: str
    after: str


@dataclass(frozen=True, slots=True)
class Block:
    """What stands under one heading; `is_note` prints its words softer."""

    title: str = ""
    words: Sequence[str] = ()
    is_note: bool = False
    drawing: Markup | None = None
    pictures: Sequence[Pictures] = ()
    table: Table | None = None
    terms: Sequence[tuple[str, str]] = ()

    @property
    def is_short(self) -> bool:
        """Whether all of it stays on one page."""
        return not self.terms and (self.table is None or self.table.is_short)

    @property
    def is_empty(self) -> bool:
        """Whether it holds nothing to show."""
        return not (self.words or self.drawing or self.pictures or self.terms or (self.table and self.table.rows))


@dataclass(frozen=True, slots=True)
class Part:
    """A part of the report with its heading."""

    id: str
    title: str
    blocks: Sequence[Block]
    opens_appendix: bool = False


def table(heads: Sequence[str], rows: Sequence[Sequence[str | Cell]], numbers: int = 0) -> Table:
    """A table whose cells are texts or cells."""
    made = [[cell if isinstance(cell, Cell) else Cell(cell) for cell in row] for row in rows]
    return Table(heads, made, numbers)
