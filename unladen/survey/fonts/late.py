"""Text that does not show until its font is there, and fonts that a browser learns of late."""

from __future__ import annotations

from collections import defaultdict

from unladen.remedies import Change, Params
from unladen.remedies.fonts.even_fallbacks import EvenParams, measured
from unladen.remedies.fonts.show_text import SaysDisplay, ShowParams
from unladen.remedies.fonts.subset_fonts import naming, preloads_of
from unladen.styles.fallbacks import generic_after
from unladen.styles.sheets import sheets_of
from unladen.survey.findings import FilesFacts, Finding
from unladen.survey.fonts.characters import Shown, is_of_symbols, shown_fonts
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.page.fonts import characters_of, fonts_of

_MOST_FIRST = 2  # fonts of a page; more of them would take the line from what the page itself needs
_HIDES = 3_000  # ms for which browsers hide text at most (CSS Fonts Level 4, 4.11 "font-display")


def find(context: Context) -> Found:
    """At most one excess for text that hides, and one for each page whose fonts come late."""
    shown = {url: entry for url, entry in shown_fonts(context.evidence).items() if context.evidence.capture.owns(url)}
    hidden = _hidden(context, shown)
    jumping = _jumping(context, shown)
    return Found((*(e for e in (hidden, jumping) if e), *_late(context, shown)))


def _hidden(context: Context, shown: dict[str, Shown]) -> Finding | None:
    evidence = context.evidence
    targets = {}
    for url, entry in shown.items():
        font = evidence.capture.exchanges[url]
        if is_of_symbols(characters_of(evidence.capture.store, font.digest)):
            continue
        for sheet, urls in naming(evidence.texts, font):
            make = SaysDisplay(evidence.texts.base(sheet.exchange), urls, "swap")
            if sheet.pages & set(context.scope) and make(sheet.chars) != sheet.chars:
                targets[evidence.path(url)] = entry
    if not targets:
        return None
    pages = tuple(dict.fromkeys(page for entry in targets.values() for page in entry.pages))
    families = list(dict.fromkeys(entry.font.family for entry in targets.values()))
    return Finding(
        id="show-text",
        excess="hidden-text",
        kind="fonts",
        title=f"Text in {', '.join(families[:3])}{' and others' if len(families) > 3 else ''} hides until its "
        "font is there",
        why=f"The browser shows no text for up to {_HIDES // 1000} seconds on a slow link.",
        pages=pages,
        bytes=0,
        of_bytes=0,
        requests=0,
        tried=True,
        facts=FilesFacts(files={path: entry.font.transferred for path, entry in targets.items()}),
        changes=(Change("show-text", "show-text", tuple(targets), context.scope, ShowParams()),),
    )


def _jumping(context: Context, shown: dict[str, Shown]) -> Finding | None:
    """Families that are set otherwise than what stands in for them until they are there."""
    evidence = context.evidence
    families: dict[str, str] = {}
    generics: dict[str, str] = {}
    entries: dict[str, Shown] = {}
    sheets = [sheet for sheet in sheets_of(evidence.texts) if sheet.pages & set(context.scope)]
    if any("size-adjust" in sheet.chars for sheet in sheets):
        return None  # somebody has seen to it
    for url, entry in sorted(shown.items()):
        family, font = entry.font.family, evidence.capture.exchanges[url]
        if family in families.values() or measured(evidence.capture.store, font.digest) is None:
            continue
        if generic := next((g for sheet in sheets if (g := generic_after(sheet.chars, family))), ""):
            path = evidence.path(url)
            families[path], generics[path], entries[path] = family, generic, entry
    if not families:
        return None
    names = list(families.values())
    return Finding(
        id="even-fallbacks",
        excess="jumps",
        kind="fonts",
        title=f"Text in {', '.join(names[:3])}{' and others' if len(names) > 3 else ''} jumps when its font arrives",
        why="The fallback font is wider or narrower, so lines break elsewhere.",
        pages=tuple(dict.fromkeys(page for entry in entries.values() for page in entry.pages)),
        bytes=0,
        of_bytes=0,
        requests=0,
        tried=False,
        facts=FilesFacts(files={path: entry.font.transferred for path, entry in entries.items()}),
        changes=(
            Change(
                "even-fallbacks",
                "even-fallbacks",
                tuple(families),
                context.scope,
                EvenParams(families=families, generics=generics),
            ),
        ),
    )


def _late(context: Context, shown: dict[str, Shown]) -> list[Finding]:
    evidence = context.evidence
    weigh_ins = defaultdict(list)
    for weigh_in in evidence.weigh_ins:
        weigh_ins[weigh_in.page].append(weigh_in)
    findings = []
    for page, mine in weigh_ins.items():
        document = evidence.texts.document(evidence.capture.page(page))
        if document is None:
            continue
        wanted: dict[str, int] = {}
        for weigh_in in mine:
            fonts = fonts_of(evidence.capture, weigh_in.visit.requests, weigh_in.facts.structure)
            first = {
                e.url: f.transferred for f in fonts if f.first and (e := evidence.capture.lookup(f.url)) is not None
            }
            wanted = first if weigh_in is mine[0] else {url: size for url, size in wanted.items() if url in first}
        base = evidence.texts.base(evidence.capture.page(page))
        missing = [
            url
            for url in sorted(wanted, key=lambda url: wanted[url])
            if url in shown and not preloads_of(evidence.capture, document, base, evidence.capture.exchanges[url])
        ]
        targets = [evidence.path(url) for url in missing[:_MOST_FIRST]]
        if not targets:
            continue
        change = Change(f"fonts-first:{page}", "fonts-first", tuple(targets), (page,), Params())
        findings.append(
            Finding(
                id=change.id,
                excess="comes-late",
                kind="fonts",
                title=f"{'Two fonts' if len(targets) > 1 else 'A font'} of the first view must be found in a "
                "style sheet first",
                why="The browser requests it only after all styles have loaded, and the text waits.",
                pages=(page,),
                bytes=0,
                of_bytes=0,
                requests=0,
                tried=False,
                facts=FilesFacts(files={evidence.path(url): wanted[url] for url in missing[:_MOST_FIRST]}),
                changes=(change,),
            )
        )
    return findings


SURVEYOR = Surveyor(
    "late fonts", find, (FilesFacts,), needs=("dead rules",), remedies=("show-text", "even-fallbacks", "fonts-first")
)
