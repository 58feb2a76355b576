"""A font cut to the characters that a site shows; the one as found comes for any other character."""

from __future__ import annotations

from dataclasses import dataclass

from unladen.capture import Capture, Exchange
from unladen.fonts.ranges import parsed, written
from unladen.fonts.subset import SubsetFont
from unladen.markup.html import Document, Element
from unladen.markup.references import link_to, resolve
from unladen.markup.site import SiteTexts
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft, Stage, beside, made_file
from unladen.remedies.spec import Remedy, Setting
from unladen.remedies.styles.sheets import Make, over, sheets_in
from unladen.styles.faces import faces_of, with_smaller
from unladen.styles.sheets import Sheet, addresses_of, sheets_of
from unladen.work_cache import Outcome

_RANGES = r"[Uu]\+[0-9A-Fa-f?]{1,6}(-[0-9A-Fa-f]{1,6})?(,\s*[Uu]\+[0-9A-Fa-f?]{1,6}(-[0-9A-Fa-f]{1,6})?)*"


@dataclass(frozen=True, slots=True, kw_only=True)
class SubsetParams(Params):
    """`keep`: the characters in the smaller font, as `unicode-range` writes them; `also`: further ones, as they are.
    `weights`: the lightest and the heaviest of a variable font that are asked for, () for all. `hints`: whether what
    fits outlines to coarse screens stays.
    """

    keep: str = fields.text(100_000, _RANGES, default="U+20-7E")
    also: str = fields.text(20_000, default="")
    weights: tuple[int, ...] = fields.wholes(1, 1000, (), 2)
    hints: str = fields.word("stay", "go", default="stay")

    def work(self) -> SubsetFont:
        """What is to be done to each."""
        keep = written(parsed(self.keep) | {ord(c) for c in self.also})
        return SubsetFont(keep, self.weights, self.hints == "stay")


@dataclass(frozen=True, slots=True)
class SmallerFaces:
    """Makes a sheet name a smaller font (`link`) beside one that it names by `urls`, counted from `base`.

    `kept` and `left` are the characters of either as ranges; `before`: the one as found stays behind the other.
    """

    base: str
    urls: frozenset[str]
    link: str
    kept: str
    left: str
    before: bool

    @classmethod
    def of(cls, texts: SiteTexts, sheet: Sheet, urls: frozenset[str], font: Exchange, new: Outcome) -> SmallerFaces:
        """For a sheet, a font that it names and what was made of that."""
        base = texts.base(sheet.exchange)
        link = link_to(font_beside(texts.capture, font, new).url, base)
        return cls(
            base, urls, link, str(new.facts["kept"]), str(new.facts["left"]), not font.path.lower().endswith(".woff2")
        )

    def __call__(self, chars: str) -> str:
        return with_smaller(chars, self.base, self.urls, self.link, self._parts, before=self.before)

    def _parts(self, own: str) -> tuple[str, str]:
        if not self.left or not own:
            return self.kept, self.left
        # Other faces of the family stand beside this one for what it does not claim.
        claimed = parsed(own)
        kept, left = (claimed & parsed(ranges) for ranges in (self.kept, self.left))
        return written(kept), written(left) if left else ""


def font_beside(capture: Capture, font: Exchange, new: Outcome) -> Exchange:
    """The exchange of a smaller font, in the folder of the one that it was made of."""
    return made_file(capture.base_url, beside(capture.base_url, font, new.digest, ".woff2"), new)


def naming(texts: SiteTexts, font: Exchange) -> list[tuple[Sheet, frozenset[str]]]:
    """The style sheets whose font faces name a file, each with the addresses by which it does."""
    result = ((sheet, addresses_of(texts, sheet, font)) for sheet in sheets_of(texts))
    return [
        (sheet, urls)
        for sheet, urls in result
        if urls and any(True for _ in faces_of(sheet.chars, texts.base(sheet.exchange), urls))
    ]


def apply(change: Change[SubsetParams], draft: Draft) -> None:
    """Make a smaller font of each target, and have the style sheets of the pages in scope name it."""
    scope = frozenset(change.pages)
    for path, font in draft.targets(change):
        outcome = draft.work_cache.outcome(font.digest, change.params.work())
        if outcome.refused:
            draft.notice(path, outcome.refused)
            continue
        draft.work_cache.hand_over(outcome)
        pages: set[str] = set()
        makes: dict[str, dict[int, SmallerFaces]] = {}
        for sheet, urls in naming(draft.texts, font):
            if sheet.pages & scope:
                make = SmallerFaces.of(draft.texts, sheet, urls, font, outcome)
                makes.setdefault(sheet.exchange.url, {})[sheet.start] = make
        for url, known in makes.items():
            exchange = draft.capture.exchanges[url]
            sheets = sheets_in(draft, exchange)
            every: list[Make] = [known.get(sheet.start, str) for sheet in sheets]
            links = tuple({make.link for make in known.values()})
            if draft.edits.transform(change, exchange, Stage.FONTS, over(exchange, every), links):
                pages |= sheets[0].pages & scope
        if pages:
            small = font_beside(draft.capture, font, outcome)
            draft.files.offer(change, font, small, frozenset(pages))
            for name in sorted(pages):
                _preload(change, draft, name, font, small)
        else:
            draft.notice(path, "is not named in an editable style sheet")


def _preload(change: Change[SubsetParams], draft: Draft, name: str, font: Exchange, small: Exchange) -> None:
    """Where a page asks for the font ahead of time, let it ask for the smaller one."""
    if (parsed := draft.page(name)) is None:
        return
    page, document = parsed
    base = draft.texts.base(page)
    for element in preloads_of(draft.capture, document, base, font):
        edit = document.set_attribute(element, "href", link_to(small.url, base))
        if draft.edits.edit(change, page, edit, "href") and "type" in element.attrs:
            draft.edits.edit(change, page, document.set_attribute(element, "type", "font/woff2"), "type")


def preloads_of(capture: Capture, document: Document, base: str, font: Exchange) -> list[Element]:
    """The tags by which a page asks for a font ahead of time."""
    links = [e for e in document.elements if e.tag == "link" and not e.inert and e.attrs.get("href")]
    links = [e for e in links if "preload" in e.attrs.get("rel", "").lower().split()]
    return [e for e in links if (url := resolve(base, e.attrs["href"])) and capture.lookup(url) == font]


REMEDY = Remedy(
    name="subset-fonts",
    phase="fonts",
    params=SubsetParams,
    title="Smaller fonts: only characters in use",
    what="Fonts reduced to the characters that pages show",
    detail=(
        "Makes a WOFF2 file with the characters that pages show and a basic set that texts may need. All layout "
        "features stay; of a variable font, the weights that styles use stay, with regular and bold. Every other "
        "character comes from the original font by unicode-range."
    ),
    apply=apply,
    least_effort="steady",
    needs_new_names=True,
    settings=(
        Setting("also", "Further characters to keep"),
        Setting(
            "hints", "Hinting (for low-resolution screens)", {"stay": "stays", "go": "goes (Windows may show it)"}
        ),
    ),
)
