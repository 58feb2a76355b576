"""When a walk need not be taken: all that it could depend on is as it was in a walk that has been."""

from __future__ import annotations

from dataclasses import replace

from unladen.capture import Capture
from unladen.capture.model import digest_in
from unladen.check.probes import probes
from unladen.check.probes.rules import RULES, may_come
from unladen.check.snapshot import Snapshot
from unladen.markup.css import css_urls

_MOST_NAMES = 200  # told of a step; with more of them nobody knows all


def walked_as(before: Snapshot, at_rest: Snapshot, capture: Capture) -> Snapshot | None:
    """A snapshot of a page of `capture`, taken `at_rest`, with the walk of the snapshot `before`; None where the walk
    may go another way.

    A walk depends on the markup, the scripts, the pictures and the rules. So all files but style sheets must be the
    same. Style sheets may name no new files, since rules are compared without names of files. No rule that only one
    snapshot has may concern an element with a name that came during the walk. Both snapshots must be
    the same at rest.
    """
    rules = [snapshot.observations.get(RULES) for snapshot in (before, at_rest)]
    walk = before.observations.get("walk")
    if not before.whole or walk is None or rules[0] is None or rules[1] is None:
        return None
    files = {url: mark for url, mark in before.reads.items() if not _is_sheet(capture, url)}
    mine = {url: mark for url, mark in at_rest.reads.items() if not _is_sheet(capture, url)}
    if any(capture.content(url) != mark for url, mark in files.items()) or not mine.items() <= files.items():
        return None
    sheets = [url for url in at_rest.reads if _is_sheet(capture, url)]
    if not all(_names_no_others(capture, url, before.reads.get(url, "")) for url in sheets):
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


def _names_no_others(capture: Capture, url: str, old: str) -> bool:
    """Whether a sheet names files that the one with the mark `old` names, in the same order; some may be gone."""
    mark = capture.content(url)
    if mark == old:
        return True
    try:
        before, now = (_named_in(capture, each) for each in (old, mark))
    except (KeyError, OSError):
        return False  # the store has no longer what an older look was of
    rest = iter(before)
    return all(name in rest for name in now)


def _named_in(capture: Capture, mark: str) -> list[str]:
    if not mark:
        return []
    text = capture.store.get(digest_in(mark)).decode("utf-8", "replace")
    return [address.value for address in css_urls(text)]


def _is_sheet(capture: Capture, url: str) -> bool:
    exchange = capture.lookup(url)
    return exchange is not None and exchange.media_type == "text/css"
