"""The largest image of the first view, which should come before all others."""

from __future__ import annotations

from unladen.remedies import Change, Params
from unladen.survey.findings import Finding, PlaceFacts
from unladen.survey.site_facts import ImageUse, Showing, SiteFacts, places_of
from unladen.survey.spec import Context, Found, Surveyor

_EARLY = ("High", "VeryHigh")
# What shares the line with images, and how many of it make a queue (common practice, no source).
_COMPETING, _MANY = ("images", "scripts", "media", "fonts"), 4


def find(context: Context) -> Found:
    """One excess for each page, with no bytes to gain: the gain is that what is seen first comes first."""
    evidence, findings = context.evidence, []
    for page in evidence.pages:
        uses = {use.path: use for use in _largest(evidence, page) if _comes_late(evidence, page, use)}
        if not uses:
            continue
        change = Change(f"priority:{page}", "priority", tuple(uses), (page,), Params())
        findings.append(
            Finding(
                id=change.id,
                excess="comes-late",
                kind="images",
                title="The largest picture of the first view loads late",
                why="Visitors see it first, but the browser learns late that it matters.",
                pages=(page,),
                bytes=0,
                of_bytes=0,
                requests=0,
                tried=False,
                facts=PlaceFacts(where=places_of(uses.values(), (page,))),
                changes=(change,),
            )
        )
    return Found(tuple(findings))


def _largest(evidence: SiteFacts, page: str) -> list[ImageUse]:
    """The image that was the largest paint of a page, where it was one and all devices agree on it."""
    urls = set()
    for weigh_in in evidence.on(page):
        exchange = evidence.capture.lookup(weigh_in.visit.largest.url) if weigh_in.visit.largest.url else None
        urls.add(exchange.url if exchange else "")
    use = evidence.images.get(urls.pop()) if len(urls) == 1 else None
    return [use] if use and all(s.image.first_view for s in _here(use, page)) else []


def _here(use: ImageUse, page: str) -> list[Showing]:
    return [s for s in use.showings if s.page == page]


def _comes_late(evidence: SiteFacts, page: str, use: ImageUse) -> bool:
    """Whether it has to queue somewhere: it is not asked for with priority, and enough others are before it.

    What a style sheet names is found late in any case.
    """
    for weigh_in in evidence.weigh_ins:
        requests = weigh_in.visit.requests
        request = next((r for r in requests if r.url == use.exchange.url and not r.cached), None)
        if weigh_in.page != page or request is None or request.priority in _EARLY:
            continue
        before = sum(r.kind in _COMPETING and r.started <= request.started for r in requests if r is not request)
        if before >= _MANY or request.initiator != requests[0].url:
            return True
    return False


SURVEYOR = Surveyor("late hero", find, (PlaceFacts,), remedies=("priority",))
