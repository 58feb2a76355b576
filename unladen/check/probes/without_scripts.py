"""What a visitor without scripts gets to read and see: a look of its own, at pages that have scripts."""

from __future__ import annotations

import asyncio
from typing import Any

from playwright.async_api import Error as PlaywrightError

from unladen.check.pairs import Difference
from unladen.check.probes.spec import Observation, Probe, Scene
from unladen.check.probes.tables import and_more, changed_rows, shortened
from unladen.page_scripts import in_page

_LOADED_WITHIN = 30.0  # s
_HAS = "() => document.scripts.length > 0 || document.querySelector('noscript') !== null"
_PLACES, _READ = in_page("places"), in_page("without")


async def observe(scene: Scene) -> Observation:
    """`shown`: the texts, pictures and controls that show without scripts, by place."""
    try:
        if not await scene.page.evaluate(_HAS):
            return Observation({"shown": {}})
        return Observation({"shown": await asyncio.wait_for(_without(scene), _LOADED_WITHIN)})
    except (PlaywrightError, TimeoutError):
        return Observation({"shown": {}})


async def _without(scene: Scene) -> dict[str, Any]:
    browser = scene.page.context.browser
    assert browser is not None
    device = scene.device
    context = await browser.new_context(
        viewport={"width": device.width, "height": device.height},
        device_scale_factor=device.density,
        is_mobile=device.mobile,
        has_touch=device.mobile,
        reduced_motion="reduce",
        java_script_enabled=False,
    )
    try:
        page = await context.new_page()
        await page.goto(scene.url, wait_until="load")
        await page.evaluate(_PLACES)  # with scripts off none of ours runs as the page loads
        shown: dict[str, Any] = await page.evaluate(_READ)
        return shown
    finally:
        await context.close()


def compare(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """What showed without scripts and does not any more."""
    rows = [row for row in changed_rows(before, again, after, "shown") if row.old is not None]
    if not rows:
        return []
    lead = rows[0]
    gone, other = ("are gone", "say something else") if len(rows) > 1 else ("is gone", "changes its text")
    text = f"without scripts, “{shortened(lead.old, 40)}”{and_more(len(rows))} {gone if lead.new is None else other}"
    detail = "; ".join(f"{row.place}: {row.old} → {row.new}" for row in rows[:8])
    return [Difference("without scripts", text, places=tuple(row.place for row in rows[:20]), detail=detail)]


PROBE = Probe("without scripts", observe, compare, when="acting", slow=True, apart=True)
