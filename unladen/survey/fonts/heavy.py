"""Too many font families."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from unladen.survey.findings import Facts, Finding
from unladen.survey.site_facts import SiteFacts
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.page.fonts import FontFile, fonts_of

_MOST_FAMILIES = 2  # common practice, no source


@dataclass(frozen=True, slots=True, kw_only=True)
class FamiliesFacts(Facts):
    """Font families with their bytes."""

    about: Literal["families"] = "families"
    families: dict[str, int]


def find(context: Context) -> Found:
    """One excess for further families, of what is left of them once their files are cut."""
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
    cut = {excess.targets[0]: excess.bytes for excess in context.before["characters"].excess}
    return Found(tuple(_families(evidence, fonts, pages, cut)))


def _families(
    evidence: SiteFacts, fonts: dict[str, FontFile], pages: dict[str, list[str]], cut: dict[str, int]
) -> list[Finding]:
    weight: dict[str, int] = {}
    for font in fonts.values():
        remaining = max(0, font.transferred - cut.get(evidence.path(font.url), 0))
        weight[font.family or font.url] = weight.get(font.family or font.url, 0) + remaining
    extra = sorted(weight, key=lambda family: -weight[family])[_MOST_FAMILIES:]
    files = [font for font in fonts.values() if (font.family or font.url) in extra]
    if not files:
        return []
    size = sum(weight[family] for family in extra)
    return [
        Finding(
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
            advice="Choose two families and remove the others in the theme's settings or style sheet.",
            files=tuple(evidence.path(font.url) for font in files),
        )
    ]


SURVEYOR = Surveyor("fonts", find, (FamiliesFacts,), needs=("characters",))
