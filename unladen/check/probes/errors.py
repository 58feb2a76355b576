"""What goes wrong in the page's scripts."""

from __future__ import annotations

from unladen.check.pairs import Difference
from unladen.check.probes.spec import Observation, Probe, Scene


async def observe(scene: Scene) -> Observation:
    """The errors in words; a dialog is none."""
    return Observation({"errors": [e for e in scene.watch.errors if not e.startswith("opened a dialog")]})


def compare(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """New ones."""
    known = {*before.values["errors"], *again.values["errors"]}
    return [Difference("error", text) for text in dict.fromkeys(after.values["errors"]) if text not in known]


PROBE = Probe("errors", observe, compare, when="at the end")
