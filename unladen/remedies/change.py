"""One change: a remedy on stated targets."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, field
from typing import Generic, Self, TypeVar

from unladen.remedies.fields import Record


@dataclass(frozen=True, slots=True, kw_only=True)
class Params(Record):
    """Base of the parameters of a remedy; this one is for those that have none."""

    def pieces(self) -> tuple[str, ...]:
        """Names of what the remedy does to a target, where some of it can be left out alone; neighbours belong
        together.
        """
        return ()

    def joined(self, other: Params) -> Self | None:
        """Parameters that do for both of what two changes are about; None where nothing does."""
        return self if self == other else None

    def sparing(self, pieces: Collection[str]) -> Self:
        """The same without these pieces."""
        return self


P = TypeVar("P", bound=Params, covariant=True)


@dataclass(frozen=True, slots=True)
class Change(Generic[P]):
    """A remedy on stated targets. Targets and pages are paths from the site's root such as `/img/a.jpg`.

    What lies on other hosts is named by its address. `pages` is the scope. `on`: wanted. `insist`: wanted whatever a
    check finds. `chosen`: the user made it, so that no new proposal takes its place.
    """

    id: str
    remedy: str
    targets: tuple[str, ...]
    pages: tuple[str, ...]
    params: P = field(default_factory=Params)  # type: ignore[assignment]
    on: bool = True
    insist: bool = False
    chosen: bool = False
