"""What pages weigh more than before, and who brought it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any
from urllib.parse import urlsplit

from unladen.weigh.records.model import WeighIn
from unladen.weigh.records.parties import SITE, Causes, Rule

# Less is what servers and stamps in addresses do by themselves (common practice, no source).
_LEAST, _SHARE = 1_000, 0.01  # bytes, of what it weighed


@dataclass(frozen=True, slots=True)
class Grower:
    """Who brings more by so many bytes."""

    name: str
    bytes: int


@dataclass(frozen=True, slots=True)
class Grown:
    """A page on a device that weighs more: bytes transferred before and after, and who brought the difference."""

    page: str
    device: str
    before: int
    after: int
    by: tuple[Grower, ...]

    def as_json(self) -> dict[str, Any]:
        """Plain values."""
        return asdict(self) | {"by": [asdict(grower) for grower in self.by]}


def grown(before: Sequence[WeighIn], after: Sequence[WeighIn], rules: Sequence[Rule] = ()) -> list[Grown]:
    """The pages that weigh at least 1 kB and a hundredth more under the same conditions, those that grew most first."""
    now = {(weigh_in.page, weigh_in.conditions): weigh_in for weigh_in in after}
    result = []
    for old in before:
        new = now.get((old.page, old.conditions))
        if new is None:
            continue
        more = new.visit.transferred - old.visit.transferred
        if more >= max(_LEAST, _SHARE * old.visit.transferred):
            sizes = old.visit.transferred, new.visit.transferred
            result.append(Grown(old.page, old.conditions.device.name, *sizes, _growers(old, new, rules)))
    return sorted(result, key=lambda row: row.before - row.after)


def _growers(old: WeighIn, new: WeighIn, rules: Sequence[Rule]) -> tuple[Grower, ...]:
    then, now = (_by_bringer(weigh_in, rules) for weigh_in in (old, new))
    rows = [Grower(name, now.get(name, 0) - then.get(name, 0)) for name in {**then, **now}]
    return tuple(sorted((row for row in rows if row.bytes > 0), key=lambda row: (-row.bytes, row.name))[:5])


def _by_bringer(weigh_in: WeighIn, rules: Sequence[Rule]) -> dict[str, int]:
    """Bytes by who brought them; the site's own by kind. The first request says which host is the site's."""
    requests = weigh_in.visit.requests
    home = requests[0].url if requests else ""
    base = f"{urlsplit(home).scheme}://{urlsplit(home).netloc}/"
    causes = Causes(requests, base, rules)
    sums: dict[str, int] = {}
    for request, bringer in zip(requests, causes.bringers, strict=True):
        name = f"own {request.kind}" if bringer.kind == SITE else bringer.name or bringer.kind
        sums[name] = sums.get(name, 0) + request.transferred
    return sums
