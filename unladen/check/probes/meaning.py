"""What machines and aids read: what is said of the page, headings, labels, roles and names, ids in use, tab order."""

from __future__ import annotations

import asyncio
from difflib import SequenceMatcher
from typing import Any

from playwright.async_api import Error as PlaywrightError

from unladen.check.pairs import Difference
from unladen.check.probes.spec import Observation, Probe, Scene
from unladen.check.probes.tables import changed_rows, element_of, frame_of, shortened
from unladen.page_scripts import in_page

_MEANING = in_page("meaning")
_WITHIN = 30.0  # s
_MOST = 20_000
_COMPARED = 4_000  # entries of a list in which the place of a difference is looked for
# Roles that only carry text or boxes; what they say is in the words.
_PLAIN = {
    "StaticText",
    "InlineTextBox",
    "generic",
    "none",
    "LineBreak",
    "ListMarker",
    "RootWebArea",
    "Iframe",
    "IframePresentational",
}
# Fields of the answer that say something of the page.
_FIELDS = ("content-language", "content-disposition", "x-robots-tag", "refresh")
# Parts of a node's state that a visitor is told.
_STATES = {
    "level", "checked", "pressed", "expanded", "selected", "disabled", "required", "invalid", "readonly", "modal",
    "haspopup", "multiselectable", "roledescription", "valuetext", "live", "hidden",
}  # fmt: skip


async def observe(scene: Scene) -> Observation:
    """`page`: what is said of it by name; `labels` by place; ids in use, and all that are `there`.

    `parts`, tab `order` and the accessibility `tree` are lists in their order.
    """
    values = await scene.tables(_MEANING)
    for name in ("parts", "ids", "there", "order"):
        values[name] = []
    shown = scene.capture.lookup(scene.url)
    for name in _FIELDS:
        if shown is not None and (said := shown.header(name)):
            values["page"][f"header {name}"] = said
    for prefix, answer in await scene.ask(_MEANING):
        values["parts"] += [[prefix + place, *rest] for place, *rest in answer["parts"]]
        values["order"] += [prefix + place for place in answer["order"]]
        values["ids"] += answer["ids"]
        values["there"] += answer["there"]
    # Films are hidden while a page is held still, so where one stands in for a picture nothing can be said of it.
    values["tree"] = None if scene.instead else await _tree(scene)
    return Observation(values)


async def _tree(scene: Scene) -> list[str]:
    """Role, name and states of each node that aids are told of (CDP, Accessibility.getFullAXTree), in order."""
    try:
        session = await scene.page.context.new_cdp_session(scene.page)
        answer = await asyncio.wait_for(session.send("Accessibility.getFullAXTree"), _WITHIN)
        await session.detach()
    except (PlaywrightError, TimeoutError):
        return []
    return [_node(node) for node in answer["nodes"][:_MOST] if not node.get("ignored") and _role(node) not in _PLAIN]


def _role(node: dict[str, Any]) -> str:
    return str(node.get("role", {}).get("value", ""))


def _node(node: dict[str, Any]) -> str:
    states = [f"{p['name']}={p['value'].get('value')}" for p in node.get("properties", ()) if p["name"] in _STATES]
    name = " ".join(str(node.get("name", {}).get("value", "")).split())
    described = " ".join(str(node.get("description", {}).get("value", "")).split())
    return " ".join(filter(None, [_role(node), f"“{name}”", f"({described})" if described else "", *states]))


def compare(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """What is gone or says something else."""
    differences = []
    for row in changed_rows(before, again, after, "page"):
        said = f"“{shortened(row.new)}”" if row.new else "gone"
        text = f"the page's {row.place.rpartition(' >>> ')[2]} is {said}, it was “{shortened(row.old or '')}”"
        differences.append(
            Difference("meaning", text, places=frame_of(row.place), detail=f"{row.old!r} → {row.new!r}")
        )
    for row in changed_rows(before, again, after, "labels"):
        text = "accessibility information of {place} has changed"
        differences.append(
            Difference("meaning", text, places=(element_of(row.place),), detail=f"{row.old} → {row.new}")
        )
    differences += _lists(before, again, after, "parts", "the headings and parts of the page")
    # Which of them scripts use is only known of those that stand in the page; that there are more is no harm.
    there = set(after.values.get("there") or ())
    if lost := [id for id in before.values["ids"] if id in again.values["ids"] and id not in there]:
        text = f"ids that links, labels or scripts use are gone: {_few(lost)}"
        differences.append(Difference("meaning", text, detail=", ".join(lost[:40])))
    differences += _lists(before, again, after, "order", "the tab order")
    differences += _lists(before, again, after, "tree", "what a screen reader reads out")
    return differences


def _lists(before: Observation, again: Observation, after: Observation, name: str, called: str) -> list[Difference]:
    values = [seen.values.get(name) for seen in (before, again, after)]
    if any(entries is None for entries in values):
        return []
    old, second, new = (list(map(_plain, entries or ())) for entries in values)
    if old == new or old != second:
        return []
    lost, came, places = [], [], []
    for kind, a, b, c, d in SequenceMatcher(None, old[:_COMPARED], new[:_COMPARED], autojunk=False).get_opcodes():
        if kind != "equal":
            lost += old[a:b]
            came += new[c:d]
    if name == "order":
        places = [*lost, *came][:1]
    elif name == "parts":
        places = [entry.split("\t")[0] for entry in [*lost, *came]][:1]
    text = f"{called}: {_few(lost) or 'nothing'} is gone, {_few(came) or 'nothing'} is new"
    if name in ("order", "parts"):
        text = f"{called} {'differs' if name == 'order' else 'differ'} at {{place}}"
    return [Difference("meaning", text, places=tuple(places), detail=f"{lost[:20]} → {came[:20]}")]


def _plain(entry: Any) -> str:
    return "\t".join(map(str, entry)) if isinstance(entry, list) else str(entry)


def _few(entries: list[str]) -> str:
    return ", ".join(shortened(entry.replace("\t", " "), 60) for entry in entries[:3])


PROBE = Probe("meaning", observe, compare, version=3)
