"""Files that the page asks for and does not get."""

from __future__ import annotations

from urllib.parse import urljoin

from unladen.capture.addresses import canonical
from unladen.check.pairs import Difference
from unladen.check.probes.spec import Observation, Probe, Scene


async def observe(scene: Scene) -> Observation:
    """The addresses."""
    icon = urljoin(scene.url, "/favicon.ico")
    lost = {canonical(seen.url) for seen in scene.recorder.seen if seen.missing and seen.url != icon}
    return Observation({"missing": sorted(lost)})


def compare(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """Those that were there before."""
    known = {*before.values["missing"], *again.values["missing"]}
    return [Difference("missing", f"{url} is missing now") for url in after.values["missing"] if url not in known]


PROBE = Probe("missing", observe, compare, when="at the end")
