"""A plan checked page by page; what makes a difference is named and set aside. The plan itself stays as it is."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import count
from typing import Any

from unladen.build import TrialCache, build
from unladen.capture import Capture, Exchange
from unladen.capture.addresses import site_path
from unladen.check.agreement import Seen
from unladen.check.blame import MOST_TRIALS, Culprit, blame
from unladen.check.compare import lead
from unladen.check.culprit import all_culprits
from unladen.check.evidence import pieces_named, pointed_at
from unladen.check.group_members import GroupMembers
from unladen.check.outcomes import ChangeResult, ChangeResults, Part, Standing, judged
from unladen.check.page_checks import PageChecks, by_address
from unladen.check.pairs import Difference, PageCheck
from unladen.check.tolerating import tolerated
from unladen.plan import Plan, Unit
from unladen.progress import Progress, Proof, Proven, Relay
from unladen.remedies import Change, Journal, remedy_named
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.records.conditions import Device
from unladen.weigh.session import Session
from unladen.weigh.visits.lanes import in_lanes
from unladen.weigh.visits.remote import Batch
from unladen.weigh.visits.walk import WalkOrders

# From this round on, all changes of a page that still differs are set aside, to come to an end.
_LAST_ROUNDS = 8
# In haste a search for the cause takes so many looks of a page on a device; what they do not tell apart is set aside
# together.
_MOST_IN_HASTE = 6
# Looks for the pieces of one change that are missed: two among 1,000 take 45. Fewer where each has to be a whole one.
_MOST_PIECES, _MOST_WHOLE_LOOKS = 60, 24


@dataclass(frozen=True, slots=True)
class Verdict:
    """What of a plan passes, what that makes of the capture, the pairs looked at, and what was set aside on the way."""

    out: ChangeResults
    capture: Capture
    journal: Journal
    pairs: list[PageCheck]


class Check:
    """Checks plans against the capture as found. Looks are kept, so that nothing is looked at twice.

    On `devices` pages are walked, on `glances` they are looked at in haste. `orders` is what the user wants of walks,
    by the path of the page. `kin` are pages that nobody looks at, since others stand for them. `first` is the page (a
    path) that somebody waits for: it has the machine for itself before the others come. In `haste` the search for a
    cause is short, and what it leaves open is told as such.
    """

    def __init__(
        self,
        session: Session,
        pages: Sequence[Exchange],
        devices: Sequence[Device],
        orders: Mapping[str, WalkOrders] | None = None,
        *,
        glances: Sequence[Device] = (),
        kin: GroupMembers | None = None,
        first: str = "",
        haste: bool = False,
    ) -> None:
        self.session = session
        self.capture = session.capture
        self.haste = haste
        self.first = first
        self.kin = kin or GroupMembers(session.capture)
        self.work_cache = session.work_cache
        self.pages = pages
        self.devices = [*devices, *glances]
        self._looks = PageChecks(
            session.browser,
            session.work_cache,
            glances=glances,
            orders=by_address(orders or {}, session.capture, pages),
        )

    def page_checks(self, lane: Browser) -> PageChecks:
        """Looks through one of the browsers at work; what they keep they share."""
        return self._looks if lane is self.session.browser else self._looks.beside(lane)

    def run(self, plan: Plan, out: ChangeResults) -> Verdict:
        """Set parts of changes aside until every page looks as before, beside those that are `out`; raises
        `Cancelled`.
        """
        progress = self.session.progress
        pairs: dict[tuple[str, str], PageCheck] = {}
        waiting = list(self.pages)
        # Comes to an end, since every round takes at least one part out of those that count.
        for turn in count():
            current = _Round(self, out.applied_to(plan), Relay(progress), last=turn >= _LAST_ROUNDS)
            if self.session.machines:
                sides = [current.reference, current.lighter]
                self._looks.look_elsewhere(self.session, sides, waiting, self.devices)
            seen: list[list[PageCheck]] = []
            for some in self._one_after_the_other(waiting):
                part = replace(self.session, progress=_beside(progress, len(seen), len(waiting)))
                seen += in_lanes(part, Batch("check", some, current.snapshot, self.path), relay=current.relay)
            pairs |= {(pair.page, pair.device): pair for some in seen for pair in some}
            if not current.blamed:
                break
            out = _with(plan, out, current.blamed, current.pieces, current.open)
            out = self.kin.also_out(plan, out, ((unit, pair) for unit, (_, pair) in current.blamed.items()))
            touched = {
                page for change in plan.changes if change.id in current.changes_blamed for page in change.pages
            }
            waiting = [page for page in self.pages if self.path(page) in touched]
        progress.step("check", len(self.pages), len(self.pages))
        ordered = [pairs[self.path(page), device.name] for page in self.pages for device in self.devices]
        return Verdict(out, current.lighter, current.journal, ordered)

    def _one_after_the_other(self, pages: Sequence[Exchange]) -> list[list[Exchange]]:
        urgent = [page for page in pages if self.path(page) == self.first]
        return [some for some in (urgent, [page for page in pages if page not in urgent]) if some]

    def look_ahead(self) -> None:
        """Have the looks at all pages as found on the shelf, before anybody asks for them; raises `Cancelled`."""

        def snapshot(lane: Browser, page: Exchange) -> None:
            self.page_checks(lane).look_as_found(self.capture, page, self.devices)

        in_lanes(self.session, Batch("check", self.pages, snapshot, self.path))

    def path(self, page: Exchange) -> str:
        """A page's path from the root."""
        return site_path(self.capture.base_url, page.url)


