"""Files that are asked for under an address which only leads on to another."""

from __future__ import annotations

from unladen.capture.addresses import canonical
from unladen.remedies import Change
from unladen.remedies.delivery.straight_there import FOR_GOOD, MOST_STEPS, StraightParams
from unladen.survey.findings import FilesFacts, Finding
from unladen.survey.spec import Context, Found, Surveyor


def find(context: Context) -> Found:
    """At most one excess."""
    evidence = context.evidence
    sizes: dict[str, int] = {}
    ends: dict[str, str] = {}
    pages: dict[str, None] = {}
    for weigh_in in evidence.weigh_ins:
        leading = {canonical(r.url): r for r in weigh_in.visit.requests if r.redirect and r.kind != "documents"}
        for url, request in leading.items():
            end, steps = url, 0
            while end in leading and leading[end].status in FOR_GOOD and steps < MOST_STEPS:
                end, steps = canonical(leading[end].redirect), steps + 1
            final, passing = evidence.capture.lookup(end), evidence.capture.exchanges.get(url)
            uses = evidence.texts.all_uses().get(url, [])
            if end == url or end in leading or final is None or final.status != 200 or passing is None:
                continue
            if evidence.texts.within(uses, context.scope):
                path = evidence.path(url)
                sizes[path], ends[path] = request.transferred, final.url
                pages[weigh_in.page] = None
    if not sizes:
        return Found()
    many = f"{len(sizes)} addresses redirect" if len(sizes) > 1 else "An address redirects"
    excess = Finding(
        id="straight-there",
        excess="roundabout",
        kind="other",
        title=f"{many} to another",
        why="The redirect is permanent, so pages can name the final address. Each redirect costs a request and a "
        "round trip.",
        pages=tuple(pages),
        bytes=sum(sizes.values()),
        of_bytes=sum(sizes.values()),
        requests=len(sizes),
        tried=True,
        facts=FilesFacts(files=sizes),
        changes=(Change("straight-there", "straight-there", tuple(sizes), context.scope, StraightParams(to=ends)),),
    )
    return Found((excess,))


SURVEYOR = Surveyor("roundabout", find, (FilesFacts,), remedies=("straight-there",))
