"""When a walk need not be taken: all that it could depend on is as it was in a walk that has been."""

from __future__ import annotations

from dataclasses import replace

from unladen.capture import Capture
from unladen.check.looking import Look
from unladen.check.probes import probes
from unladen.check.probes.rules import RULES, may_come

_MOST_NAMES = 200  # told of a step; with more of them nobody knows all


def walked_as(before: Look, at_rest: Look, capture: Capture) -> Look | None:
    """A whole look at a page of `capture`, seen `at_rest`, with the walk of another look; None where it may go another way.

    What a walk meets follows from the markup, the scripts, the pictures and the rules. So all files but style sheets must be the
    same, and no rule that only one of the two has may be about an element with any name that came on the walk. Both looks must be
    the same at rest.
    """
    rules = [look.observations.get(RULES) for look in (before, at_rest)]
    walk = before.observations.get("walk")
    if not before.whole or walk is None or rules[0] is None or rules[1] is None:
        return None
    files = {url: mark for url, mark in before.reads.items() if not _is_sheet(capture, url)}
    mine = {url: mark for url, mark in at_rest.reads.items() if not _is_sheet(capture, url)}
    if any(capture.content(url) != mark for url, mark in files.items()) or not mine.items() <= files.items():
        return None
    steps = walk.values["steps"]
    if any(step["restless"] or len(step["came"]) >= _MOST_NAMES for step in steps):
        return None
    if may_come(rules[0], rules[1], {name for step in steps for name in step["came"]}):
        return None
    later = {
        probe.name: before.observations[probe.name]
        for probe in probes()
        if probe.name in before.observations and probe.when != "at rest"
    }
    reads = {url: capture.content(url) for url in (*before.reads, *at_rest.reads)}
    return replace(at_rest, observations={**at_rest.observations, **later}, reads=reads, whole=True, left=before.left)


def _is_sheet(capture: Capture, url: str) -> bool:
    exchange = capture.lookup(url)
    return exchange is not None and exchange.media_type == "text/css"
