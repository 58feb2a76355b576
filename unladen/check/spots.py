"""Pages looked at on devices, as found beside as they would be, with looks kept and no more of them than it takes."""

from __future__ import annotations

import io
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import product

from PIL import Image

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import site_path
from unladen.check.compare import compare
from unladen.check.file_judge import FileJudge
from unladen.check.looking import Checker, Look
from unladen.check.pairs import Difference, Pair
from unladen.check.probes import Focus, probes
from unladen.check.probes.rules import RULES, focus_of
from unladen.check.probes.spec import Judge, cannot_tell
from unladen.check.probes.styles import STYLES
from unladen.check.shelf import LookShelf
from unladen.memo import Memo
from unladen.progress import Progress
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.records.conditions import Device
from unladen.weigh.visits.afar import Errand, machine_of, visits_elsewhere
from unladen.weigh.visits.picture import STRIP, TALLEST
from unladen.weigh.visits.walk import WalkOrders

# Looks at the page as found where it differs from what it would be: what varies among these is nobody's fault.
_AS_FOUND, _AS_IT_WOULD_BE = 3, 2
_WALK = "walk"
_MOST = 60  # differences told of a page


@dataclass(frozen=True, slots=True)
class Seen:
    """A look at a page as found and one as it would be, what differs, and why nothing can be said, if so.

    `focus`: where computed styles were read, if they had to be.
    """

    before: Look
    after: Look
    differences: tuple[Difference, ...] = ()
    cannot: str = ""
    focus: Focus | None = None


@dataclass(frozen=True, slots=True)
class _Manner:
    """How is looked: with which probes (all where none is named), how far walks go, and where styles are read."""

    only: frozenset[str] = frozenset()
    until: str = ""
    focus: Mapping[Device, Focus] = field(default_factory=dict)

    def key(self, device: Device) -> str:
        focus = self.focus.get(device)
        return focus.key if focus else ""


class Spots:
    """Looks at pages; `quick` leaves out what takes long, such as walks, as is done anyway on the devices of `glances`.

    `orders` is what the user wants of walks, by the URL of the page. `taken` counts the looks that were not kept.
    """

    def __init__(
        self,
        browser: Browser,
        memo: Memo,
        *,
        quick: bool = False,
        glances: Collection[Device] = (),
        orders: Mapping[str, WalkOrders] | None = None,
    ) -> None:
        self.checker = Checker(browser, orders)
        self.memo = memo
        self.quick = quick
        self.taken = 0
        self.glances = frozenset(glances)
        self.judge: Judge = FileJudge(memo).likenesses
        self.shelf = LookShelf(memo.root / "looks", browser.version, orders)

    def beside(self, browser: Browser) -> Spots:
        """The same through another browser."""
        other = Spots(browser, self.memo, quick=self.quick, glances=self.glances, orders=self.checker.orders)
        other.judge = self.judge
        return other

    def compared(
        self,
        reference: Capture,
        lighter: Capture,
        page: Exchange,
        devices: Sequence[Device],
        known: Sequence[Difference] = (),
    ) -> list[Seen]:
        """What is seen of a page on each device.

        Where something differs, both are looked at again: what varies from look to look is no difference. Of what is
        `known` to differ (see `narrowed`) one look is enough, and only the probes that saw it look at all, on both sides.
        Computed styles are read where other rules match elements than before, and nowhere else.
        """
        sides = reference, lighter
        only = _seen_by(known)
        manner = _Manner(
            only=frozenset(RULES if name == STYLES else name for name in only),
            # A walk need not go on behind the first step that is known to differ.
            until=known[0].step if only == {_WALK} else "",
        )
        found = self._agreed(sides, page, devices, manner, known)
        if only and STYLES not in only:
            return found
        focus = {
            device: closer
            for device, seen in zip(devices, found, strict=True)
            if not (known and seen.differences) and (closer := _focus(seen))
        }
        closely = _Manner(only=frozenset({STYLES}), focus=focus)
        told = dict(zip(focus, self._agreed(sides, page, list(focus), closely, known), strict=True))
        return [
            replace(
                seen,
                differences=tuple([*seen.differences, *told[device].differences][:_MOST]),
                cannot=seen.cannot or told[device].cannot,
                focus=focus[device],
            )
            if device in told
            else seen
            for device, seen in zip(devices, found, strict=True)
        ]

    def _agreed(
        self,
        sides: tuple[Capture, Capture],
        page: Exchange,
        devices: Sequence[Device],
        manner: _Manner,
        known: Sequence[Difference],
    ) -> list[Seen]:
        """One look a side, and more of both where something differs that is not known to."""
        keys = {difference.key for difference in known}
        before, after = (self._looks(capture, page, devices, 1, manner) for capture in sides)
        found = [agreed(old, new, self.judge) for old, new in zip(before, after, strict=True)]
        doubtful = [
            number
            for number, seen in enumerate(found)
            if seen.differences and not keys.intersection(difference.key for difference in seen.differences)
        ]
        some = [devices[number] for number in doubtful]
        before = self._looks(sides[0], page, some, _AS_FOUND, manner)
        after = self._looks(sides[1], page, some, _AS_IT_WOULD_BE, manner)
        for number, old, new in zip(doubtful, before, after, strict=True):
            found[number] = agreed(old, new, self.judge)
        return found

    def narrowed(
        self, reference: Capture, lighter: Capture, page: Exchange, device: Device, differences: Sequence[Difference]
    ) -> Sequence[Difference]:
        """What of the differences a search can go by: those at rest, or else all of them, if the probes that saw them see one
        of them by themselves; what else there is is found once that is mended.

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
    ) -> list[list[Look]]:
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
        lacking = [n for n, looks in enumerate(kept) for _ in range(wanted - len(looks))]
        if not lacking:
            return kept
        spots = [(page.url, devices[n]) for n in lacking]
        new = self.checker.look_all(
            capture, spots, quick=self.quick, glances=self.glances, only=only, until=until, focus=manner.focus
        )
        self.taken += len(new)
        for n, look in zip(lacking, new, strict=True):
            self.shelf.keep(page.url, devices[n], look, until, manner.key(devices[n]))
            kept[n].append(look)
        return kept

    def look_elsewhere(
        self, captures: Sequence[Capture], pages: Sequence[Exchange], devices: Sequence[Device], progress: Progress
    ) -> None:
        """Have the looks that a first comparison of all these takes, of pages on devices, from the machines of `progress`.

        They stand on the shelf then; what no machine could do is left to be done here. Raises `MachinesMissing` and `Cancelled`.
        """
        for capture in captures:
            lacking = [
                (page, device)
                for page in pages
                for device in devices
                if not self.shelf.find(capture, page.url, device, 1, enough=self._enough(device, frozenset()))
            ]

            def errand(spot: tuple[Exchange, Device]) -> Errand:
                page, device = spot
                orders = {url: wanted for url, wanted in self.checker.orders.items() if url == page.url}
                return Errand(_look_there, (page.url, device, self.quick or device in self.glances, orders))

            def note(spot: tuple[Exchange, Device], capture: Capture = capture) -> str:
                return f"{site_path(capture.base_url, spot[0].url)}, {spot[1].name}"

            machine = machine_of(self.checker.browser)
            found = visits_elsewhere(capture, lacking, errand, machine, progress, "check", note, lambda _: None)
            for number, look in found.items():
                page, device = lacking[number]
                self.shelf.keep(page.url, device, look)

    def _enough(self, device: Device, only: frozenset[str]) -> list[str]:
        short = self.quick or device in self.glances
        return [probe.name for probe in probes(quick=short, only=only)] if short or only else []

    def pair(self, path: str, device: Device, seen: Seen) -> Pair:
        """What is told of a page on a device, with its pictures in the store."""
        before, after = seen.before, seen.after
        return Pair(
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

    def _picture(self, look: Look) -> str:
        """The digest of one picture of the page, as far down as people look at it."""
        strips = look.strips[: TALLEST // STRIP]
        if len(strips) < 2:
            return self.memo.store.put(strips[0]) if strips and strips[0] else ""
        images = [Image.open(io.BytesIO(strip)).convert("RGB") for strip in strips]
        whole = Image.new("RGB", (images[0].width, sum(image.height for image in images)))
        for number, image in enumerate(images):
            whole.paste(image, (0, number * STRIP))
        out = io.BytesIO()
        whole.save(out, "PNG", compress_level=1)
        return self.memo.store.put(out.getvalue())

    def _with_shots(self, difference: Difference, before: Look, after: Look) -> Difference:
        """Names of a step's pictures become digests of them."""
        if not difference.shots:
            return difference
        looks = zip((before, after), difference.shots, strict=True)
        bodies = [look.observations["walk"].bodies.get(name, b"") for look, name in looks]
        if not all(bodies):
            return replace(difference, shots=None)
        first, second = (self.memo.store.put(body) for body in bodies)
        return replace(difference, shots=(first, second))


