"""Fonts: too many families, and files with far more characters than the site shows."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from unladen.survey.evidence import Evidence
from unladen.survey.excess import Excess, Facts
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.page.fonts import FontFile, fonts_of

_MOST_FAMILIES = 2  # common practice, no source
_WORTH = 3_000  # bytes
# What is left of a font beside its outlines when characters are taken out (common practice, no source).
_FRAME_SHARE = 0.15
_ROOM = 2  # a site's next texts need more characters than today's


@dataclass(frozen=True, slots=True, kw_only=True)
class FamiliesFacts(Facts):
    """Font families with their bytes."""

    about: Literal["families"] = "families"
    families: dict[str, int]


@dataclass(frozen=True, slots=True, kw_only=True)
class FontFacts(Facts):
    """A font file: its format and the text that asks for it."""

    about: Literal["font"] = "font"
    format: str
    asked_by: str


def find(context: Context) -> Found:
    """One excess for further families, and one for each file that could be cut to the characters shown."""
    evidence = context.evidence
    fonts: dict[str, FontFile] = {}
    pages: dict[str, list[str]] = {}
    for weigh_in in evidence.weigh_ins:
        for font in fonts_of(evidence.capture, weigh_in.visit.requests, weigh_in.facts.structure):
            known = fonts.get(font.url)
            if known is None or font.used > known.used:
                fonts[font.url] = font
            pages.setdefault(font.url, [])
            if weigh_in.page not in pages[font.url]:
                pages[font.url].append(weigh_in.page)
    extra = _families(evidence, fonts, pages)
    going = {path for excess in extra for path in excess.files}
    staying = {url: font for url, font in fonts.items() if evidence.path(url) not in going}
    return Found((*extra, *_characters(evidence, staying, pages)))


def _families(evidence: Evidence, fonts: dict[str, FontFile], pages: dict[str, list[str]]) -> list[Excess]:
    weight: dict[str, int] = {}
    for font in fonts.values():
        weight[font.family or font.url] = weight.get(font.family or font.url, 0) + font.transferred
    extra = sorted(weight, key=lambda family: -weight[family])[_MOST_FAMILIES:]
    files = [font for font in fonts.values() if (font.family or font.url) in extra]
    if not files:
        return []
    size = sum(weight[family] for family in extra)
    return [
        Excess(
            id="fonts:families",
            excess="many-fonts",
            kind="fonts",
            title=f"{len(weight)} font families, where two usually do",
            why=f"The lighter {len(extra)} of them ({', '.join(extra)}) come in {len(files)} files.",
            pages=tuple(dict.fromkeys(page for font in files for page in pages[font.url])),
            bytes=size,
            of_bytes=sum(weight.values()),
            requests=len(files),
            tried=False,
            facts=FamiliesFacts(families=weight),
            advice="Choose two families and let the others go in the theme's settings or style sheet.",
            files=tuple(evidence.path(font.url) for font in files),
        )
    ]


def _characters(evidence: Evidence, fonts: dict[str, FontFile], pages: dict[str, list[str]]) -> list[Excess]:
    found = []
    for font in fonts.values():
        if not font.glyphs or not font.used:
            continue
        share = min(1.0, _FRAME_SHARE + _ROOM * font.used / font.glyphs)
        saved = round(font.transferred * (1 - share))
        if saved < _WORTH:
            continue
        path = evidence.path(font.url)
        found.append(
            Excess(
                id=f"glyphs:{path}",
                excess="unused-characters",
                kind="fonts",
                title=f"{font.family or path.rsplit('/', 1)[-1]} {font.weight}: {font.used} of {font.glyphs:,} characters shown",
                why="Estimated from the share of characters, with room for twice as many as the pages show today.",
                pages=tuple(pages[font.url]),
                bytes=saved,
                of_bytes=font.transferred,
                requests=0,
                tried=False,
                facts=FontFacts(format=font.format, asked_by=evidence.path(font.asked_by)),
                advice="Ask for the subset of your language only, or cut the file to the characters you use.",
                files=(path,),
            )
        )
    return found


SURVEYOR = Surveyor("fonts", find, (FamiliesFacts, FontFacts))
