"""The kinds of differences and what people call them, the most visible first; a probe may bring others."""

from __future__ import annotations

from collections.abc import Sequence

from unladen.check.pairs import Difference

KINDS = {
    "dead": "Dead pages",
    "page": "Pages",
    "missing": "Missing files",
    "broken-image": "Broken pictures",
    "error": "Errors",
    "gone": "What is gone",
    "covered": "What is covered",
    "came": "What is new",
    "arrival": "On arrival",
    "moved": "Places",
    "picture": "Looks",
    "walk": "Does",
    "step picture": "Looks after a step",
    "still": "Stills",
    "styles": "Styles",
    "words": "Words",
    "ways": "Links and forms",
    "scripts": "Scripts",
    "meaning": "Meaning",
    "without scripts": "Without scripts",
}
_RANK = {what: number for number, what in enumerate(KINDS)}


def ordered(differences: Sequence[Difference]) -> tuple[Difference, ...]:
    """The most visible first."""
    return tuple(sorted(differences, key=lambda difference: _RANK.get(difference.what, len(_RANK))))
