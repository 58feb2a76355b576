"""All that can be read, shown or not."""

from __future__ import annotations

from unladen.check.pairs import Difference
from unladen.check.probes.spec import Observation, Probe, Scene
from unladen.check.probes.tables import Changed, changed_rows, element_of, shortened
from unladen.page_scripts import in_page

_WORDS = in_page("words")
_CALLED = {
    "alt": "the words in the place of {place}",
    "title": "the hint of {place}",
    "placeholder": "the hint in {place}",
    "value": "what stands in {place}",
}


async def observe(scene: Scene) -> Observation:
    """Texts by place, attributes that are read by place and name, what generated content says, and what `noscript`
    holds.
    """
    return Observation(await scene.tables(_WORDS))


def compare(before: Observation, again: Observation, after: Observation) -> list[Difference]:
    """Words that are gone, new or other ones."""
    differences = [_told(row) for row in changed_rows(before, again, after, "words")]
    for row in changed_rows(before, again, after, "made"):
        differences.append(_difference(row, "what the styles write at {place}"))
    if before.values.get("without") != after.values.get("without"):
        old, new = before.values.get("without"), after.values.get("without")
        differences.append(
            Difference("words", "what is there for browsers without scripts has changed", detail=f"{old} → {new}")
        )
    elif before.values.get("pictures", 0) > after.values.get("pictures", 0):
        differences.append(
            Difference("words", "what is there for browsers without scripts has lost pictures or links")
        )
    return differences


def _told(row: Changed) -> Difference:
    attribute = row.place.partition(" @")[2]
    return _difference(row, _CALLED.get(attribute, "the label of {place}" if attribute else "the text of {place}"))


def _difference(row: Changed, called: str) -> Difference:
    if row.new is None:
        text = f"{called} is gone: “{shortened(row.old)}”"
    elif row.old is None:
        text = f"{called} is new: “{shortened(row.new)}”"
    else:
        text = f"{called} says “{shortened(row.new)}” instead of “{shortened(row.old)}”"
    return Difference(
        "words", text, places=(element_of(row.place),), detail=f"{row.place}: {row.old!r} → {row.new!r}"
    )


PROBE = Probe("words", observe, compare)
