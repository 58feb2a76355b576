"""While a font is not there, another one takes as much room, so that nothing jumps when it comes."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from functools import lru_cache

from unladen.capture import BodyStore
from unladen.fonts.metrics import SYSTEM, Metrics, face_like, metrics_of
from unladen.fonts.ranges import FLOOR, written
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft, Stage
from unladen.remedies.fonts.subset_fonts import naming
from unladen.remedies.spec import Remedy
from unladen.remedies.styles.sheets import Make, over, sheets_in
from unladen.styles.fallbacks import with_fallbacks
from unladen.styles.sheets import sheets_of
from unladen.weigh.page.fonts import characters_of


@dataclass(frozen=True, slots=True, kw_only=True)
class EvenParams(Params):
    """`families`: for each target, a font, the family that it is of; `generics`: whether that is `sans-serif`,
    `serif` or `monospace`.
    """

    families: dict[str, str] = fields.texts(most=200)
    generics: dict[str, str] = fields.texts(most=20)


@dataclass(frozen=True, slots=True)
class _Even:
    aliases: tuple[tuple[str, str], ...]
    faces: str

    def __call__(self, chars: str) -> str:
        return with_fallbacks(chars, dict(self.aliases)) + self.faces


@lru_cache(maxsize=256)
def measured(store: BodyStore, digest: str) -> Metrics | None:
    """The metrics of a font, read once; None where it has none."""
    return metrics_of(store.get(digest))


def alias_of(family: str) -> str:
    """What the fallback of a family is called."""
    return f"unladen {family}"


def apply(change: Change[EvenParams], draft: Draft) -> None:
    """Make a fallback for the family of each target, and name it wherever that is asked for on the pages in scope."""
    scope = frozenset(change.pages)
    aliases: dict[str, str] = {}
    faces: dict[str, list[str]] = defaultdict(list)  # by the style sheet that has the family's own
    for path, font in draft.targets(change):
        family, generic = change.params.families.get(path, ""), change.params.generics.get(path, "")
        metrics = measured(draft.capture.store, font.digest)
        home = next((sheet for sheet, _ in naming(draft.texts, font) if sheet.pages & scope), None)
        if not family or generic not in SYSTEM or metrics is None or home is None or '"' in family:
            draft.notice(path, "is not a readable font")
            continue
        if family not in aliases:
            aliases[family] = alias_of(family)
            known = characters_of(draft.capture.store, font.digest)
            face = face_like(aliases[family], metrics, generic, written(FLOOR & known))
            faces[home.exchange.url].append(face)
    named = tuple(aliases.items())
    for url in dict.fromkeys(sheet.exchange.url for sheet in sheets_of(draft.texts) if sheet.pages & scope):
        exchange = draft.capture.exchanges[url]
        mine = sheets_in(draft, exchange)
        more = ["".join(faces.get(url, ())) if sheet is mine[0] else "" for sheet in mine]
        every: list[Make] = [_Even(named, text) for text in more]
        if any(make(sheet.chars) != sheet.chars for make, sheet in zip(every, mine, strict=True)):
            draft.edits.transform(change, exchange, Stage.FACES, over(exchange, every))


REMEDY = Remedy(
    name="even-fallbacks",
    phase="fonts",
    params=EvenParams,
    title="Matching fallback fonts",
    what="System fonts with the same size as the web font",
    detail=(
        "Adds a face of the system's Arial, Times or Courier for each family, as wide and as high as the web font "
        "(`size-adjust`, `ascent-override` and so on). Text no longer jumps when the font arrives."
    ),
    apply=apply,
    least_effort="steady",
    steadies=True,
)