def _look_there(
    browser: Browser, capture: Capture, url: str, device: Device, quick: bool, orders: Mapping[str, WalkOrders]
) -> Look:
    return Checker(browser, orders).look_all(capture, [(url, device)], quick=quick)[0]


def _seen_by(differences: Collection[Difference]) -> frozenset[str]:
    """The names of the probes that saw these; none where it takes all of them, as of a page that is dead."""
    names = frozenset(difference.probe for difference in differences)
    return frozenset() if "" in names else names


def _focus(seen: Seen) -> Focus | None:
    """Where computed styles have to be read, if anywhere."""
    before, after = (look.observations.get(RULES) for look in (seen.before, seen.after))
    return focus_of(before, after) if before and after and not seen.cannot else None


def by_address(
    orders: Mapping[str, WalkOrders], capture: Capture, pages: Sequence[Exchange]
) -> dict[str, WalkOrders]:
    """Orders for walks by the URL of the page, from orders by its path."""
    paths = {site_path(capture.base_url, page.url): page.url for page in pages}
    return {paths[path]: wanted for path, wanted in orders.items() if path in paths}


def agreed(old: Sequence[Look], new: Sequence[Look], judge: Judge = cannot_tell) -> Seen:
    """What differs in all new looks from all old ones, or why nothing can be said; `judge` tells how alike files are."""
    first, now = old[0], new[0]
    if not first.alive:
        return Seen(first, now, cannot="the page does not load, as found")
    if why := next((look.restless for look in (*old, *new) if look.restless), ""):
        return Seen(first, now, cannot=f"{why}, so that two looks at it cannot be compared")
    differences = list(compare(first, old[-1], now, judge=judge))
    for again, look in product(old[1:-1] or old[-1:], new):
        if differences and (again, look) != (old[-1], now):
            also = {difference.key for difference in compare(first, again, look, _seen_by(differences), judge)}
            differences = [difference for difference in differences if difference.key in also]
    return Seen(first, now, tuple(differences[:_MOST]))
