"""Rules of style sheets that nothing on the pages can match, and no script can make match."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass
from typing import Literal

from unladen.capture.mediatypes import is_page
from unladen.capture.model import sent_body
from unladen.markup.spans import Units, touching
from unladen.remedies import Change
from unladen.remedies.styles.trim_styles import TrimParams
from unladen.styles.matching import matched_in_source
from unladen.styles.naming import Names, names_in_markup, names_of
from unladen.styles.rules import every, tree
from unladen.styles.selectors import Wanted, wanted
from unladen.styles.sheets import Sheet, named_elsewhere, names_in_scripts, sheets_of
from unladen.styles.trim import Dead, Trimmed, selectors_in, trimmed
from unladen.survey.findings import Facts, Finding
from unladen.survey.site_facts import SiteFacts
from unladen.survey.spec import Context, Found, Surveyor

_WORTH = 300  # bytes transferred


@dataclass(frozen=True, slots=True, kw_only=True)
class RulesFacts(Facts):
    """Parts that could go, of sheets with so many selectors."""

    about: Literal["rules"] = "rules"
    gone: int
    selectors: int


@dataclass(frozen=True, slots=True)
class _Seen:
    """What some pages have in them: relaxed selectors that matched, and names."""

    matched: frozenset[str]
    there: frozenset[str]
    markup: Names
    scripts: Names

    def has(self, name: str) -> bool:
        """Whether a name was in the page, as a selector has it."""
        return name.lower() in self.there or self.markup.may_name(name)


def find(context: Context) -> Found:
    """One excess for each sheet of weighed pages; others that use it keep the file as it is."""
    evidence = context.evidence
    findings: list[Finding] = []
    remaining: dict[str, str] = {}
    by_file: dict[str, list[Sheet]] = {}
    for sheet in sheets_of(evidence.texts):
        by_file.setdefault(sheet.exchange.url, []).append(sheet)
    unseen = {weigh_in.page for weigh_in in evidence.weigh_ins if not weigh_in.facts.names}
    for url, sheets in by_file.items():
        path, pages = evidence.path(url), sheets[0].pages & set(context.scope)
        if not any(sheet.chars.strip() for sheet in sheets) or not pages:
            continue
        if not pages & unseen and (excess := _excess(context, path, sheets, pages, remaining)):
            findings.append(excess)
    return Found(tuple(findings), notes=remaining)


def _excess(
    context: Context, path: str, sheets: list[Sheet], pages: frozenset[str], left: dict[str, str]
) -> Finding | None:
    """What can go on these pages; the text that is left then goes into `left`."""
    evidence = context.evidence
    selectors = [asked for sheet in sheets for asked in selectors_in(sheet.chars)]
    dead = _dead(evidence, pages, selectors)
    try:
        results = [_trimmed(evidence, sheet, dead) for sheet in sheets]
    except ValueError:
        return None  # the guard's word; nothing is lost but the bytes
    exchange = sheets[0].exchange
    before = _sent(evidence, sheets, _whole(evidence, sheets, [sheet.chars for sheet in sheets]))
    whole = _whole(evidence, sheets, [result.chars for result in results])
    after = _sent(evidence, sheets, whole)
    if before - after < _WORTH:
        return None
    left[exchange.url] = whole
    gone = [part for result in results for part in result.gone]
    inline = is_page(exchange.media_type)
    name = path.rsplit("/", 1)[-1]
    where = f"{name or path}: {len(gone):,} rules written into the page" if inline else f"{name}: {len(gone):,} rules"
    change = Change(
        f"trim-styles:{path}",
        "trim-styles",
        (path,),
        tuple(page for page in context.scope if page in pages),
        TrimParams(absent=tuple(sorted(dead.absent)), unmatched=tuple(sorted(dead.unmatched))),
    )
    which, others = "that use it", ""
    if apart := len(sheets[0].pages - pages):
        which = "weighed"
        others = (
            f" They get a file of their own; {apart} more keep this one, which a visitor who goes on there "
            "fetches then."
        )
    return Finding(
        id=f"rules:{path}",
        excess="dead-rules",
        kind="documents" if inline else "styles",
        title=f"{where} match nothing",
        why=f"None of the {len(pages)} pages {which} has what they ask for, in any state, and no script names "
        f"it.{others}",
        pages=tuple(sorted(pages)),
        bytes=before - after,
        of_bytes=before,
        requests=0,
        tried=True,
        facts=RulesFacts(gone=len(gone), selectors=len(selectors)),
        changes=(change,),
    )


def _trimmed(evidence: SiteFacts, sheet: Sheet, dead: Dead) -> Trimmed:
    named = named_elsewhere(evidence.texts, sheet)
    return trimmed(sheet.chars, dead, lambda name: name.lower() in named)


def _whole(evidence: SiteFacts, sheets: list[Sheet], chars: Iterable[str]) -> str:
    """The text of the file or page with these in the place of its sheets."""
    text = evidence.texts.text(sheets[0].exchange)
    assert text is not None
    whole = text.chars
    for sheet, made in sorted(zip(sheets, chars, strict=True), key=lambda pair: -pair[0].start):
        start = max(0, sheet.start)
        whole = whole[:start] + made + whole[start + len(sheet.chars) :]
    return whole


def _sent(evidence: SiteFacts, sheets: list[Sheet], whole: str) -> int:
    """Its bytes as sent."""
    exchange = sheets[0].exchange
    text = evidence.texts.text(exchange)
    assert text is not None
    return len(sent_body(text.encode(whole), exchange.encoding)[0])


def _dead(evidence: SiteFacts, pages: Collection[str], selectors: Iterable[Wanted]) -> Dead:
    """What is dead on these pages: a name that is nowhere and that no script can bring about; what is there but does
    not fit together, and of which no script knows any part.
    """
    seen = _seen(evidence, pages)
    asked_for = list(dict.fromkeys(selectors))
    matched = set(seen.matched) | used_on_walks(evidence, pages)
    for page in pages:
        if text := evidence.texts.text(evidence.capture.page(page)):
            matched |= matched_in_source(text.chars, (asked for asked in asked_for if asked.relaxed not in matched))
    names = {name.lower() for asked in asked_for if asked.relaxed not in matched for name in asked.names}
    absent = frozenset(name for name in names if not seen.has(name) and not seen.scripts.may_name(name))
    unmatched = frozenset(
        asked.relaxed
        for asked in asked_for
        if asked.relaxed not in matched
        and not absent.intersection(name.lower() for name in asked.names)
        and not any(seen.scripts.may_name(name) for name in asked.names)
    )
    return Dead(absent, unmatched)


def used_on_walks(evidence: SiteFacts, pages: Collection[str]) -> set[str]:
    """The relaxed selectors of rules that the browser noted as used while these pages were walked over."""
    used_on_walks: set[str] = set()
    for walk in evidence.walks:
        for use in walk.files if walk.page in pages else ():
            exchange = evidence.capture.lookup(use.url) if use.kind == "styles" else None
            text = evidence.texts.text(exchange) if exchange else None
            if text is None:
                continue
            units = Units(text.chars)
            for node in every(tree(text.chars)):
                span = units.at(node.block.start), units.at(node.block.end)
                if node.is_style and touching(use.used, *span):
                    asked = (wanted(text.chars[start:end]) for start, end in node.selectors)
                    used_on_walks |= {each.relaxed for each in asked if each}
    return used_on_walks


def _seen(evidence: SiteFacts, pages: Collection[str]) -> _Seen:
    weigh_ins = [weigh_in for weigh_in in evidence.weigh_ins if weigh_in.page in pages]
    urls = {request.url for w in weigh_ins for request in [*w.visit.requests, *w.facts.scrolled]}
    urls |= {url for url, users in evidence.texts.users().items() if users & set(pages)}
    result = [evidence.capture.page(page) for page in pages]
    texts = [text.chars for page in result if (text := evidence.texts.text(page))]
    return _Seen(
        frozenset(selector for w in weigh_ins for selector in w.facts.matched),
        frozenset(name.lower() for w in weigh_ins for name in w.facts.names),
        names_of(names_in_markup(chars) for chars in texts),
        names_in_scripts(evidence.texts, sorted(urls | {page.url for page in result})),
    )


SURVEYOR = Surveyor("dead rules", find, (RulesFacts,), remedies=("trim-styles",))
