"""Font families that come from another host."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal
from urllib.parse import urlsplit

from unladen.capture import Exchange
from unladen.capture.model import sent_body
from unladen.fonts.ranges import written
from unladen.remedies import Change
from unladen.remedies.fonts.host_fonts import HostParams, brought_home, fonts_in, names_by_link
from unladen.survey.findings import Facts, Finding
from unladen.survey.fonts.characters import Shown, shown_fonts, wanted_of
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.page.fonts import characters_of


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoteFontsFacts(Facts):
    """The families and the hosts that they come from."""

    about: Literal["remote fonts"] = "remote fonts"
    families: list[str]
    hosts: list[str]


def find(context: Context) -> Found:
    """One excess for each style sheet of another host that brings fonts."""
    evidence = context.evidence
    sheets: dict[str, list[str]] = {}
    for weigh_in in evidence.weigh_ins:
        for request in weigh_in.visit.requests:
            sheet = evidence.capture.lookup(request.url) if request.kind == "styles" else None
            if sheet is None or sheet.status != 200 or evidence.capture.owns(sheet.url):
                continue
            pages = sheets.setdefault(sheet.url, [])
            if weigh_in.page not in pages:
                pages.append(weigh_in.page)
    shown = shown_fonts(evidence)
    findings = [
        excess
        for url, pages in sheets.items()
        if (excess := _excess(context, evidence.capture.exchanges[url], pages, shown))
    ]
    return Found(tuple(findings))


def _excess(context: Context, sheet: Exchange, asking: list[str], shown: dict[str, Shown]) -> Finding | None:
    evidence = context.evidence
    text = evidence.texts.text(sheet)
    pages = tuple(
        page
        for page in asking
        if (document := evidence.texts.document(evidence.capture.page(page)))
        and names_by_link(evidence.capture, document, evidence.texts.base(evidence.capture.page(page)), sheet)
    )
    if text is None or not pages:
        return None
    fonts = dict.fromkeys(font for _, _, font in fonts_in(evidence.capture, sheet, text.chars))
    used = [font for font in fonts if font.url in shown]
    if not used:
        return None
    keep = {}
    for font in used:
        known = characters_of(evidence.capture.store, font.digest)
        wanted = wanted_of(context, shown[font.url], known) & known
        if wanted:
            keep[font.url] = written(wanted)
    params = HostParams(keep=keep)
    try:
        chars, homes = brought_home(evidence.capture, context.work_cache, sheet, text.chars, params)
    except ValueError:
        return None  # its faces say what no browser reads
    before = evidence.capture.sent_size(sheet) + sum(evidence.capture.sent_size(font) for font in used)
    after = len(sent_body(chars.encode(), sheet.encoding)[0])
    after += sum((home.small or home.here).size for home in homes if home.found in used)
    hosts = sorted({urlsplit(e.url).hostname or "" for e in (sheet, *used)})
    families = sorted({shown[font.url].font.family for font in used})
    return Finding(
        id=f"remote-fonts:{sheet.url}",
        excess="remote-fonts",
        kind="fonts",
        title=f"{', '.join(families)} of {hosts[0]}"
        if len(families) < 4
        else f"{len(families)} families of {hosts[0]}",
        why="The browser must contact another host before it can show the text, and its fonts hold more characters "
        "than are shown.",
        pages=pages,
        bytes=max(0, before - after),
        of_bytes=before,
        requests=0,
        tried=True,
        facts=RemoteFontsFacts(families=families, hosts=hosts),
        changes=(Change(f"host-fonts:{sheet.url}", "host-fonts", (sheet.url,), pages, params),),
    )


SURVEYOR = Surveyor("remote fonts", find, (RemoteFontsFacts,), needs=("dead rules",), remedies=("host-fonts",))
