"""Pages looked at on devices, as found beside as they would be, with looks kept and no more of them than it takes."""

from __future__ import annotations

import io
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from PIL import Image

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import site_path
from unladen.check.agreement import MOST_TOLD, Seen, agreed, focus_of_seen, seen_by, with_clues
from unladen.check.compare import compare
from unladen.check.file_judge import FileJudge
from unladen.check.pairs import Difference, PageCheck
from unladen.check.probes import Focus, Probe, all_probes, probes
from unladen.check.probes.rules import RULES
from unladen.check.probes.spec import Judge
from unladen.check.probes.styles import STYLES
from unladen.check.same_walk import walked_as
from unladen.check.snapshot import AtRest, Snapshot, SnapshotTaker
from unladen.check.snapshot_cache import SnapshotCache
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.records.conditions import Device
from unladen.weigh.session import Session
from unladen.weigh.visits.picture import STRIP, TALLEST
from unladen.weigh.visits.remote import Batch, RemoteTask, machine_of, visits_elsewhere
from unladen.weigh.visits.walk import WalkOrders
from unladen.work_cache import WorkCache

# Looks at the page as found where it differs from what it would be: what varies among these is nobody's fault.
_AS_FOUND, _AS_IT_WOULD_BE = 3, 2
_WALK = "walk"
# What these see depends on more than the page: they have to see it in all looks.
_VARYING = frozenset({_WALK, "stills"})
# What looks at a page while something is done to it, or after it.
_LATER = frozenset(probe.name for probe in all_probes() if probe.when != "at rest")


@dataclass(frozen=True, slots=True)
class _Manner:
    """How is looked: with which probes (all where none is named), how far walks go, and where styles are read."""

    only: frozenset[str] = frozenset()
    until: str = ""
    focus: Mapping[Device, Focus] = field(default_factory=dict)

    def key(self, device: Device) -> str:
        focus = self.focus.get(device)
        return focus.key if focus else ""


