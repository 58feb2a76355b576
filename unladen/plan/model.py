"""One change of a plan."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

# Remedies run in this order, whatever the order in the plan.
PHASES = (
    "embed", "hold", "endless",
    "merge", "exact", "svg", "shrink", "recompress", "webp", "avif", "widths", "phone", "inline", "reserve", "lazy",
    "late", "film", "wait", "poster", "priority",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Change:
    """A remedy on stated targets. Targets and pages are paths from the site's root such as `/img/a.jpg`.

    `pages` is the scope. `set_aside` says why a check took it out; a change counts only when `on` and not set aside.
    `insist` means that the user wants it whatever the check finds.
    """

    id: str
    remedy: str
    targets: tuple[str, ...]
    pages: tuple[str, ...]
    params: dict[str, Any] = field(default_factory=dict)
    on: bool = True
    set_aside: str = ""
    insist: bool = False

    @property
    def counts(self) -> bool:
        """Whether a build carries it out."""
        return self.on and not self.set_aside

    def as_json(self) -> dict[str, Any]:
        """Plain values, as in the published plan."""
        return {
            "id": self.id,
            "remedy": self.remedy,
            "targets": list(self.targets),
            "pages": list(self.pages),
            "params": dict(self.params),
            "on": self.on,
            "set_aside": self.set_aside,
            "insist": self.insist,
        }
