"""What the page's scripts do and leave: errors, globals, listeners, custom elements, workers, storage."""

from __future__ import annotations

import re

from unladen.check.pairs import Difference
from unladen.check.probes.spec import Observation, Probe, Scene
from unladen.check.probes.tables import Changed, changed_rows, frame_of, shortened
from unladen.page_scripts import in_page

_SCRIPTED = in_page("scripted")


async def observe(scene: Scene) -> Observation:
    """`globals` by name, `listeners` by place, and lists of custom elements, workers and names in storage."""
    return Observation(await scene.tables(_SCRIPTED))


async def observe_errors(scene: Scene) -> Observation:
    """The errors and warnings in words, and the scripts that they name; a dialog is none."""
    errors = [e for e in scene.watch.errors if not e.startswith("opened a dialog")]
    return Observation({"errors": errors, "warnings": list(scene.watch.warnings)})


def compare(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """What is gone. What is new of these does no harm, but for elements that nothing defines any more."""
    differences = []
    for row in changed_rows(before, again, after, "globals"):
        if row.old is not None and not _grew(row):
            what = "is no longer defined" if row.new is None else "has lost or changed parts"
            text = f"“{row.place.rpartition(' >>> ')[2]}”, which the page's scripts define, {what}"
            differences.append(
                Difference("scripts", text, places=frame_of(row.place), detail=f"{row.old} → {row.new}")
            )
    for row in changed_rows(before, again, after, "listeners"):
        gone = set((row.old or "").split()) - set((row.new or "").split())
        if not gone:
            continue
        own = row.place.rpartition(" >>> ")[2]
        where = own if own.startswith("the ") else "{place}"
        text = f"{where} no longer reacts to {', '.join(sorted(gone))}"
        places = frame_of(row.place) if own.startswith("the ") else (row.place,)
        differences.append(Difference("scripts", text, places=places, detail=f"{row.place}: {row.old} → {row.new}"))
    for name, called in (("defined", "custom element"), ("workers", "worker"), ("storage", "stored name")):
        old, second, new = (set(seen.values.get(name) or ()) for seen in (before, again, after))
        for lost in sorted((old & second) - new):
            differences.append(Difference("scripts", f"the {called} “{shortened(lost)}” is no longer created"))
    old, new = (set(seen.values.get("undefined") or ()) for seen in (before, after))
    undefined = (f"the custom element “{tag}” is no longer defined" for tag in sorted(new - old))
    differences += [Difference("scripts", text) for text in undefined]
    return differences


def _grew(row: Changed) -> bool:
    """Whether a global only has more parts than before."""
    old, new = (str(said or "").partition(": ") for said in (row.old, row.new))
    return old[0] == new[0] and set(old[2].split()) <= set(new[2].split())


def compare_errors(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """New ones."""
    known = {*map(_stem, before.values["errors"]), *map(_stem, again.values["errors"])}
    differences = [
        Difference("error", text, files=tuple(re.findall(r"https?://[^\s):]+(?::\d+(?=/))?[^\s):]*", text)))
        for text in dict.fromkeys(after.values["errors"])
        if _stem(text) not in known
    ]
    warned = {*map(_stem, before.values.get("warnings", ())), *map(_stem, again.values.get("warnings", ()))}
    for text in dict.fromkeys(after.values.get("warnings", ())):
        if _stem(text) not in warned:
            differences.append(Difference("error", f"the browser warns: {shortened(text, 200)}"))
    return differences


def _stem(text: str) -> str:
    """An error without what varies from file to file, such as addresses, lines and columns."""
    return re.sub(r"https?://\S+|\d+", "", text)


SCRIPTS = Probe("scripts", observe, compare)
ERRORS = Probe("errors", observe_errors, compare_errors, when="at the end", version=2)
