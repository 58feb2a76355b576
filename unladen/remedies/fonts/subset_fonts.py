"""A font cut to the characters that a site shows; the one as found comes for any other character."""

from __future__ import annotations

from dataclasses import dataclass

from unladen.capture import Exchange
from unladen.fonts.ranges import parsed, written
from unladen.fonts.subset import SubsetFont
from unladen.markup.references import link_to
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft, Stage
from unladen.remedies.spec import Remedy
from unladen.remedies.styles.sheets import Make, over, sheets_in
from unladen.styles.faces import faces_of, with_smaller
from unladen.styles.sheets import addresses_of, sheets_of

_RANGES = r"[Uu]\+[0-9A-Fa-f?]{1,6}(-[0-9A-Fa-f]{1,6})?(,\s*[Uu]\+[0-9A-Fa-f?]{1,6}(-[0-9A-Fa-f]{1,6})?)*"


@dataclass(frozen=True, slots=True, kw_only=True)
class SubsetParams(Params):
    """`keep`: the characters in the smaller font, as `unicode-range` writes them; `also`: further ones, as they are."""

    keep: str = fields.text(100_000, _RANGES, default="U+20-7E")
    also: str = fields.text(20_000, default="")

    def work(self) -> SubsetFont:
        """What is to be done to each."""
        return SubsetFont(written(parsed(self.keep) | {ord(c) for c in self.also}))


@dataclass(frozen=True, slots=True)
class _Smaller:
    base: str
    urls: frozenset[str]
    link: str
    kept: str
    left: str
    before: bool

    def __call__(self, chars: str) -> str:
        return with_smaller(chars, self.base, self.urls, self.link, self._parts, before=self.before)

    def _parts(self, own: str) -> tuple[str, str]:
        if not self.left or not own:
            return self.kept, self.left
        # Other faces of the family stand beside this one for what it does not claim.
        claimed = parsed(own)
        kept, left = (claimed & parsed(ranges) for ranges in (self.kept, self.left))
        return written(kept), written(left) if left else ""


def apply(change: Change[SubsetParams], draft: Draft) -> None:
    """Make a smaller font of each target, and have the style sheets that only pages in scope use name it."""
    scope = frozenset(change.pages)
    for path, font in draft.targets(change):
        outcome = draft.memo.outcome(font.digest, change.params.work())
        if outcome.refused:
            draft.notice(path, outcome.refused)
            continue
        target = draft.font_beside(font, outcome)
        pages: set[str] = set()
        for exchange, urls in _naming(draft, font):
            sheets = sheets_in(draft, exchange)
            if not sheets[0].pages <= scope:
                draft.notice(draft.path(exchange), "is also used by a page that stays as it is")
                continue
            base = draft.texts.base(exchange)
            link = link_to(target.url, base)
            kept, left = str(outcome.facts["kept"]), str(outcome.facts["left"])
            make: Make = _Smaller(base, urls, link, kept, left, not path.lower().endswith(".woff2"))
            if draft.transform(change, exchange, Stage.FONTS, over(exchange, [make] * len(sheets)), (link,)):
                pages |= sheets[0].pages
        if pages:
            draft.offer(change, font, target, frozenset(pages))
        else:
            draft.notice(path, "is named in no style sheet that could be changed")


def _naming(draft: Draft, font: Exchange) -> list[tuple[Exchange, frozenset[str]]]:
    """The files and pages with a style sheet whose font faces name a file, each with the addresses by which it does."""
    found: dict[str, tuple[Exchange, frozenset[str]]] = {}
    for sheet in sheets_of(draft.texts):
        urls = addresses_of(draft.texts, sheet, font)
        if any(True for _ in faces_of(sheet.chars, draft.texts.base(sheet.exchange), urls)):
            known = found.get(sheet.exchange.url, (sheet.exchange, frozenset()))[1]
            found[sheet.exchange.url] = sheet.exchange, known | urls
    return list(found.values())


REMEDY = Remedy(
    name="subset-fonts",
    phase="fonts",
    params=SubsetParams,
    title="Fonts with the characters in use",
    what="Fonts cut to the characters that are shown",
    detail=(
        "A new file of WOFF2 with the characters that pages show, and a floor of those that a text may come to need; all features of its "
        "layout stay. The font as found stays beside it by unicode-range, for every other character."
    ),
    apply=apply,
    least_effort="steady",
    needs_new_names=True,
)
