"""A plan checked page by page; what makes a difference is named and set aside. The plan itself stays as it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import count

from unladen.build import build
from unladen.capture import Capture, Exchange
from unladen.capture.addresses import site_path
from unladen.check.compare import compare
from unladen.check.culprit import culprits
from unladen.check.looking import Checker, Look
from unladen.check.outcomes import ChangeOutcome, Outcomes, Standing, judged
from unladen.check.pairs import Pair
from unladen.check.shelf import LookPair, LookShelf
from unladen.memo import Memo
from unladen.plan import Plan
from unladen.progress import Progress
from unladen.remedies import Journal
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.records.conditions import Device

# From this round on, all changes of a page that still differs are set aside, to come to an end.
_LAST_ROUNDS = 6


@dataclass(frozen=True, slots=True)
class Verdict:
    """What of a plan passes, what that makes of the capture, the pairs looked at, and what was set aside on the way."""

    out: Outcomes
    capture: Capture
    journal: Journal
    pairs: list[Pair]


class Check:
    """Checks plans against the capture as found; looks at unchanged pages are taken twice and kept."""

    def __init__(
        self, browser: Browser, capture: Capture, memo: Memo, pages: Sequence[Exchange], devices: Sequence[Device]
    ) -> None:
        self.checker = Checker(browser)
        self.capture = capture
        self.memo = memo
        self.spots = [(page, device) for page in pages for device in devices]
        self._shelf = LookShelf(memo.root / "looks", memo.store, browser.version)
        self._reference = capture
        self._dead: dict[tuple[str, str], LookPair] = {}
        # What came of every set of changes that was asked about, by page, device and ids.
        self._asked: dict[tuple[str, str, frozenset[str]], Pair] = {}

    def run(self, plan: Plan, out: Outcomes, progress: Progress) -> Verdict:
        """Set changes aside until every page looks as before, beside those that are `out`; raises `Cancelled`."""
        self._refer_to(plan)
        pairs: dict[tuple[str, str], Pair] = {}
        waiting = list(self.spots)
        # Comes to an end, since every round takes at least one change out of those that count.
        for turn in count():
            current = plan.without(out.out)
            lighter, journal = build(self.capture, current, self.memo)
            blamed: dict[str, ChangeOutcome] = {}
            for page in dict.fromkeys(page for page, _ in waiting):
                devices = [device for other, device in waiting if other == page]
                progress.step("check", waiting.index((page, devices[0])), len(waiting), self._path(page))
                for device, pair in zip(devices, self._pairs(lighter, page, devices), strict=True):
                    if not pair.passed:
                        pair = self._blame(current, page, device, pair, progress, turn, blamed)
                    pairs[(page.url, device.name)] = pair
            if not blamed:
                break
            out = out.with_(blamed.values())
            touched = {page for change in plan.changes if change.id in blamed for page in change.pages}
            waiting = [spot for spot in self.spots if self._path(spot[0]) in touched]
        progress.step("check", len(self.spots), len(self.spots))
        ordered = [pairs[(page.url, device.name)] for page, device in self.spots]
        return Verdict(out, lighter, journal, ordered)

    def _path(self, page: Exchange) -> str:
        return site_path(self.capture.base_url, page.url)

    def _refer_to(self, plan: Plan) -> None:
        """What the user insists on is part of what all else is compared with."""
        wanted = [change.id for change in plan.counting() if change.insist]
        reference = build(self.capture, plan.with_only(wanted), self.memo)[0] if wanted else self.capture
        if reference.exchanges != self._reference.exchanges:
            self._dead.clear()
            self._asked.clear()
        self._reference = reference

    def _pairs(self, lighter: Capture, page: Exchange, devices: Sequence[Device]) -> list[Pair]:
        found = self._as_found(page, devices)
        after = self.checker.look_all(lighter, [(page.url, device) for device in devices])
        return [
            Pair(
                self._path(page),
                device.name,
                compare(before, again, now),
                self._keep(before.picture),
                self._keep(now.picture),
                now.width or device.width,
            )
            for device, (before, again), now in zip(devices, found, after, strict=True)
        ]

    def _keep(self, picture: bytes) -> str:
        return self.memo.store.put(picture) if picture else ""

    def _as_found(self, page: Exchange, devices: Sequence[Device]) -> list[LookPair]:
        """Two looks at the unchanged page for each device, from the shelf where they stand there."""
        found: dict[str, LookPair] = {}
        for device in devices:
            kept = self._shelf.find(self._reference, page.url, device) or self._dead.get((page.url, device.name))
            if kept:
                found[device.name] = kept
        new = [device for device in devices if device.name not in found]
        looks = self.checker.look_all(self._reference, [(page.url, device) for device in new for _ in range(2)])
        for number, device in enumerate(new):
            found[device.name] = self._note(page, device, looks[2 * number], looks[2 * number + 1])
        return [found[device.name] for device in devices]

    def _note(self, page: Exchange, device: Device, first: Look, second: Look) -> LookPair:
        pair = (first, second)
        if not self._shelf.keep(self._reference, page.url, device, pair):
            self._dead[(page.url, device.name)] = pair
        return pair

    def _blame(
        self,
        plan: Plan,
        page: Exchange,
        device: Device,
        pair: Pair,
        progress: Progress,
        turn: int,
        blamed: dict[str, ChangeOutcome],
    ) -> Pair:
        """Add the changes that make the difference.

        In the last rounds all that touch the page. Returns what is left of it.
        """
        path = self._path(page)
        counting = plan.counting()
        wanted = [c.id for c in counting if c.insist]
        suspects = [c.id for c in counting if path in c.pages and c.id not in blamed and not c.insist]
        if not suspects:
            return pair

        def ask(changes: Sequence[str], *, anew: bool = False) -> Pair:
            key = (page.url, device.name, frozenset((*wanted, *changes)))
            if anew or key not in self._asked:
                progress.step("check", 0, 1, f"looking for the cause on {path}, {device.name}")
                candidate, _ = build(self.capture, plan.with_only([*wanted, *changes]), self.memo)
                self._asked[key] = self._pairs(candidate, page, [device])[0]
            return self._asked[key]

        # More looks: a page that is itself again twice was restless, or its cause has just been found.
        if ask(suspects).passed and ask(suspects, anew=True).passed:
            return replace(pair, differences=())
        if turn >= _LAST_ROUNDS:
            guilty = suspects
        else:
            search = culprits(suspects, lambda changes: not ask(changes).passed)
            if not search.guilty:
                return self._restless(page, device, pair, ask([]))
            guilty = search.guilty
        reason = f"{path} on {device.name}: {pair.differences[0].text}"
        for change in counting:
            if change.id in guilty:
                blamed[change.id] = ChangeOutcome(change.id, Standing.SET_ASIDE, reason, pair, judged(change))
        return pair

    def _restless(self, page: Exchange, device: Device, pair: Pair, unchanged: Pair) -> Pair:
        """The unchanged page differs from itself: what it shows of that kind is held against nobody.

        The looks kept of it did not tell, so they are taken anew next time.
        """
        self._shelf.forget(self._reference, page.url, device)
        kinds = {difference.what for difference in unchanged.differences}
        return replace(pair, differences=tuple(d for d in pair.differences if d.what not in kinds))