def _beside(progress: Progress, done: int, total: int) -> Progress:
    """Progress of a part of the work, told as that of all of it: so much was done before."""
    return replace(progress, report=lambda stage, more, _, note: progress.report(stage, done + more, total, note))


class _Round:
    """One plan built and looked at; `blamed` are the parts of it that break pages, with the pair that shows it.

    In the `last` rounds all parts are blamed that a page has. Pages are looked at side by side, each through a browser.
    """

    def __init__(self, check: Check, plan: Plan, relay: Relay, *, last: bool) -> None:
        self.check, self.plan, self.relay, self.last = check, plan, relay, last
        self.trials = TrialCache(check.work_cache, relay.there.check)
        self.lighter, self.journal = build(check.capture, plan, check.work_cache)
        # What the user insists on is part of what all else is compared with.
        self.insisted = {change.id for change in plan.counting() if change.insist}
        only = plan.with_only(self.insisted)
        self.reference = build(check.capture, only, check.work_cache)[0] if self.insisted else check.capture
        self.blamed: dict[Unit, tuple[Culprit, PageCheck]] = {}
        # Of some of them only these pieces, by the change.
        self.pieces: dict[str, tuple[str, ...]] = {}
        # Changes of which a longer search would spare some part.
        self.open: set[str] = set()

    @property
    def changes_blamed(self) -> set[str]:
        """The ids of the changes that the blamed parts belong to."""
        return {unit.change for unit in self.blamed}

    def snapshot(self, lane: Browser, page: Exchange) -> list[PageCheck]:
        """A page on all devices; where it differs, the cause is found."""
        pairs = []
        path = self.check.path(page)
        page_checks = self.check.page_checks(lane)
        self.relay.there.step("check", 0, 1, path)

        def tell(device: Device, proven: Proven, text: str = "") -> None:
            self.relay.there.found(Proof(path, device.name, proven, text))

        devices = self.check.devices
        compared = self._compared(
            page_checks, self.lighter, page, devices, at_rest=lambda device: tell(device, Proven.AT_REST)
        )
        for device, seen in zip(devices, compared, strict=True):
            if seen.differences:
                tell(device, Proven.DIFFERS, lead(seen.differences).text)
            else:
                tell(device, Proven.CANNOT if seen.cannot else Proven.SAME, seen.cannot)
        for device, seen in zip(devices, compared, strict=True):
            pair = page_checks.pair(path, device, seen)
            if pair.differences:
                self._blame(page_checks, page, device, seen, pair)
            pairs.append(pair)
        return pairs

    def _compared(
        self,
        page_checks: PageChecks,
        lighter: Capture,
        page: Exchange,
        devices: Sequence[Device],
        known: Sequence[Difference] = (),
        at_rest: Callable[[Device], None] = lambda _: None,
    ) -> list[Seen]:
        """What is seen, without what somebody has said may be."""
        path = self.check.path(page)
        checks = page_checks.compared(self.reference, lighter, page, devices, known, at_rest)
        return [
            replace(seen, differences=tolerated(seen.differences, self.plan.tolerance, path, device.name))
            for device, seen in zip(devices, checks, strict=True)
        ]

    def _blame(self, page_checks: PageChecks, page: Exchange, device: Device, seen: Seen, pair: PageCheck) -> None:
        path = self.check.path(page)
        units = self.plan.units(path)
        suspects = [unit for unit in units if unit.change not in self.insisted]
        asked = 0
        known = page_checks.narrowed(self.reference, self.lighter, page, device, seen.differences)
        plan = self.plan.sparing(self.pieces)

        def ask(some: Sequence[Unit], pieces: Mapping[str, Collection[str]] | None = None) -> Sequence[Difference]:
            nonlocal asked
            asked += 1
            note = f"searching for the culprit on {path}, {device.name}: snapshot {asked}"
            self.relay.there.step("check", min(asked, MOST_TRIALS - 1), MOST_TRIALS, note)
            out = set(suspects).difference(some)
            wanted = plan.without((), out).sparing(pieces or {})
            candidate, _ = build(self.check.capture, wanted, self.trials, trial=True)
            return self._compared(page_checks, candidate, page, [device], known)[0].differences

        remaining = [unit for unit in suspects if unit not in self.blamed or unit.change in self.pieces]
        if (len(remaining) < len(suspects) or self.pieces) and not ask(remaining):
            return  # what was found on another page or device is the cause here too
        if self.last:
            guilty = [Culprit(unit, lead(seen.differences)) for unit in remaining]
        else:
            changes = {change.id: change for change in plan.counting()}
            late = {c.id for c in plan.counting() if remedy_named(c.remedy).puts_off}
            pointed = pointed_at(
                remaining,
                seen.differences,
                self.check.capture,
                path,
                self.journal,
                seen.before,
                seen.after,
                late,
                lambda unit: changes[unit.change].params.pieces(),
            )
            most = _MOST_IN_HASTE if self.check.haste else MOST_TRIALS
            culprits = blame(pointed, seen.differences, ask, most, lambda unit: changes[unit.change].remedy)
            guilty = culprits.guilty
            if self.check.haste and not culprits.sure:
                self.open |= {guilt.unit.change for guilt in guilty}
        units_blamed = {guilt.unit for guilt in guilty}
        innocent = [unit for unit in remaining if unit not in units_blamed]
        for guilt in guilty:
            change = plan.change(guilt.unit.change)
            assert change is not None
            most = _MOST_PIECES if known else _MOST_WHOLE_LOOKS
            clues = {clue for difference in seen.differences for clue in difference.clues}
            result: tuple[str, ...] = ()
            shown: Difference | None = None
            if not self.last and _has_pieces(change):
                most = 0 if self.check.haste else most
                if not self.check.haste or asked < _MOST_IN_HASTE:
                    result, shown = _pieces_to_blame(change, innocent, ask, most, clues)
                if self.check.haste and not result:
                    self.open.add(change.id)
            known_pieces = self.pieces.pop(change.id, ())
            if result:
                self.pieces[change.id] = (*known_pieces, *result)
            self.blamed[guilt.unit] = (replace(guilt, difference=shown) if shown else guilt), pair


