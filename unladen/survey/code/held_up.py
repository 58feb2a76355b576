"""Scripts that the first picture of a page waits for, and those that could wait for a visitor."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from unladen.errors import Notice
from unladen.remedies import Change, Params
from unladen.remedies.loader import may_run_inline
from unladen.remedies.scripts.order import Tag, held_by_the_page, may_defer, may_wait, scripts_of
from unladen.remedies.scripts.wait_for_visitor import WaitParams
from unladen.survey.amounts import requests_in_words
from unladen.survey.findings import Facts, FilesFacts, Finding
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.link.model import modelled
from unladen.weigh.records.conditions import LINKS
from unladen.weigh.records.model import Request, WeighIn

_WORTH = 5_000  # bytes transferred on one page, for scripts to wait
_LEAST = 20  # ms until the first picture
LINK = LINKS[2]


@dataclass(frozen=True, slots=True, kw_only=True)
class FirstPictureFacts(Facts):
    """What the first picture of a page waits for: `files` by path with their bytes, those of them that need not be
    waited for, and the modelled time in ms until all of it is there, with them and without.
    """

    about: Literal["first picture"] = "first picture"
    files: dict[str, int]
    spared: list[str]
    before: int
    after: int


def first_picture(requests: Sequence[Request], spared: Sequence[str] = ()) -> tuple[list[Request], float]:
    """What the first picture waits for, and the modelled time in ms until all of that is there, without those spared
    (URLs).
    """
    waits = [r for r in requests if r.blocking or r is requests[0]]
    remaining = [r for r in waits if r.url not in spared]
    return waits[1:], modelled(remaining, LINK).load if remaining else 0.0


def find(context: Context) -> Found:
    """At most one excess for what holds pages up, and one for what could wait for a visitor."""
    evidence = context.evidence
    pages = {page: evidence.capture.page(page) for page in evidence.pages}
    tags: dict[str, list[Tag]] = {}
    for path, page in pages.items():
        if (document := evidence.texts.document(page)) is not None:
            tags[path] = scripts_of(evidence.texts, page, document)
    notices = []
    free = {}
    for path, scripts in tags.items():
        document = evidence.texts.document(pages[path])
        if document and (own := held_by_the_page(document)):
            many = f"{len(own)} scripts" if len(own) > 1 else "a script"
            notices.append(Notice(path, f"holds {many} back by a way of its own, so ours stays off there"))
        else:
            free[path] = scripts
    findings = [_blocking(context, tags), _waiting(context, free)]
    return Found(tuple(excess for excess in findings if excess is not None), tuple(notices))


def _blocking(context: Context, tags: dict[str, list[Tag]]) -> Finding | None:
    evidence = context.evidence
    targets: dict[str, None] = {}
    shown: list[tuple[float, WeighIn, list[str]]] = []
    for weigh_in in evidence.weigh_ins:
        scripts = tags.get(weigh_in.page, [])
        taken, _ = may_defer(scripts, {tag.url for tag in scripts if tag.url})
        urls = {tag.url for tag in taken}
        requests = [r for r in weigh_in.visit.requests if not r.cached]
        held = [
            r.url
            for r in requests
            if r.blocking and (e := evidence.capture.lookup(r.url)) is not None and e.url in urls
        ]
        if held:
            targets |= dict.fromkeys(evidence.path(url) for url in sorted(urls))
            gain = first_picture(requests)[1] - first_picture(requests, held)[1]
            shown.append((gain, weigh_in, held))
    if not shown or max(gain for gain, _, _ in shown) < _LEAST:
        return None
    _, worst, held = max(shown, key=lambda entry: entry[0])
    waits, before = first_picture(worst.visit.requests)
    after = first_picture(worst.visit.requests, held)[1]
    page_list = tuple(dict.fromkeys(weigh_in.page for _, weigh_in, _ in shown))
    return Finding(
        id="defer-scripts",
        excess="holds-up",
        kind="scripts",
        title=f"The first picture waits for {len(held)} {'scripts' if len(held) > 1 else 'script'} that nothing "
        "needs so early",
        why=(
            f"On {worst.page} all that it waits for takes about {before:,.0f} ms on {LINK.label}, and "
            f"{after:,.0f} ms without. "
            "The scripts come meanwhile, and run in their order once the page has been read."
        ),
        pages=page_list,
        bytes=0,
        of_bytes=sum(r.transferred for r in waits),
        requests=0,
        tried=False,
        facts=FirstPictureFacts(
            files={evidence.path(r.url): r.transferred for r in waits},
            spared=[evidence.path(url) for url in held],
            before=round(before),
            after=round(after),
        ),
        changes=(Change("defer-scripts", "defer-scripts", tuple(targets), page_list, Params()),),
    )


def _waiting(context: Context, tags: dict[str, list[Tag]]) -> Finding | None:
    """All files that could wait, on the pages where that is worth it."""
    evidence = context.evidence
    taken = {
        url for excess in context.before["widgets"].excess for change in excess.changes for url in change.targets
    }
    weights: dict[str, int] = {}
    pages: dict[str, int] = {}
    counts: dict[str, int] = {}
    for weigh_in in evidence.weigh_ins:
        page = weigh_in.page
        if page not in tags:
            continue
        scripts = tags[page]
        document = evidence.texts.document(evidence.capture.page(page))
        if document is None or not may_run_inline(evidence.capture.page(page), document):
            continue
        waits, _ = may_wait(scripts, {tag.url for tag in scripts if tag.url and tag.url not in taken})
        urls = {tag.url for tag in waits if tag.url}
        asked = {
            e.url: r.transferred
            for r in weigh_in.visit.requests
            if (e := evidence.capture.lookup(r.url)) is not None and e.url in urls
        }
        weight = sum(asked.values())
        if weight >= _WORTH and weight > pages.get(page, 0):
            pages[page], counts[page] = weight, len(asked)
            weights |= {evidence.path(url): size for url, size in asked.items()}
    if not pages:
        return None
    heaviest = max(pages, key=lambda page: pages[page])
    every = tuple(page for page in evidence.pages if page in pages)
    return Finding(
        id="wait-for-visitor",
        excess="before-anyone",
        kind="scripts",
        title=f"{requests_in_words(counts[heaviest])} for scripts before the first interaction",
        why=(
            f"On {heaviest} {counts[heaviest]} scripts come for visitors who only read, too. They can wait until "
            "somebody moves the "
            "pointer, presses, types, touches or scrolls; what was pressed is then done again. Who does so "
            "fetches all of them."
        ),
        pages=every,
        bytes=pages[heaviest],
        of_bytes=pages[heaviest],
        requests=counts[heaviest],
        tried=False,
        facts=FilesFacts(files=weights),
        changes=(Change("wait-for-visitor", "wait-for-visitor", tuple(weights), every, WaitParams()),),
    )


SURVEYOR = Surveyor(
    "held up",
    find,
    (FirstPictureFacts, FilesFacts),
    needs=("widgets",),
    remedies=("defer-scripts", "wait-for-visitor"),
)
