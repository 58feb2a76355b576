"""How wide images are shown in windows of many widths, from the narrowest phone to a large screen."""

from __future__ import annotations

import asyncio
import contextlib
from collections import Counter
from typing import Any

from playwright.async_api import Error as PlaywrightError
from playwright.async_api import Page

from unladen.page_scripts import in_page
from unladen.weigh.records.model import Frame, Layout

_SCRIPT = in_page("layout")
# Windows that are common (common practice, no source); those at which the page's own styles change come to them.
USUAL_WIDTHS = (320, 412, 600, 768, 1024, 1280, 1600, 1920, 2560)
_MOST_POINTS = 6
_WORTH_OFFERING = 500  # px; of a narrower file no narrower ones are made
_SETTLED = "() => new Promise(done => requestAnimationFrame(done))"
_WITHIN = 8.0  # s, for all
_PHONES = 600  # CSS px; windows up to it
_LOWER, _BY_HEIGHT = 0.6, 0.01  # of the window's height, and by how much a frame's shape may change with it


async def measure_layout(page: Page, height: int) -> Layout:
    """Measure a loaded page, whose window is left as it came out; what has not answered in time is missing."""
    layout = Layout()
    with contextlib.suppress(PlaywrightError, TimeoutError):
        await asyncio.wait_for(_measure(page, height, layout), _WITHIN)
    kept = len(layout.windows)
    layout.widths = {
        url: [round(w, 2) for w in widths] for url, widths in layout.widths.items() if len(widths) == kept
    }
    return layout


async def _measure(page: Page, height: int, found: Layout) -> None:
    first = await page.evaluate(_SCRIPT)
    if first["widest"] < _WORTH_OFFERING:
        return
    counted = Counter(point for point in first["points"] if USUAL_WIDTHS[0] < point < USUAL_WIDTHS[-1])
    points = sorted(point for point, _ in counted.most_common(_MOST_POINTS))
    for window in sorted({*USUAL_WIDTHS, *points, *(point - 1 for point in points)}):
        await page.set_viewport_size({"width": window, "height": height})
        await page.evaluate(_SETTLED)
        shown: dict[str, Any] = await page.evaluate(_SCRIPT)
        before = len(found.windows)
        _add_frames(found, shown["frames"], window, height)
        for url, width in shown["widths"].items():
            found.widths.setdefault(url, [0.0] * before).append(width)
        found.mixed = sorted({*found.mixed, *shown["mixed"]})
        found.windows.append(window)
        for widths in found.widths.values():
            widths += [0.0] * (len(found.windows) - len(widths))
    if found.frames:
        await page.set_viewport_size({"width": found.windows[-1], "height": round(height * _LOWER)})
        await page.evaluate(_SETTLED)
        _compare(found, shown["frames"], (await page.evaluate(_SCRIPT))["frames"])


def _add_frames(found: Layout, frames: dict[str, list[list[float]]], window: int, height: int) -> None:
    """Widen what is known of the shapes that a picture covers by those of one more window."""
    for url, boxes in frames.items():
        for wide, high, x, y in boxes:
            shape = wide / high
            known = found.frames.setdefault(url, Frame(shape, shape, 0.0, 0.0, x, y))
            known.low, known.high = min(known.low, shape), max(known.high, shape)
            if window <= _PHONES:
                known.on_phones = max(known.on_phones, shape)
                known.of_window = max(known.of_window, high / height)
            if (known.x, known.y) != (x, y):
                known.x = known.y = -1.0


def _compare(found: Layout, before: dict[str, list[list[float]]], lower: dict[str, list[list[float]]]) -> None:
    """Find the frames whose shape goes with the height of the window, by what it is in a lower one."""
    for url, frame in found.frames.items():
        first, second = ([w / h for w, h, *_ in boxes.get(url, [])] for boxes in (before, lower))
        same = len(first) == len(second) and all(
            abs(a / b - 1) < _BY_HEIGHT for a, b in zip(first, second, strict=True)
        )
        frame.by_height = not (first and same)
