"""A plan checked page by page; what makes a difference is named and set aside."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from itertools import count
from typing import Any

from unladen.build import Journal, build
from unladen.capture import Capture, Exchange
from unladen.capture.addresses import site_path
from unladen.check.compare import Difference, compare
from unladen.check.culprit import culprits
from unladen.check.looking import Checker, Look
from unladen.check.shelf import LookShelf
from unladen.memo import Memo
from unladen.plan import Change, Plan
from unladen.progress import Progress
from unladen.weigh.browser import Browser
from unladen.weigh.conditions import Device

# From this round on, all changes of a page that still differs are set aside, to come to an end.
_LAST_ROUNDS = 6


@dataclass(slots=True)
class Pair:
    """A page on a device as found and now; `differences` is empty when the check passes.

    `before` and `after` are digests of PNG pictures in the capture's store, "" where none could be taken.
    """

    page: str
    device: str
    differences: list[Difference]
    before: str = ""
    after: str = ""

    @property
    def passed(self) -> bool:
        """Whether nothing differs."""
        return not self.differences

    def as_json(self) -> dict[str, Any]:
        """Plain values."""
        return {
            "page": self.page,
            "device": self.device,
            "passed": self.passed,
            "differences": [difference.as_json() for difference in self.differences],
            "before": self.before,
            "after": self.after,
        }


@dataclass(slots=True)
class SetAside:
    """A change that was taken out, and the pair that shows why."""

    change: str
    reason: str
    pair: Pair


@dataclass(slots=True)
class Verdict:
    """The plan that passes, what it makes of the capture, the pairs looked at, and what was set aside on the way."""

    plan: Plan
    capture: Capture
    journal: Journal
    pairs: list[Pair]
    set_aside: list[SetAside] = field(default_factory=list)


class Check:
    """Checks plans against the capture as found; looks at unchanged pages are taken twice and kept."""

    def __init__(
        self, browser: Browser, capture: Capture, memo: Memo, pages: Sequence[Exchange], devices: Sequence[Device]
    ) -> None:
        self.browser = browser
        self.checker = Checker(browser)
        self.capture = capture
        self.memo = memo
        self.spots = [(page, device) for page in pages for device in devices]
        self._shelf = LookShelf(memo.root / "looks", memo.store, browser.version)
        self._reference = capture
        self._dead: dict[tuple[str, str], tuple[Look, Look]] = {}

    def run(self, plan: Plan, progress: Progress) -> Verdict:
        """Set changes aside until every page looks as before; raises `Cancelled`."""
        set_aside: list[SetAside] = []
        self._refer_to(plan)
        pairs: dict[tuple[str, str], Pair] = {}
        waiting = list(self.spots)
        # Comes to an end, since every round takes at least one change out of those that count.
        for turn in count():
            lighter, journal = build(self.capture, plan, self.memo)
            blamed: list[SetAside] = []
            for page in dict.fromkeys(page for page, _ in waiting):
                devices = [device for other, device in waiting if other == page]
                path = site_path(self.capture.base_url, page.url)
                progress.step("check", waiting.index((page, devices[0])), len(waiting), path)
                for device, pair in zip(devices, self._pairs(lighter, page, devices), strict=True):
                    pairs[(page.url, device.name)] = pair
                    if not pair.passed:
                        already = {entry.change for entry in blamed}
                        blamed += self._blame(plan, path, page, device, pair, progress, turn, already)
            if not blamed:
                break
            set_aside += blamed
            reasons = {entry.change: entry.reason for entry in blamed}
            touched = {page for c in plan.changes if c.id in reasons for page in c.pages}
            plan = plan.changed(lambda c, r=reasons: replace(c, set_aside=r[c.id]) if c.id in r else c)  # type: ignore[misc]
            waiting = [spot for spot in self.spots if site_path(self.capture.base_url, spot[0].url) in touched]
        progress.step("check", len(self.spots), len(self.spots))
        ordered = [pairs[(page.url, device.name)] for page, device in self.spots]
        return Verdict(plan, lighter, journal, ordered, set_aside)

    def _refer_to(self, plan: Plan) -> None:
        """What the user insists on is part of what all else is compared with."""
        wanted = [change.id for change in plan.counting() if change.insist]
        reference = build(self.capture, plan.with_only(wanted), self.memo)[0] if wanted else self.capture
        if reference.exchanges != self._reference.exchanges:
            self._dead.clear()
        self._reference = reference

    def _pairs(self, lighter: Capture, page: Exchange, devices: Sequence[Device]) -> list[Pair]:
        path = site_path(self.capture.base_url, page.url)
        found = self._as_found(page, devices)
        after = self._look(lighter, [(page.url, device) for device in devices])
        return [
            Pair(path, device.name, compare(before, again, now), self._keep(before.picture), self._keep(now.picture))
            for device, (before, again), now in zip(devices, found, after, strict=True)
        ]

    def _keep(self, picture: bytes) -> str:
        return self.memo.store.put(picture) if picture else ""

    def _as_found(self, page: Exchange, devices: Sequence[Device]) -> list[tuple[Look, Look]]:
        """Two looks at the unchanged page for each device, from the shelf where they stand there."""
        found: dict[str, tuple[Look, Look]] = {}
        for device in devices:
            kept = self._shelf.find(self._reference, page.url, device) or self._dead.get((page.url, device.name))
            if kept:
                found[device.name] = kept
        new = [device for device in devices if device.name not in found]
        looks = self._look(self._reference, [(page.url, device) for device in new for _ in range(2)])
        for number, device in enumerate(new):
            pair = (looks[2 * number], looks[2 * number + 1])
            found[device.name] = pair
            if not self._shelf.keep(self._reference, page.url, device, pair):
                self._dead[(page.url, device.name)] = pair
        return [found[device.name] for device in devices]

    def _look(self, capture: Capture, spots: Sequence[tuple[str, Device]]) -> list[Look]:
        self.browser.replay.capture = capture
        return self.checker.look_all(spots)

    def _blame(
        self,
        plan: Plan,
        path: str,
        page: Exchange,
        device: Device,
        pair: Pair,
        progress: Progress,
        turn: int,
        already: set[str],
    ) -> list[SetAside]:
        """The changes that make the difference; in the last rounds all that touch the page."""
        counting = plan.counting()
        wanted = [c.id for c in counting if c.insist]
        suspects = [c for c in counting if path in c.pages and c.id not in already and not c.insist]
        if not suspects:
            return []

        def fails(changes: list[Change]) -> bool:
            progress.step("check", 0, 1, f"looking for the cause on {path}, {device.name}")
            candidate, _ = build(self.capture, plan.with_only([*wanted, *(c.id for c in changes)]), self.memo)
            return not self._pairs(candidate, page, [device])[0].passed

        # More looks: a page that is itself again twice was restless, or its cause has just been found.
        if not fails(suspects) and not fails(suspects):
            pair.differences.clear()
            return []
        guilty = suspects if turn >= _LAST_ROUNDS else culprits(suspects, fails)
        reason = f"{path} on {device.name}: {pair.differences[0].text}"
        return [SetAside(change.id, reason, pair) for change in guilty]