class PageChecks:
    """Looks at pages; `quick` leaves out what takes long, such as walks, as is done anyway on the devices of `glances`.

    `thorough`: all that differs is told. Otherwise a page that differs at rest is not walked through.

    `orders` is what the user wants of walks, by the URL of the page. `taken` counts the looks that were not kept.
    """

    def __init__(
        self,
        browser: Browser,
        work_cache: WorkCache,
        *,
        quick: bool = False,
        thorough: bool = False,
        glances: Collection[Device] = (),
        orders: Mapping[str, WalkOrders] | None = None,
    ) -> None:
        self.thorough = thorough
        self.checker = SnapshotTaker(browser, orders)
        self.work_cache = work_cache
        self.quick = quick
        self.taken = 0
        self.glances = frozenset(glances)
        self.judge: Judge = FileJudge(work_cache).likenesses
        self.shelf = SnapshotCache(work_cache.root / "looks", browser.version, orders)

    def beside(self, browser: Browser) -> PageChecks:
        """The same through another browser."""
        other = PageChecks(
            browser,
            self.work_cache,
            quick=self.quick,
            thorough=self.thorough,
            glances=self.glances,
            orders=self.checker.orders,
        )
        other.judge = self.judge
        return other

    def compared(
        self,
        reference: Capture,
        lighter: Capture,
        page: Exchange,
        devices: Sequence[Device],
        known: Sequence[Difference] = (),
        at_rest: Callable[[Device], None] = lambda _: None,
    ) -> list[Seen]:
        """What is seen of a page on each device.

        Where something differs, both are looked at again: what varies from look to look is no difference. What
        differs at rest is told without a walk, since what else there is comes to light when that is mended. Computed
        styles are read where other rules match elements than before, and nowhere else. Of what is `known` to differ
        (see `narrowed`) one look is enough, and only the probes that saw it look at all, on both sides. `at_rest` is
        told, from other threads, where nothing differs before anything is done to the page.
        """
        sides = reference, lighter
        if known:
            return self._again(sides, page, devices, known)
        before = self.look_as_found(reference, page, devices)
        after, same = self._as_far_as_the_same(lighter, page, devices, before, at_rest)
        seen = [
            agreed([old], [new], self.judge, _LATER if device in same else ())
            for device, old, new in zip(devices, before, after, strict=True)
        ]
        foci = {
            device: focus
            for device, one in zip(devices, seen, strict=True)
            if (self.thorough or not one.differences) and (focus := focus_of_seen(one))
        }
        # On all devices at once; what tells of one then finds it on the shelf.
        for side in sides if foci else ():
            self._looks(side, page, list(foci), 1, _closely(foci))
        return [self._told(sides, page, device, one) for device, one in zip(devices, seen, strict=True)]

    def look_as_found(self, capture: Capture, page: Exchange, devices: Sequence[Device]) -> list[Snapshot]:
        """A whole look at a page on each device, taken if none is kept."""
        return [snapshots[0] for snapshots in self._looks(capture, page, devices, 1, _Manner())]

    def _told(self, sides: tuple[Capture, Capture], page: Exchange, device: Device, seen: Seen) -> Seen:
        """What differs in two looks, and in further ones where something does."""
        before, after = seen.before, seen.after
        seen = self._sure(sides, page, device, _Manner(), seen)
        if seen.cannot or (seen.differences and not self.thorough):
            return seen
        if focus := focus_of_seen(seen):
            closely = _closely({device: focus})
            told = self._sure(sides, page, device, closely, self._once(sides, page, device, closely))
            styled = with_clues(told.differences, focus)
            seen = Seen(before, after, (*seen.differences, *styled)[:MOST_TOLD], told.cannot)
        if seen.differences or seen.cannot or self._is_all(device, after):
            return seen
        after = self._looks(sides[1], page, [device], 1, _Manner())[0][0]
        return self._sure(sides, page, device, _Manner(), agreed([before], [after], self.judge))

    def _as_far_as_the_same(
        self,
        lighter: Capture,
        page: Exchange,
        devices: Sequence[Device],
        before: Sequence[Snapshot],
        tell: Callable[[Device], None],
    ) -> tuple[list[Snapshot], set[Device]]:
        """Looks at the page as it would be, and the devices on which it is the same at rest; on others they end
        there.
        """
        first = dict(zip(devices, before, strict=True))
        result: dict[Device, Snapshot] = {}
        for device in devices:
            whole = self.shelf.find(lighter, page.url, device, 1, enough=self._enough(device))
            early = [probe.name for probe in self._asked(device) if probe.when == "at rest"]
            differing = [
                snapshot
                for snapshot in whole or self.shelf.find(lighter, page.url, device, 1, enough=early)
                if whole or (not self.thorough and self._differs(first[device], snapshot))
            ]
            if differing:
                result[device] = differing[0]
        lacking = [device for device in devices if device not in result]

        foci: dict[Device, Focus] = {}
        same: set[Device] = set()

        def at_rest(device: Device, snapshot: Snapshot) -> Snapshot | Focus | None:
            seen = agreed([first[device]], [snapshot], self.judge)
            if seen.cannot or (seen.differences and self.thorough):
                return None
            if seen.differences:
                return snapshot
            same.add(device)
            tell(device)
            if focus := focus_of_seen(seen):
                foci[device] = focus
                return focus
            return walked_as(first[device], snapshot, lighter)

        new = self._taken(lighter, page, lacking, _Manner(), at_rest, foci)
        result |= dict(zip(lacking, new, strict=True))
        return [result[device] for device in devices], same

    def _differs(self, before: Snapshot, after: Snapshot) -> bool:
        seen = agreed([before], [after], self.judge)
        return bool(seen.differences) and not seen.cannot

    def _apart(self, page: Exchange, device: Device, snapshot: Snapshot, focus: Focus) -> Snapshot:
        """A look without the computed styles that were read on its way; these are kept as a look of their own."""
        closer = [probe.name for probe in self._asked(device, [STYLES])]
        close = replace(snapshot, observations={name: snapshot.observations[name] for name in closer}, whole=False)
        self.shelf.keep(page.url, device, close, focus=focus.key)
        return replace(snapshot, observations={n: seen for n, seen in snapshot.observations.items() if n != STYLES})

    def _again(
        self,
        sides: tuple[Capture, Capture],
        page: Exchange,
        devices: Sequence[Device],
        known: Sequence[Difference],
    ) -> list[Seen]:
        """Whether what is known to differ still does, or something else that the same probes see."""
        only = seen_by(known)
        # A walk need not go on behind the first step that is known to differ.
        until = known[0].step if only == {_WALK} else ""
        manner = _Manner(frozenset(RULES if name == STYLES else name for name in only), until)
        keys = {difference.key for difference in known}
        result = []
        snapshots = [self._looks(side, page, devices, 1, manner) for side in sides]
        for device, old, new in zip(devices, *snapshots, strict=True):
            seen = agreed(old, new, self.judge)
            closer = manner
            if not seen.differences and STYLES in only and (focus := focus_of_seen(seen)):
                closer = _closely({device: focus})
                close = self._once(sides, page, device, closer)
                seen = replace(close, differences=with_clues(close.differences, focus))
            if keys.isdisjoint(difference.key for difference in seen.differences):
                seen = self._sure(sides, page, device, closer, seen)
            result.append(seen)
        return result

    def _sure(
        self, sides: tuple[Capture, Capture], page: Exchange, device: Device, manner: _Manner, seen: Seen
    ) -> Seen:
        """What differs again in further looks, taken the other way round by the probes that saw it.

        What they do not see any more by themselves may follow from what the others do to a page, so then all of them
        look again.
        """
        if not seen.differences:
            return seen
        only = seen_by(seen.differences)
        if only:
            closer = replace(manner, only=only, until=seen.differences[-1].step if only == {_WALK} else manner.until)
            # Where the same probes have looked by themselves already, the look after that one.
            count = 2 if closer == manner else 1
            after, before = (self._looks(side, page, [device], count, closer)[0][-1] for side in reversed(sides))
            both = agreed([seen.before, before], [seen.after, after], self.judge, only)
            if any(difference.probe not in _VARYING for difference in both.differences) or both.cannot:
                return both
            if both.differences:
                old, new = self._several(sides, page, device, closer)
                return agreed([seen.before, *old], [seen.after, *new], self.judge, only)
            if compare(before, before, after, only, self.judge):
                return both  # another one each time: it varies by itself
        old, new = self._several(sides, page, device, manner)
        return agreed(old, new, self.judge)

    def _once(self, sides: tuple[Capture, Capture], page: Exchange, device: Device, manner: _Manner) -> Seen:
        """What differs between one look a side."""
        before, after = (self._looks(side, page, [device], 1, manner)[0] for side in sides)
        return agreed(before, after, self.judge)

    def _several(
        self, sides: tuple[Capture, Capture], page: Exchange, device: Device, manner: _Manner
    ) -> tuple[list[Snapshot], list[Snapshot]]:
        old, new = (
            self._looks(side, page, [device], count, manner)[0]
            for side, count in zip(sides, (_AS_FOUND, _AS_IT_WOULD_BE), strict=True)
        )
        return old, new

    def narrowed(
        self, reference: Capture, lighter: Capture, page: Exchange, device: Device, differences: Sequence[Difference]
    ) -> Sequence[Difference]:
        """What of the differences a search can go by: those at rest, or else all of them, if the probes that saw them
        see one of them by themselves; what else there is is found once that is mended.

        What a probe sees may follow from what others have done to the page before it; then none, and all have to look.
        """
        at_rest = [difference for difference in differences if difference.probe != _WALK]
        for some in [at_rest, differences] if 0 < len(at_rest) < len(differences) else [differences]:
            seen = self.compared(reference, lighter, page, [device], some)[0]
            again = {difference.key for difference in seen.differences}
            if any(difference.key in again for difference in some):
                return some
        return ()

    def _looks(
        self, capture: Capture, page: Exchange, devices: Sequence[Device], wanted: int, manner: _Manner
    ) -> list[list[Snapshot]]:
        """So many looks for each device, from the shelf where they stand there."""
        only, until = manner.only, manner.until
        kept = [
            self.shelf.find(
                capture,
                page.url,
                device,
                wanted,
                enough=self._enough(device, only),
                exactly=bool(only),
                until=until,
                focus=manner.key(device),
            )
            for device in devices
        ]
        lacking = [n for n, snapshots in enumerate(kept) for _ in range(wanted - len(snapshots))]
        new = self._taken(capture, page, [devices[n] for n in lacking], manner)
        for n, snapshot in zip(lacking, new, strict=True):
            kept[n].append(snapshot)
        return kept

    def _taken(
        self,
        capture: Capture,
        page: Exchange,
        devices: Sequence[Device],
        manner: _Manner,
        at_rest: AtRest | None = None,
        foci: Mapping[Device, Focus] | None = None,
    ) -> list[Snapshot]:
        """New looks, one for each device, which are kept; `foci` says where `at_rest` had computed styles read."""
        if not devices:
            return []
        new = self.checker.look_all(
            capture,
            [(page.url, device) for device in devices],
            quick=self.quick,
            glances=self.glances,
            only=manner.only,
            until=manner.until,
            focus=manner.focus,
            at_rest=at_rest,
        )
        self.taken += len(new)
        for number, (device, snapshot) in enumerate(zip(devices, new, strict=True)):
            if foci and STYLES in snapshot.observations:
                new[number] = snapshot = self._apart(page, device, snapshot, foci[device])
            self.shelf.keep(page.url, device, snapshot, manner.until, manner.key(device))
        return new

    def look_elsewhere(
        self, session: Session, captures: Sequence[Capture], pages: Sequence[Exchange], devices: Sequence[Device]
    ) -> None:
        """Fill the cache with snapshots of pages on devices, one for each capture, from the session's machines.

        Snapshots that no machine could take are missing. Raises `MachinesMissing` and `Cancelled`.
        """
        for capture in captures:
            lacking = [
                (page, device)
                for page in pages
                for device in devices
                if not self.shelf.find(capture, page.url, device, 1, enough=self._enough(device))
            ]

            def arguments(spot: tuple[Exchange, Device]) -> tuple[Any, ...]:
                page, device = spot
                orders = {url: wanted for url, wanted in self.checker.orders.items() if url == page.url}
                return page.url, device, self.quick or device in self.glances, orders

            def note(spot: tuple[Exchange, Device], capture: Capture = capture) -> str:
                return f"{site_path(capture.base_url, spot[0].url)}, {spot[1].name}"

            def work(lane: Browser, spot: tuple[Exchange, Device], capture: Capture = capture) -> Snapshot:
                return _look_there(lane, capture, *arguments(spot))

            batch = Batch("check", lacking, work, note, lambda spot: RemoteTask(_look_there, arguments(spot)))
            machine = machine_of(self.checker.browser)
            snapshots = visits_elsewhere(replace(session, capture=capture), batch, machine)
            for number, snapshot in snapshots.items():
                page, device = lacking[number]
                self.shelf.keep(page.url, device, snapshot)

    def _asked(self, device: Device, only: Collection[str] = ()) -> tuple[Probe, ...]:
        return probes(quick=self.quick or device in self.glances, only=only)

    def _enough(self, device: Device, only: Collection[str] = ()) -> list[str]:
        short = self.quick or device in self.glances
        return [probe.name for probe in self._asked(device, only)] if short or only else []

    def _is_all(self, device: Device, snapshot: Snapshot) -> bool:
        """Whether all probes that look on a device have looked."""
        return all(probe.name in snapshot.observations for probe in self._asked(device))

    def pair(self, path: str, device: Device, seen: Seen) -> PageCheck:
        """What is told of a page on a device, with its pictures in the store."""
        before, after = seen.before, seen.after
        return PageCheck(
            path,
            device.name,
            tuple(self._with_shots(difference, before, after) for difference in seen.differences),
            self._picture(before),
            self._picture(after),
            after.width or device.width,
            seen.cannot,
            len(before.values("walk").get("steps") or ()),
            tuple(before.left),
        )

    def _picture(self, snapshot: Snapshot) -> str:
        """The digest of one picture of the page, as far down as people look at it."""
        strips = snapshot.strips[: TALLEST // STRIP]
        if len(strips) < 2:
            return self.work_cache.store.put(strips[0]) if strips and strips[0] else ""
        images = [Image.open(io.BytesIO(strip)).convert("RGB") for strip in strips]
        whole = Image.new("RGB", (images[0].width, sum(image.height for image in images)))
        for number, image in enumerate(images):
            whole.paste(image, (0, number * STRIP))
        out = io.BytesIO()
        whole.save(out, "PNG", compress_level=1)
        return self.work_cache.store.put(out.getvalue())

    def _with_shots(self, difference: Difference, before: Snapshot, after: Snapshot) -> Difference:
        """Names of a step's pictures become digests of them."""
        if not difference.shots:
            return difference
        snapshots = zip((before, after), difference.shots, strict=True)
        bodies = [snapshot.observations["walk"].bodies.get(name, b"") for snapshot, name in snapshots]
        if not all(bodies):
            return replace(difference, shots=None)
        first, second = (self.work_cache.store.put(body) for body in bodies)
        return replace(difference, shots=(first, second))


def _closely(foci: Mapping[Device, Focus]) -> _Manner:
    return _Manner(frozenset({STYLES}), focus=foci)


def _look_there(
    browser: Browser, capture: Capture, url: str, device: Device, quick: bool, orders: Mapping[str, WalkOrders]
) -> Snapshot:
    return SnapshotTaker(browser, orders).look_all(capture, [(url, device)], quick=quick)[0]


def by_address(
    orders: Mapping[str, WalkOrders], capture: Capture, pages: Sequence[Exchange]
) -> dict[str, WalkOrders]:
    """Orders for walks by the URL of the page, from orders by its path."""
    paths = {site_path(capture.base_url, page.url): page.url for page in pages}
    return {paths[path]: wanted for path, wanted in orders.items() if path in paths}
