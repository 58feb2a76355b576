"""Words show before their font has come."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft, Stage
from unladen.remedies.fonts.subset_fonts import naming
from unladen.remedies.spec import Remedy, Setting
from unladen.remedies.styles.sheets import Make, over, sheets_in
from unladen.styles.faces import shown_at_once

DISPLAYS = ("swap", "fallback", "optional")


@dataclass(frozen=True, slots=True, kw_only=True)
class ShowParams(Params):
    """`display`: what `font-display` says; `swap` shows another font until this one is there, `fallback` does so for
    some seconds at most, `optional` leaves the other one if this is not there at once.
    """

    display: str = fields.word(*DISPLAYS, default="swap")


@dataclass(frozen=True, slots=True)
class SaysDisplay:
    """Makes the faces of a sheet that name one of these files say how text shows until it is there."""

    base: str
    urls: frozenset[str]
    display: str

    def __call__(self, chars: str) -> str:
        return shown_at_once(chars, self.base, self.urls, self.display)


def apply(change: Change[ShowParams], draft: Draft) -> None:
    """Let the faces of the targets, which are fonts, say it in the style sheets of the pages in scope."""
    scope = frozenset(change.pages)
    makes: dict[str, dict[int, frozenset[str]]] = defaultdict(dict)
    for _, font in draft.targets(change):
        for sheet, urls in naming(draft.texts, font):
            if sheet.pages & scope:
                known = makes[sheet.exchange.url]
                known[sheet.start] = known.get(sheet.start, frozenset()) | urls
    for url, known in makes.items():
        exchange = draft.capture.exchanges[url]
        base = draft.texts.base(exchange)
        every: list[Make] = [
            SaysDisplay(base, known[sheet.start], change.params.display) if sheet.start in known else str
            for sheet in sheets_in(draft, exchange)
        ]
        draft.edits.transform(change, exchange, Stage.FACES, over(exchange, every))


REMEDY = Remedy(
    name="show-text",
    phase="fonts",
    params=ShowParams,
    title="Show text before fonts load",
    what="Text shows at once in a fallback font",
    detail=(
        "Sets `font-display` on faces without one, so that no browser hides text for up to three seconds. Icon fonts "
        "stay unchanged, since other fonts lack their symbols."
    ),
    apply=apply,
    steadies=True,
    settings=(
        Setting(
            "display",
            "A fallback font shows",
            {
                "swap": "until the font has loaded",
                "fallback": "permanently, if the font is late",
                "optional": "unless the font is cached",
            },
        ),
    ),
)
