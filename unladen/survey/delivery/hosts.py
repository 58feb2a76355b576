"""Hosts that a browser learns of late, and hints about hosts that nobody asks."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from typing import Literal

from unladen.remedies import Change, remedy_named
from unladen.remedies.delivery.hints import HintParams, hints_in, origin_of
from unladen.survey.findings import Facts, Finding
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.records.model import Request

_MOST = 2  # connections; each further one takes from those that the page needs (common practice, no source)
_BEFORE = ("embeds", "widgets", "remote fonts", "held up")
_EARLY = {"styles", "fonts", "scripts"}


@dataclass(frozen=True, slots=True, kw_only=True)
class HostsFacts(Facts):
    """Hosts to connect to, and those that nobody asks."""

    about: Literal["hosts"] = "hosts"
    connect: list[str]
    idle: list[str]


def find(context: Context) -> Found:
    """At most one excess, for all pages."""
    evidence = context.evidence
    going = _going(context)
    connects: dict[str, tuple[str, ...]] = {}
    idles: dict[str, tuple[str, ...]] = {}
    fonts: set[str] = set()
    for path in evidence.pages:
        page = evidence.capture.page(path)
        document = evidence.texts.document(page)
        if document is None:
            continue
        mine = evidence.on(path)
        asked = {origin_of(r.url) for w in mine for r in [*w.visit.requests, *w.facts.scrolled]}
        asked |= {origin_of(use.url) for walk in evidence.walks if walk.page == path for use in walk.files}
        hints = hints_in(document, evidence.texts.base(page))
        idle = tuple(sorted({origin for _, origin in hints if origin not in asked or origin == origin_of(page.url)}))
        known = {o for e, o in hints if "preconnect" in e.attrs["rel"].lower()} | {origin_of(page.url)}
        late: dict[str, None] = {}
        for weigh_in in mine:
            for request in weigh_in.visit.at_load:
                origin = origin_of(request.url)
                leaves = {request.url, request.initiator} & going.get(path, set())
                if origin not in known and not leaves and _is_late(request, page.url):
                    late[origin] = None
                    fonts |= {origin} if request.kind == "fonts" else set()
        if late:
            connects[path] = tuple(list(late)[:_MOST])
        if idle:
            idles[path] = idle
    if not connects and not idles:
        return Found()
    return Found((_excess(connects, idles, fonts),))


def _going(context: Context) -> dict[str, set[str]]:
    """What pages would not ask for any more, or not from there, by the changes proposed so far."""
    result: dict[str, set[str]] = defaultdict(set)
    for excess, change in context.reached(*_BEFORE):
        for page in change.pages if not remedy_named(change.remedy).steadies else ():
            result[page].update({*excess.files, *change.targets})
    return result


def _is_late(request: Request, page: str) -> bool:
    """Whether the first view may wait for it, and no tag of the page names it."""
    return request.kind in _EARLY and not request.cached and request.status == 200 and request.initiator != page


def _excess(connects: dict[str, tuple[str, ...]], idles: dict[str, tuple[str, ...]], fonts: set[str]) -> Finding:
    connect, idle = (sorted({origin for mine in some.values() for origin in mine}) for some in (connects, idles))
    pages = tuple(dict.fromkeys([*connects, *idles]))
    titles = [f"The browser learns late of {_hosts(connect)}"] if connect else []
    titles += [f"{'h' if connect else 'H'}ints about {_hosts(idle)}, which no page asked"] if idle else []
    params = HintParams(
        connect={page: " ".join(mine) for page, mine in connects.items()},
        idle={page: " ".join(mine) for page, mine in idles.items()},
        fonts=tuple(sorted(fonts.intersection(connect))),
    )
    return Finding(
        id="hints",
        excess="hosts",
        kind="documents",
        title="; ".join(titles),
        why="To find a host and greet it takes several ways there and back; for one that nobody asks they are for "
        "nothing.",
        pages=pages,
        bytes=0,
        of_bytes=0,
        requests=0,
        tried=False,
        facts=HostsFacts(connect=connect, idle=idle),
        changes=(Change("hints", "hints", pages, pages, params),),
    )


def _hosts(origins: list[str]) -> str:
    names = [origin.partition("://")[2] for origin in origins]
    return ", ".join(names[:2]) + (f" and {len(names) - 2} more" if len(names) > 2 else "")


SURVEYOR = Surveyor("hosts", find, (HostsFacts,), needs=_BEFORE, remedies=("hints",))
