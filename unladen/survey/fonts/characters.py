"""Font files with far more characters than a site shows."""

from __future__ import annotations

import html
import re
from collections.abc import Collection
from dataclasses import dataclass, field
from typing import Literal

from unladen.capture import Exchange
from unladen.capture.mediatypes import is_page
from unladen.capture.model import sent_body
from unladen.fonts.ranges import FLOOR, written
from unladen.fonts.subset import weights_in
from unladen.remedies import Change
from unladen.remedies.fonts.subset_fonts import SmallerFaces, SubsetParams, naming
from unladen.styles.sheets import Sheet
from unladen.survey.findings import Facts, Finding
from unladen.survey.site_facts import SiteFacts
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.page.fonts import FontFile, characters_of, fonts_of
from unladen.work_cache import Outcome

_USUAL_WEIGHTS = (400, 700)  # regular and bold, which markup asks for by itself
_NAMING = ("text/css", "text/html", "text/javascript", "image/svg+xml")
_WEIGHT = re.compile(
    r"font-?weight[\"']?\s*:\s*[\"']?(\d{1,4}(?!\s*\d)|lighter|bolder)\b|\bfont\s*:[^;}]*?\b([1-9]00)\b", re.I
)
_VARIATION = re.compile(r"font-variation-settings|fontVariationSettings", re.I)
_WORTH = 1_000  # bytes of one file
# As style sheets and as scripts write characters (CSS Syntax Level 3, 4.3.7; ECMAScript, 12.9.4).
_ESCAPE = re.compile(r"\\([0-9a-fA-F]{4,6})|\\u([0-9a-fA-F]{4})|\\u\{([0-9a-fA-F]{4,6})\}")
_OF_SYMBOLS = 0.5  # share of characters for private use from which a font is one of symbols


@dataclass(frozen=True, slots=True, kw_only=True)
class FontFacts(Facts):
    """A font file: its format, the text that asks for it, the characters in it and those that would stay."""

    about: Literal["font"] = "font"
    format: str
    asked_by: str
    characters: int
    staying: int


@dataclass(slots=True)
class Shown:
    """A font over all visits: the pages that asked for it, and the characters that they show in its family."""

    font: FontFile
    pages: list[str] = field(default_factory=list)
    characters: set[int] = field(default_factory=set)


def find(context: Context) -> Found:
    """One excess for each file that was cut and came out smaller."""
    evidence, params = context.evidence, {}
    shown = shown_fonts(evidence)
    for url, entry in shown.items():
        exchange = evidence.capture.exchanges[url]
        if not evidence.capture.owns(url) or not _in_scope(context, exchange):
            continue
        known = characters_of(evidence.capture.store, exchange.digest)
        keep = wanted_of(context, entry, known)
        if known and keep & known:
            hints = "go" if context.effort.name == "bold" else "stay"
            params[url] = SubsetParams(keep=written(keep), weights=_weights(context, exchange, entry), hints=hints)
    jobs = {url: (evidence.capture.exchanges[url].digest, made.work()) for url, made in params.items()}
    outcomes = context.work_cache.outcomes(list(jobs.values()), context.progress, "survey")
    findings = []
    for url, job in jobs.items():
        outcome = outcomes.get(job)
        if outcome is None or outcome.refused:
            continue
        try:
            cost = _cost(context, evidence.capture.exchanges[url], outcome)
        except ValueError:
            continue  # its faces say what no browser reads
        saved = shown[url].font.transferred - outcome.size - cost
        if saved >= _WORTH:
            findings.append(_excess(context, url, shown[url], params[url], outcome, saved))
    return Found(tuple(findings))


def shown_fonts(evidence: SiteFacts) -> dict[str, Shown]:
    """The fonts that were loaded, by URL."""
    shown_fonts: dict[str, Shown] = {}
    for weigh_in in evidence.weigh_ins:
        for font in fonts_of(evidence.capture, weigh_in.visit.requests, weigh_in.facts.structure):
            exchange = evidence.capture.lookup(font.url)
            if exchange is None:
                continue
            entry = shown_fonts.setdefault(exchange.url, Shown(font))
            if weigh_in.page not in entry.pages:
                entry.pages.append(weigh_in.page)
    for entry in shown_fonts.values():
        family = entry.font.family.lower()
        for weigh_in in evidence.weigh_ins:
            for row in weigh_in.facts.structure.fonts:
                if row["family"].lower() == family:
                    entry.characters |= {ord(c) for c in row["characters"]}
    return shown_fonts


def wanted_of(context: Context, entry: Shown, known: frozenset[int]) -> frozenset[int]:
    """What is shown; in a font of letters also what stands anywhere in the pages, and the floor; in one of symbols
    what the styles that stay and the scripts of these pages name.
    """
    evidence = context.evidence
    if is_of_symbols(known):
        return frozenset(entry.characters | {0x20} | _symbols_named(context, entry.pages))
    texts = (evidence.texts.text(evidence.capture.page(page)) for page in entry.pages)
    written_there = {
        ord(c) for text in texts if text for c in html.unescape(text.chars) if not 0xD800 <= ord(c) <= 0xDFFF
    }
    return frozenset(entry.characters | written_there | FLOOR)


