"""Texts made: edits by position first, then whole-text transforms in stages, each change on its own.

What cannot be applied is left out and named; the rest stays. The same text with the same wishes is made once in a
process, so that switching one change costs only the texts it touches.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from unladen.build.guards import expect_same, guard_for
from unladen.capture.model import sent_body
from unladen.markup.edits import apply_edits
from unladen.markup.text import Text
from unladen.remedies.draft import Pending, Transform


@dataclass(frozen=True, slots=True)
class MadeText:
    """The new body; for each change in order its bytes as sent before and after it; what was refused, and why."""

    body: bytes
    steps: tuple[tuple[str, int, int], ...]
    refused: tuple[tuple[str, str], ...] = ()


@lru_cache(maxsize=512)
def made_text(
    text: Text,
    media_type: str,
    encoding: str,
    pending: tuple[Pending, ...],
    transforms: tuple[Transform, ...] = (),
    *,
    trial: bool = False,
) -> MadeText:
    """Apply what can be applied; in a trial without proof that the text says the same."""
    refused: dict[str, str] = {}
    order = list(dict.fromkeys(entry.change for entry in pending))
    if trial and _fit_together(text, pending):
        done = order
    else:
        done = _edits_that_hold(text, media_type, pending, order, refused)
    size = len(sent_body(text.encode(text.chars), encoding)[0])
    steps = []
    for position, change in enumerate(done):
        so_far = set(done[: position + 1])
        chars = apply_edits(text.chars, [entry.edit for entry in pending if entry.change in so_far])
        after = len(sent_body(text.encode(chars), encoding)[0])
        steps.append((change, size, after))
        size = after
    chars = apply_edits(text.chars, [entry.edit for entry in pending if entry.change in set(done)])
    for transform in sorted(transforms, key=lambda entry: entry.stage):
        try:
            made = transform.make(chars)
            if not trial:
                expect_same(media_type, chars, made, transform.names)
            after = len(sent_body(text.encode(made), encoding)[0])
        except ValueError as error:
            refused.setdefault(transform.change, str(error))
            continue
        steps.append((transform.change, size, after))
        chars, size = made, after
    return MadeText(text.encode(chars), tuple(steps), tuple(refused.items()))


def _fit_together(text: Text, pending: Sequence[Pending]) -> bool:
    try:
        text.encode(apply_edits(text.chars, [entry.edit for entry in pending]))
    except ValueError:
        return False
    return True


def _edits_that_hold(
    text: Text, media_type: str, pending: Sequence[Pending], order: list[str], refused: dict[str, str]
) -> list[str]:
    """The changes whose edits the guard of the text lets through together, each taken or left as a whole.

    Where all together are refused, halves are tried until single changes are to blame.
    """
    guard = guard_for(media_type)
    held: list[str] = []

    def why_not(changes: Sequence[str]) -> str:
        wanted = {*held, *changes}
        entries = [entry for entry in pending if entry.change in wanted]
        attributes = {entry.attribute for entry in entries}
        try:
            text.encode(guard(text.chars, [entry.edit for entry in entries], attributes))
        except ValueError as error:
            return str(error) or "it could not be applied"
        return ""

    def take(changes: list[str]) -> None:
        if not changes:
            return
        reason = why_not(changes)
        if not reason:
            held.extend(changes)
        elif len(changes) == 1:
            refused[changes[0]] = reason
        else:
            middle = len(changes) // 2
            take(changes[:middle])
            take(changes[middle:])

    take(order)
    return held
