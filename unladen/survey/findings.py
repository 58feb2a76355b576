"""Something that could go, and what is known of it."""

from __future__ import annotations

from dataclasses import asdict, dataclass, field
from typing import Any, ClassVar, Literal

from unladen.remedies import Change


@dataclass(frozen=True, slots=True, kw_only=True)
class Facts:
    """Base of the evidence of an excess.

    Each kind has its own, told apart by `about`. `where`: selectors of elements.
    """

    about: Any = "places"
    where: list[str] = field(default_factory=list)


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceFacts(Facts):
    """Nothing but where it is."""

    about: Literal["places"] = "places"


@dataclass(frozen=True, slots=True, kw_only=True)
class FilesFacts(Facts):
    """Files by path, with the bytes that each would save where that is known."""

    about: Literal["files"] = "files"
    files: dict[str, int] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Finding:
    """Bytes and requests that could go at a first visit (or at a repeat one, as `visit` says), each file counted once.

    `excess` is its kind, `kind` that of the files. `tried` tells figures that were tried out from estimates.
    `changes` are the cures that there are here, of which one can be chosen, the proposed one first; without any,
    `advice` says what its owner can do about `files`. `facts` hold the evidence.
    """

    id: str
    excess: str
    kind: str
    title: str
    why: str
    pages: tuple[str, ...]
    bytes: int
    of_bytes: int
    requests: int
    tried: bool
    facts: Facts
    changes: tuple[Change[Any], ...] = ()
    advice: str = ""
    visit: str = "first"
    files: tuple[str, ...] = ()

    FIELDS: ClassVar[tuple[str, ...]] = (
        "id", "excess", "kind", "title", "why", "bytes", "of_bytes", "requests", "tried", "advice", "visit",
    )  # fmt: skip

    @property
    def change(self) -> Change[Any] | None:
        """The cure that is proposed."""
        return self.changes[0] if self.changes else None

    @property
    def targets(self) -> tuple[str, ...]:
        """The files that it is about, as paths."""
        return self.changes[0].targets if self.changes else self.files

    def as_json(self) -> dict[str, Any]:
        """Plain values for the API."""
        return {name: getattr(self, name) for name in self.FIELDS} | {
            "pages": list(self.pages),
            "targets": list(self.targets),
            "changes": [change.id for change in self.changes],
            "facts": asdict(self.facts),
        }