def is_of_symbols(known: frozenset[int]) -> bool:
    """Whether a font with these characters is one of symbols."""
    return sum(map(_is_private, known)) > _OF_SYMBOLS * len(known)


def _weights(context: Context, font: Exchange, entry: Shown) -> tuple[int, ...]:
    """The lightest and heaviest of a variable font that anything asks for; () where that is all of it, or cannot be
    told.
    """
    evidence = context.evidence
    known = weights_in(evidence.capture.store.get(font.digest))
    if known is None:
        return ()
    asked = set(_USUAL_WEIGHTS)
    for exchange in evidence.capture:
        if exchange.media_type not in _NAMING:
            continue
        text = evidence.texts.text(exchange)
        chars = text.chars if text else ""
        if _VARIATION.search(chars):
            return ()
        for result in _WEIGHT.finditer(chars):
            said = (result[1] or result[2]).lower()
            asked.add({"lighter": 100, "bolder": 900}.get(said) or int(float(said)))
    for weigh_in in evidence.weigh_ins:
        for row in weigh_in.facts.structure.fonts:
            if row["family"].lower() == entry.font.family.lower():
                asked.add(int(float(row["weight"])))
    low, high = max(min(asked), known[0]), min(max(asked), known[1])
    return (round(low), round(high)) if known[0] < low or high < known[1] else ()


def _is_private(character: int) -> bool:
    """Whether it has no meaning but that of its font (Unicode, 23.5 Private-Use Characters)."""
    return 0xE000 <= character <= 0xF8FF or character >= 0xF0000


def _symbols_named(context: Context, pages: Collection[str]) -> set[int]:
    """Symbols that some state may show: those in pages, in rules that match something, and in scripts."""
    evidence, left = context.evidence, context.before["dead rules"].notes
    assert isinstance(left, dict)
    urls = [url for url, users in evidence.texts.users().items() if users & set(pages)]
    urls += [evidence.capture.page(page).url for page in pages]
    named: set[int] = set()
    for url in urls:
        exchange = evidence.capture.exchanges[url]
        text = evidence.texts.text(exchange)
        chars = left.get(url, text.chars if text else "")
        named |= {int(result[1] or result[2] or result[3], 16) for result in _ESCAPE.finditer(chars)}
        named |= {ord(c) for c in (html.unescape(chars) if is_page(exchange.media_type) else chars)}
    return set(filter(_is_private, named))


def _in_scope(context: Context, font: Exchange) -> list[tuple[Sheet, frozenset[str]]]:
    """The style sheets of weighed pages that name it."""
    return [entry for entry in naming(context.evidence.texts, font) if entry[0].pages & set(context.scope)]


def _cost(context: Context, font: Exchange, new: Outcome) -> int:
    """Bytes, as sent, by which style sheets grow that name the smaller font too; raises `ValueError`."""
    cost = 0
    for sheet, urls in _in_scope(context, font):
        made = SmallerFaces.of(context.evidence.texts, sheet, urls, font, new)(sheet.chars)
        before, after = (
            len(sent_body(chars.encode("utf-8", "replace"), sheet.exchange.encoding)[0])
            for chars in (sheet.chars, made)
        )
        cost += after - before
    return cost


def _excess(context: Context, url: str, entry: Shown, params: SubsetParams, new: Outcome, saved: int) -> Finding:
    evidence, font = context.evidence, entry.font
    path = evidence.path(url)
    change = Change(f"subset-fonts:{path}", "subset-fonts", (path,), context.scope, params)
    staying = len(
        params.work().kept_of(characters_of(evidence.capture.store, evidence.capture.exchanges[url].digest))
    )
    behind = "Any other character still loads from the original file." if new.facts["left"] else ""
    return Finding(
        id=f"glyphs:{path}",
        excess="unused-characters",
        kind="fonts",
        title=f"{font.family or path.rsplit('/', 1)[-1]} {font.weight}: {font.used} of {font.glyphs:,} characters "
        "shown",
        why=f"Reduced to {staying:,} characters: all that pages show, and a basic set for new texts. {behind}".strip(),
        pages=tuple(entry.pages),
        bytes=saved,
        of_bytes=font.transferred,
        requests=0,
        tried=True,
        facts=FontFacts(
            format=font.format, asked_by=evidence.path(font.asked_by), characters=font.glyphs, staying=staying
        ),
        changes=(change,),
    )


SURVEYOR = Surveyor("characters", find, (FontFacts,), needs=("dead rules",), remedies=("subset-fonts",))