def _has_pieces(change: Change[Any]) -> bool:
    return len(change.params.pieces()) > 1 and len(change.targets) == 1


def _pieces_to_blame(
    change: Change[Any],
    innocent: Sequence[Unit],
    ask: Callable[[Sequence[Unit], Mapping[str, Collection[str]]], Sequence[Difference]],
    most: int,
    clues: Collection[str],
) -> tuple[tuple[str, ...], Difference | None]:
    """The pieces of a change to one file that are to blame, and what the change by itself makes differ.

    Those that `clues` name go all at once where that does. No pieces where it is all of it, or too many to be told in
    `most` looks, which are none in haste.
    """
    shown: list[Difference] = []
    pieces = change.params.pieces()
    units = [*innocent, Unit(change.id, change.targets[0])]

    def fails(some: Sequence[str]) -> bool:
        differences = ask(units, {change.id: set(pieces).difference(some)})
        shown[:] = shown or differences
        return bool(differences)

    named = pieces_named(pieces, clues)
    if 0 < len(named) < len(pieces) and not fails(sorted(set(pieces).difference(named), key=pieces.index)):
        return tuple(named), None
    if not most or fails([]) or not fails(pieces):
        return (), None
    culprits = all_culprits(pieces, fails, most)
    known = tuple(culprits.guilty) if culprits.minimal and len(culprits.guilty) < len(pieces) else ()
    return known, lead(shown)


def _with(
    plan: Plan,
    out: ChangeResults,
    blamed: Mapping[Unit, tuple[Culprit, PageCheck]],
    pieces: Mapping[str, tuple[str, ...]],
    open_: Collection[str],
) -> ChangeResults:
    """ChangeResults with the blamed parts set aside, and with them the change if nothing is left of it; some are
    `open_`.
    """
    new = []
    for change in plan.counting():
        result = [told for unit, told in blamed.items() if unit.change == change.id]
        if not result:
            continue
        known = out.by_change.get(change.id)
        parts = {part.target: part for part in (known.parts if known else ())}
        for guilt, pair in result:
            target = guilt.unit.target
            earlier = parts.get(target) or Part(target, _reason(guilt, pair), pair)
            # Where no pieces are to blame, all of it is.
            mine = (*earlier.pieces, *pieces[change.id]) if change.id in pieces else ()
            parts[target] = replace(earlier, pieces=mine)
        first = next(iter(parts.values()))
        if set(change.targets) <= {part.target for part in parts.values() if not part.pieces}:
            standing, reason, shown = Standing.SET_ASIDE, first.reason, first.pair
        else:
            standing, reason, shown = Standing.PASSED, "", None
        left = change.id in open_ or bool(known and known.open)
        new.append(ChangeResult(change.id, standing, reason, shown, judged(change), tuple(parts.values()), left))
    return out.with_(new)


def _reason(guilt: Culprit, pair: PageCheck) -> str:
    together = ""
    if guilt.together:
        more = f" and {len(guilt.together) - 1} more" if len(guilt.together) > 1 else ""
        together = f" (only together with “{guilt.together[0].change}”{more})"
    return f"{pair.page} on {pair.device}: {guilt.difference.text}{together}"
