"""Pages looked at on devices, as found beside as they would be, with looks kept and no more of them than it takes."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import replace

from PIL import Image

from unladen.capture import Capture, Exchange
from unladen.check.compare import compare
from unladen.check.looking import Checker, Look
from unladen.check.pairs import Difference, Pair
from unladen.check.shelf import LookShelf
from unladen.memo import Memo
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.records.conditions import Device

Seen = tuple[Look, Look, tuple[Difference, ...]]
# A picture for people ends here; what lies below is compared strip by strip all the same.
_TALLEST_SHOWN = 12_000  # CSS px


class Spots:
    """Looks at pages; `quick` leaves out what takes long, such as walks."""

    def __init__(self, browser: Browser, memo: Memo, *, quick: bool = False) -> None:
        self.checker = Checker(browser)
        self.memo = memo
        self.quick = quick
        self.shelf = LookShelf(memo.root / "looks", memo.store, browser.version)
        self.taken = 0

    def compared(self, reference: Capture, lighter: Capture, page: Exchange, devices: Sequence[Device]) -> list[Seen]:
        """For each device a look at the page as found, one as it would be, and what differs.

        Where something does, both are looked at once more: what varies from look to look is no difference.
        """
        before = self._looks(reference, page, devices, 1)
        after = self._looks(lighter, page, devices, 1)
        found = []
        doubtful = []
        for number, _ in enumerate(devices):
            first, now = before[number][0], after[number][0]
            differences = () if first is now or first.restless or now.restless else compare(first, first, now)
            found.append((first, now, differences))
            if differences:
                doubtful.append(number)
        if doubtful:
            some = [devices[number] for number in doubtful]
            again, once_more = self._looks(reference, page, some, 2), self._looks(lighter, page, some, 2)
            for number, old, new in zip(doubtful, again, once_more, strict=True):
                found[number] = (*found[number][:2], _steady(old, new))
        return found

    def _looks(self, capture: Capture, page: Exchange, devices: Sequence[Device], wanted: int) -> list[list[Look]]:
        """So many looks for each device, from the shelf where they stand there."""
        kept = [self.shelf.find(capture, page.url, device, quick=self.quick)[:wanted] for device in devices]
        lacking = [n for n, looks in enumerate(kept) for _ in range(wanted - len(looks))]
        spots = [(page.url, devices[n]) for n in lacking]
        new = self.checker.look_all(capture, spots, quick=self.quick) if spots else []
        self.taken += len(new)
        for n, look in zip(lacking, new, strict=True):
            self.shelf.keep(page.url, devices[n], look)
            kept[n].append(look)
        return kept

    def forget(self, capture: Capture, page: Exchange, device: Device) -> None:
        """Look anew next time."""
        self.shelf.forget(capture, page.url, device)

    def pair(self, path: str, device: Device, before: Look, after: Look, differences: tuple[Difference, ...]) -> Pair:
        """What is told of a page on a device, with its pictures in the store."""
        cannot = before.restless or after.restless
        walk = before.values("walk")
        return Pair(
            path,
            device.name,
            tuple(self._with_shots(d, before, after) for d in differences),
            self._picture(before),
            self._picture(after),
            after.width or device.width,
            f"{cannot}, so that two looks at it cannot be compared" if cannot else "",
            len(walk.get("steps") or ()),
            tuple(walk.get("left") or ()),
        )

    def _picture(self, look: Look) -> str:
        """The digest of one picture of the page."""
        strips = look.strips
        if len(strips) < 2:
            return self.memo.store.put(strips[0]) if strips and strips[0] else ""
        images = [Image.open(io.BytesIO(strip)).convert("RGB") for strip in strips[: -(-_TALLEST_SHOWN // 4000)]]
        whole = Image.new("RGB", (images[0].width, sum(image.height for image in images)))
        top = 0
        for image in images:
            whole.paste(image, (0, top))
            top += image.height
        out = io.BytesIO()
        whole.save(out, "PNG", compress_level=1)
        return self.memo.store.put(out.getvalue())

    def _with_shots(self, difference: Difference, before: Look, after: Look) -> Difference:
        """Names of a step's pictures become digests of them."""
        if not difference.shots:
            return difference
        bodies = [
            look.observations["walk"].bodies.get(name, b"")
            for look, name in zip((before, after), difference.shots, strict=True)
        ]
        if not all(bodies):
            return replace(difference, shots=None)
        first, second = (self.memo.store.put(body) for body in bodies)
        return replace(difference, shots=(first, second))


def _steady(old: Sequence[Look], new: Sequence[Look]) -> tuple[Difference, ...]:
    """What differs in both of two looks, and is steady in two looks at the page as found."""
    if any(look.restless for look in (*old, *new)):
        return ()
    first = compare(old[0], old[1], new[0])
    second = {difference.key for difference in compare(old[0], old[1], new[1])} if first else set()
    return tuple(difference for difference in first if difference.key in second)
