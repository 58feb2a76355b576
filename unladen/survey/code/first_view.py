"""Style sheets that the first picture of a page waits for, though it needs few of their rules."""

from __future__ import annotations

from unladen.capture.model import sent_body
from unladen.errors import Notice
from unladen.remedies import Change
from unladen.remedies.loader import may_run_inline
from unladen.remedies.scripts.order import may_wait, scripts_of
from unladen.remedies.styles.first_view_styles import FirstParams, inlined, late_by_itself, links_of, measures
from unladen.survey.code.held_up import LINK, FirstPictureFacts, first_picture
from unladen.survey.findings import Finding
from unladen.survey.spec import Context, Found, Surveyor

_WORTH = 50  # ms until the first picture


def find(context: Context) -> Found:
    """At most one excess for each page."""
    notices: list[Notice] = []
    findings = (_page(context, page, notices) for page in context.evidence.pages)
    return Found(tuple(excess for excess in findings if excess is not None), tuple(notices))


def _page(context: Context, path: str, notices: list[Notice]) -> Finding | None:
    evidence = context.evidence
    page = evidence.capture.page(path)
    document = evidence.texts.document(page)
    mine = evidence.on(path)
    if document is None or not may_run_inline(page, document) or not all(w.facts.first for w in mine):
        return None
    if late_by_itself(document):
        notices.append(Notice(path, "has style sheets come late by a way of its own, so ours stays off there"))
        return None
    tags = scripts_of(evidence.texts, page, document)
    # What comes later than the styles may measure what it likes.
    waiting = may_wait(tags, _targets(context, "held up", "wait-for-visitor", path))[0]
    later = {tag.element.start for tag in waiting}
    hosts = _targets(context, "widgets", "delay-scripts", path)
    if culprit := measures([tag for tag in tags if tag.element.start not in later and tag.url not in hosts]):
        notices.append(Notice(path, f"keeps its style sheets first, since {culprit}"))
        return None
    first = frozenset(selector for w in mine for selector in w.facts.first)
    sheets, cost = {}, 0
    for element, sheet in links_of(evidence.texts, page, document):
        try:
            rules = inlined(evidence.texts, sheet, first, element.attrs.get("media", "").strip())
        except ValueError:
            continue
        sheets[sheet.url] = sheet
        cost += len(sent_body(rules.encode(), page.encoding)[0])
    best = None
    for weigh_in in mine:
        requests = weigh_in.visit.requests
        held_up = [
            r.url for r in requests if r.blocking and (e := evidence.capture.lookup(r.url)) and e.url in sheets
        ]
        before, after = first_picture(requests)[1], first_picture(requests, held_up)[1] + cost / LINK.bytes_per_ms
        if held_up and (best is None or before - after > best[0] - best[1]):
            best = before, after, requests, held_up
    if best is None or best[0] - best[1] < _WORTH:
        return None
    before, after, requests, held_up = best
    waits = first_picture(requests)[0]
    params = FirstParams(first=tuple(sorted(first)))
    files = {evidence.path(r.url): r.transferred for r in waits}
    return Finding(
        id=f"first-view-styles:{path}",
        excess="holds-up",
        kind="styles",
        title=f"The first picture waits for {len(held_up)} style {'sheets' if len(held_up) > 1 else 'sheet'}",
        why=(
            f"All that it waits for takes about {before:,.0f} ms on {LINK.label}; with what the first view needs "
            "in the page, "
            f"{cost / 1000:.1f} kB, {after:,.0f} ms."
        ),
        pages=(path,),
        bytes=0,
        of_bytes=sum(files.values()),
        requests=0,
        tried=False,
        facts=FirstPictureFacts(
            files=files, spared=[evidence.path(url) for url in held_up], before=round(before), after=round(after)
        ),
        changes=(
            Change(
                f"first-view-styles:{path}",
                "first-view-styles",
                tuple(evidence.path(url) for url in sheets),
                (path,),
                params,
            ),
        ),
    )


def _targets(context: Context, surveyor: str, remedy: str, path: str) -> set[str]:
    """The files to which a remedy is applied on a page by what a surveyor proposed for this effort, by URL."""
    changes = (c for _, c in context.reached(surveyor) if c.remedy == remedy and path in c.pages)
    targets = (context.evidence.file(target) for change in changes for target in change.targets)
    return {file.url for file in targets if file is not None}


SURVEYOR = Surveyor(
    "first view", find, (FirstPictureFacts,), needs=("held up", "widgets"), remedies=("first-view-styles",)
)
