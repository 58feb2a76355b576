"""As found less now equals the sum over the changes, to the byte and to the request.

Each weigh-in before has its counterpart after. A request is followed through the journal: to itself if it was edited
in place, to the file that took its place, or to nothing if it was put off. What no change explains stands on a line
of its own, and the tests say that it is nothing.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from unladen.capture import Capture
from unladen.capture.addresses import canonical
from unladen.errors import UnladenError
from unladen.plan import Plan
from unladen.remedies import Journal, order_of
from unladen.remedies.journal import Offered, Step
from unladen.weigh.records.model import Request, WeighIn
from unladen.weigh.records.parties import Causes


class NotComparable(UnladenError):
    """Weigh-ins that were not taken under the same conditions."""


@dataclass(slots=True)
class Saving:
    """Bytes (transferred) and requests that went; negative when they came."""

    bytes: int = 0
    requests: int = 0

    def add(self, bytes_: int, requests: int = 0) -> None:
        """Add to this sum."""
        self.bytes += bytes_
        self.requests += requests

    def as_json(self) -> dict[str, int]:
        """Plain values."""
        return {"bytes": self.bytes, "requests": self.requests}


@dataclass(slots=True)
class Account:
    """`lines[(change, page, device)]` is what a change saved at one weigh-in; `unexplained` has no change."""

    before: Saving = field(default_factory=Saving)
    after: Saving = field(default_factory=Saving)
    lines: dict[tuple[str, str, str], Saving] = field(default_factory=lambda: defaultdict(Saving))
    by_kind: dict[str, Saving] = field(default_factory=lambda: defaultdict(Saving))
    unexplained: Saving = field(default_factory=Saving)

    def saved_by(self, change: str) -> Saving:
        """What one change saved over all weigh-ins."""
        total = Saving()
        for (name, _, _), saving in self.lines.items():
            if name == change:
                total.add(saving.bytes, saving.requests)
        return total

    def by_remedy(self, plan: Plan) -> dict[str, Saving]:
        """What each kind of remedy saved over all weigh-ins, in the order of the phases."""
        totals: dict[str, Saving] = {}
        for change in sorted(plan.changes, key=lambda c: order_of(c.remedy)):
            saved = self.saved_by(change.id)
            if saved != Saving():
                totals.setdefault(change.remedy, Saving()).add(saved.bytes, saved.requests)
        return totals

    def adds_up(self) -> bool:
        """Whether nothing is unexplained and the sum is right, to the byte and to the request."""
        total = Saving(self.unexplained.bytes, self.unexplained.requests)
        for saving in self.lines.values():
            total.add(saving.bytes, saving.requests)
        gone = Saving(self.before.bytes - self.after.bytes, self.before.requests - self.after.requests)
        return gone == total and self.unexplained == Saving()

    def rows(self) -> list[dict[str, Any]]:
        """The lines as plain values."""
        return [
            {"change": change, "page": page, "device": device, **saving.as_json()}
            for (change, page, device), saving in sorted(self.lines.items())
        ]


def account(capture: Capture, journal: Journal, before: Sequence[WeighIn], after: Sequence[WeighIn]) -> Account:
    """The account of two series of weigh-ins of the same pages; `capture` is the lightened one.

    Raises `NotComparable`.
    """
    if [(w.page, w.conditions) for w in before] != [(w.page, w.conditions) for w in after]:
        raise NotComparable("the weigh-ins were taken of other pages or under other conditions")
    result = Account()
    for first, second in zip(before, after, strict=True):
        _Pairing(capture, journal, first, second, result).run()
    return result


class _Pairing:
    """Follows the requests of one weigh-in to those of its counterpart."""

    def __init__(self, capture: Capture, journal: Journal, before: WeighIn, after: WeighIn, result: Account) -> None:
        self.capture = capture
        self.journal = journal
        self.before, self.after = before, after
        self.page, self.device = before.page, before.conditions.device.name
        self.result = result
        self.causes: Causes | None = None
        self.left: dict[str, list[Request]] = defaultdict(list)
        for request in after.visit.requests:
            if not request.cached:
                self.left[self._file(request.url)].append(request)

    def _file(self, url: str) -> str:
        exchange = self.capture.lookup(url)
        return exchange.url if exchange else url

    def run(self) -> None:
        gone: list[Request] = []
        for request in self.before.visit.requests:
            if request.cached:
                continue
            self.result.before.add(request.transferred, 1)
            self.result.by_kind[request.kind].add(request.transferred, 1)
            if not self._same_file(request):
                gone.append(request)
        # Of two files that became one, the one that stays takes the request, and the other's is spared.
        for request in sorted(gone, key=lambda r: bool(self.journal.spared_by(self._file(r.url), self.page))):
            self._elsewhere(request)
        for url, rest in self.left.items():
            # One file shown at two sizes may have become two files; a film may be asked for in more parts than before.
            change = self.journal.maker_of(url, self.page) if rest else ""
            change = change or (self._toucher(url) if rest and rest[0].kind == "media" else "")
            sum_ = self._line(change) if change and rest else self.result.unexplained
            for request in rest:
                sum_.add(-request.transferred, -1)
        for request in self.after.visit.requests:
            if not request.cached:
                self.result.after.add(request.transferred, 1)
                self.result.by_kind[request.kind].add(-request.transferred, -1)

    def _same_file(self, request: Request) -> bool:
        url = self._file(request.url)
        if not self.left[url]:
            return False
        partner = self.left[url].pop(0)
        steps = [s for s in self.journal.edits_of(url) if not s.pages or self.page in s.pages]
        difference = request.transferred - partner.transferred
        if request.kind == "media" and not steps and (change := self._toucher(url)):
            self._line(change).add(difference)
        else:
            self._explain(steps, difference)
        return True

    def _toucher(self, url: str) -> str:
        """The change that decides when or whether this page loads a film, which comes in parts of any size."""
        return self.journal.spared_by(url, self.page) or self.journal.withheld_by(url, self.page)

    def _elsewhere(self, request: Request) -> None:
        url = self._file(request.url)
        chains = self.journal.chains_of(url, self.page)
        # The last file made comes first: of several the later ones are the smaller.
        for last in reversed(chains):
            if self.left[last]:
                partner = self.left[last].pop(0)
                self._explain(chains[last], request.transferred - partner.transferred)
                return
        put_off = self.journal.spared_by(url, self.page) or self.journal.withheld_by(url, self.page)
        if not put_off and (holder := self._withheld_by(request)):
            self._line(holder).add(request.transferred, 1)
            return
        if not put_off:
            self.result.unexplained.add(request.transferred, 1)
            return
        # The bytes that it had by then belong to the change that put it off, the others to those before.
        chain = list(chains.values())[-1] or [step for step in self.journal.edits_of(url) if not step.pages]
        explained = sum(step.before_bytes - step.after_bytes for step in chain)
        self._explain(chain, explained)
        self._line(put_off).add(request.transferred - explained, 1)

    def _withheld_by(self, request: Request) -> str:
        """The change that keeps back what caused a request, or the request itself.

        The innermost if there are several.
        """
        if self.causes is None:
            self.causes = Causes(self.before.visit.requests, self.capture.base_url)
        number = next(i for i, other in enumerate(self.causes.requests) if other is request)
        for i in reversed(self.causes.chain(number)):
            url = canonical(self.causes.requests[i].url)
            if holder := self.journal.withheld_by(url, self.page):
                return holder
        return ""

    def _explain(self, steps: Sequence[Step], difference: int) -> None:
        for step in steps:
            measured = isinstance(step, Offered) and step.measured
            saved = difference if measured else step.before_bytes - step.after_bytes
            self._line(step.change).add(saved)
            difference -= saved
        self.result.unexplained.add(difference)

    def _line(self, change: str) -> Saving:
        return self.result.lines[(change, self.page, self.device)]


__all__ = ["Account", "NotComparable", "Saving", "account"]
