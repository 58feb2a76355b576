"""What keeps a rule that a trim of style sheets leaves where it is."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass
from functools import cached_property

from unladen.markup.site import SiteTexts
from unladen.remedies import Change
from unladen.remedies.styles.trim_styles import TrimParams
from unladen.styles.matching import matched_in_source
from unladen.styles.naming import Names
from unladen.styles.rules import prelude
from unladen.styles.selectors import Wanted, wanted
from unladen.styles.sheets import Sheet, names_in_scripts, sheets_of
from unladen.styles.trim import is_like, style_rules
from unladen.survey.code.dead_rules import used_on_walks
from unladen.survey.site_facts import SiteFacts


@dataclass(frozen=True, slots=True)
class Stays:
    """A selector that stays, why, and where it stands in the text of its sheet (characters)."""

    what: str
    why: str
    start: int
    end: int


def staying(evidence: SiteFacts, change: Change[TrimParams]) -> list[Stays]:
    """All selectors that a trim leaves in its targets, in the order of the text."""
    rules: list[Stays] = []
    for sheet in sheets_of(evidence.texts):
        if evidence.texts.path(sheet.exchange) in change.targets:
            rules += _in_sheet(evidence, sheet, change)
    return rules


def _in_sheet(evidence: SiteFacts, sheet: Sheet, change: Change[TrimParams]) -> Iterator[Stays]:
    dead = change.params.dead()
    nodes = list(style_rules(sheet.chars))
    texts = (sheet.chars[start:end] for node in nodes for start, end in node.selectors)
    asked = [result for text in texts if not dead.why(text) and (result := wanted(text))]
    pages = [page for page in evidence.pages if page in sheet.pages]
    reasons = _Reasons(evidence, pages, change.params.keep, asked)
    for node in nodes:
        for start, end in node.selectors:
            text = sheet.chars[start:end]
            if not dead.why(text):
                yield Stays(text, reasons.why(text), start, end)
        if not node.selectors:
            yield Stays(prelude(sheet.chars, node), "cannot be read", node.block.start, node.block.end)


class _Reasons:
    """Reasons, the plainest first: the user's word, what was seen, what stands in a page, what a script could spell."""

    def __init__(self, evidence: SiteFacts, pages: list[str], keep: Collection[str], asked: list[Wanted]) -> None:
        self.evidence, self.pages, self.keep, self.asked = evidence, pages, keep, asked
        self.seen = [
            (w.page, w.conditions.device.name, frozenset(w.facts.matched))
            for w in evidence.weigh_ins
            if w.page in pages
        ]
        self.walked = [(page, used_on_walks(evidence, [page])) for page in pages]

    def why(self, selector: str) -> str:
        asked = wanted(selector)
        if pattern := next((pattern for pattern in self.keep if is_like(pattern, selector)), ""):
            return f"you keep {pattern}"
        if asked is None:
            return "nobody can tell what it asks for"
        if there := [(page, device) for page, device, matched in self.seen if asked.relaxed in matched]:
            more = f" and {len(there) - 1} more" if len(there) > 1 else ""
            return f"{there[0][0]} has it, on {there[0][1]}{more}"
        if walked := next((page for page, used in self.walked if asked.relaxed in used), ""):
            return f"a walk over {walked} used it"
        if page := next((page for page, there in self._sources if asked.relaxed in there), ""):
            return f"it stands in the text of {page}, where a script or its absence may show it"
        return self._script(asked) or "a part of it may come about"

    @cached_property
    def _sources(self) -> list[tuple[str, set[str]]]:
        """What something in the text of each page matches."""
        sources = []
        for page in self.pages:
            text = self.evidence.texts.text(self.evidence.capture.page(page))
            sources.append((page, matched_in_source(text.chars, self.asked) if text else set()))
        return sources

    def _script(self, asked: Wanted) -> str:
        for name in asked.names:
            for called, names in self._scripts:
                if names.may_name(name):
                    return f"{called} may bring about {name}"
        return ""

    @cached_property
    def _scripts(self) -> list[tuple[str, Names]]:
        """What each script that these pages load could spell, by its name."""
        urls: dict[str, None] = {}
        for weigh_in in self.evidence.weigh_ins:
            if weigh_in.page in self.pages:
                urls |= dict.fromkeys(r.url for r in [*weigh_in.visit.requests, *weigh_in.facts.scrolled])
        texts: SiteTexts = self.evidence.texts
        urls |= dict.fromkeys(url for url, users in texts.users().items() if users.intersection(self.pages))
        scripts = []
        for url in [*urls, *(self.evidence.capture.page(page).url for page in self.pages)]:
            names = names_in_scripts(texts, [url])
            if names.whole:
                path = self.evidence.path(url)
                scripts.append(
                    (f"a script within {path}" if path in self.pages else path.rpartition("/")[2] or path, names)
                )
        return scripts
