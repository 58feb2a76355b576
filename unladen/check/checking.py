"""A plan checked page by page; what makes a difference is named and set aside. The plan itself stays as it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import count

from unladen.build import build
from unladen.capture import Capture, Exchange
from unladen.capture.addresses import site_path
from unladen.check.blame import MOST_TRIALS, Guilt, blame
from unladen.check.compare import lead
from unladen.check.evidence import pointed_at
from unladen.check.looking import Look
from unladen.check.outcomes import ChangeOutcome, Outcomes, Part, Standing, judged
from unladen.check.pairs import Difference, Pair
from unladen.check.spots import Spots
from unladen.memo import Memo
from unladen.plan import Plan, Tolerance, Unit
from unladen.progress import Progress
from unladen.remedies import Journal
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.records.conditions import Device

# From this round on, all changes of a page that still differs are set aside, to come to an end.
_LAST_ROUNDS = 8


@dataclass(frozen=True, slots=True)
class Verdict:
    """What of a plan passes, what that makes of the capture, the pairs looked at, and what was set aside on the way."""

    out: Outcomes
    capture: Capture
    journal: Journal
    pairs: list[Pair]


class Check:
    """Checks plans against the capture as found. Looks are kept, so that nothing is looked at twice."""

    def __init__(
        self,
        browser: Browser,
        capture: Capture,
        memo: Memo,
        pages: Sequence[Exchange],
        devices: Sequence[Device],
        *,
        quick: bool = False,
    ) -> None:
        self.capture = capture
        self.memo = memo
        self.spots = [(page, device) for page in pages for device in devices]
        self.looks = Spots(browser, memo, quick=quick)
        self._reference = capture

    def run(self, plan: Plan, out: Outcomes, progress: Progress) -> Verdict:
        """Set parts of changes aside until every page looks as before, beside those that are `out`; raises `Cancelled`."""
        self._refer_to(plan)
        pairs: dict[tuple[str, str], Pair] = {}
        waiting = list(self.spots)
        # Comes to an end, since every round takes at least one part out of those that count.
        for turn in count():
            current = out.applied_to(plan)
            lighter, journal = build(self.capture, current, self.memo)
            blamed: dict[Unit, tuple[Guilt, Pair]] = {}
            for page in dict.fromkeys(page for page, _ in waiting):
                devices = [device for other, device in waiting if other == page]
                progress.step("check", waiting.index((page, devices[0])), len(waiting), self._path(page))
                found = self.looks.compared(self._reference, lighter, page, devices)
                for device, seen in zip(devices, found, strict=True):
                    pair = self._pair(plan, page, device, seen)
                    if not pair.passed:
                        pair = self._blame(current, page, device, pair, seen, journal, progress, turn, blamed)
                    pairs[(page.url, device.name)] = pair
            if not blamed:
                break
            out = self._with(plan, out, blamed)
            touched = {
                page for change in plan.changes if change.id in {u.change for u in blamed} for page in change.pages
            }
            waiting = [spot for spot in self.spots if self._path(spot[0]) in touched]
        progress.step("check", len(self.spots), len(self.spots))
        ordered = [pairs[(page.url, device.name)] for page, device in self.spots]
        return Verdict(out, lighter, journal, ordered)

    def _path(self, page: Exchange) -> str:
        return site_path(self.capture.base_url, page.url)

    def _refer_to(self, plan: Plan) -> None:
        """What the user insists on is part of what all else is compared with."""
        wanted = {change.id for change in plan.counting() if change.insist}
        if wanted:
            self._reference = build(self.capture, plan.with_only(wanted), self.memo)[0]
        else:
            self._reference = self.capture

    def _pair(
        self, plan: Plan, page: Exchange, device: Device, seen: tuple[Look, Look, tuple[Difference, ...]]
    ) -> Pair:
        pair = self.looks.pair(self._path(page), device, *seen)
        return tolerated(pair, plan.tolerance)

    @staticmethod
    def _with(plan: Plan, out: Outcomes, blamed: dict[Unit, tuple[Guilt, Pair]]) -> Outcomes:
        """Outcomes with the blamed parts set aside, and with them the change if nothing is left of it."""
        by_change: dict[str, list[tuple[Guilt, Pair]]] = {}
        for unit, told in blamed.items():
            by_change.setdefault(unit.change, []).append(told)
        new = []
        for change in plan.counting():
            found = by_change.get(change.id)
            if not found:
                continue
            known = out.by_change.get(change.id)
            parts = {part.target: part for part in (known.parts if known else ())}
            for guilt, pair in found:
                reason = _reason(guilt, pair, plan)
                parts.setdefault(guilt.unit.target, Part(guilt.unit.target, reason, pair))
            whole = set(change.targets) <= set(parts)
            first = next(iter(parts.values()))
            standing = Standing.SET_ASIDE if whole else Standing.PASSED
            reason = first.reason if whole else ""
            pair_ = first.pair if whole else None
            new.append(ChangeOutcome(change.id, standing, reason, pair_, judged(change), tuple(parts.values())))
        return out.with_(new)

    def _blame(
        self,
        plan: Plan,
        page: Exchange,
        device: Device,
        pair: Pair,
        seen: tuple[Look, Look, tuple[Difference, ...]],
        journal: Journal,
        progress: Progress,
        turn: int,
        blamed: dict[Unit, tuple[Guilt, Pair]],
    ) -> Pair:
        """Add the parts that make the difference.

        In the last rounds all that touch the page. Returns what is left of it.
        """
        path = self._path(page)
        insisted = {change.id for change in plan.counting() if change.insist}
        fixed = [unit for unit in plan.units() if unit.change in insisted]
        suspects = [unit for unit in plan.units(path) if unit.change not in insisted]
        if not suspects:
            return pair
        asked = 0

        def ask(units: Sequence[Unit]) -> Sequence[Difference]:
            nonlocal asked
            asked += 1
            note = f"looking for the cause on {path}, {device.name}: look {asked} of at most {MOST_TRIALS}"
            progress.step("check", asked, MOST_TRIALS, note)
            kept = {*units, *fixed}
            candidate = plan.without((), [unit for unit in plan.units(path) if unit not in kept])
            lighter, _ = build(self.capture, candidate, self.memo)
            (told,) = self.looks.compared(self._reference, lighter, page, [device])
            return self._pair(plan, page, device, told).differences

        known = [unit for unit in suspects if unit in blamed]
        if known and not ask([unit for unit in suspects if unit not in blamed]):
            return pair  # what was found on another page or device is the cause here too
        suspects = [unit for unit in suspects if unit not in blamed]
        if not suspects:
            return pair
        if turn >= _LAST_ROUNDS:
            for unit in suspects:
                blamed[unit] = Guilt(unit, lead(pair.differences)), pair
            return pair
        if ask([]):
            # The unchanged page differs from itself.
            return self._restless(page, device, pair, ask([]))
        before, after, _ = seen
        pointed = pointed_at(suspects, pair.differences, self.capture, path, journal, before, after)
        for guilt in blame(pointed, pair.differences, ask).guilty:
            blamed[guilt.unit] = guilt, pair
        return pair

    def _restless(self, page: Exchange, device: Device, pair: Pair, unchanged: Sequence[Difference]) -> Pair:
        """What the unchanged page shows of that kind is held against nobody.

        The looks kept of it did not tell, so they are taken anew next time.
        """
        self.looks.forget(self._reference, page, device)
        kinds = {difference.what for difference in unchanged}
        return replace(pair, differences=tuple(d for d in pair.differences if d.what not in kinds))


def tolerated(pair: Pair, tolerance: Tolerance) -> Pair:
    """A pair without what somebody has accepted, and without what lies in regions that are left out."""
    pair = pair.without(tolerance.keys(pair.page, pair.device))
    masks = [mask for mask in tolerance.masks if mask.holds(pair.page, pair.device)]
    if not masks or pair.passed:
        return pair
    left = []
    for difference in pair.differences:
        boxes = tuple(box for box in difference.boxes if not any(mask.covers(box) for mask in masks))
        if boxes or not difference.boxes:
            left.append(replace(difference, boxes=boxes))
    return replace(pair, differences=tuple(left))


def _reason(guilt: Guilt, pair: Pair, plan: Plan) -> str:
    together = ""
    if guilt.together:
        other = guilt.together[0]
        together = f" (only together with “{other.change}”{f' and {len(guilt.together) - 1} more' if len(guilt.together) > 1 else ''})"
    return f"{pair.page} on {pair.device}: {guilt.difference.text}{together}"
