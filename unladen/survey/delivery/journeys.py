"""Visitors who go on to another page of the site wait for it anew."""

from __future__ import annotations

from urllib.parse import urljoin

from unladen.capture.addresses import canonical
from unladen.errors import Notice
from unladen.remedies import Change
from unladen.remedies.delivery.next_page import NextParams
from unladen.survey.findings import Finding, PlaceFacts
from unladen.survey.spec import Context, Found, Surveyor


def find(context: Context) -> Found:
    """One excess where pages that were weighed lead to other pages of the site; its cure is off until it is wanted."""
    evidence = context.evidence
    leading, sizes, notices = [], [], list[Notice]()
    for path in evidence.pages:
        page = evidence.capture.page(path)
        document = evidence.texts.document(page)
        if document and any(e.attrs.get("type", "").lower() == "speculationrules" for e in document.elements):
            notices.append(Notice(path, "says itself which pages are fetched ahead, so ours stays off there"))
            continue
        base = evidence.texts.base(page)
        links = (
            [e.attrs["href"] for e in document.elements if e.tag == "a" and e.attrs.get("href")] if document else []
        )
        for link in links:
            try:
                other = evidence.capture.lookup(canonical(urljoin(base, link)))
            except ValueError:
                continue
            if (
                other
                and other.media_type == "text/html"
                and other.url != page.url
                and evidence.capture.owns(other.url)
            ):
                leading.append(path)
                sizes.append(evidence.capture.sent_size(other))
                break
    if not leading:
        return Found(notices=tuple(notices))
    size = max(sizes)
    excess = Finding(
        id="next-page",
        excess="journeys",
        kind="documents",
        title="The next page loads only after its link is pressed",
        why=(
            f"A browser can fetch the page when a visitor points at the link, up to {size / 1000:.1f} kB here. "
            "That makes nothing "
            "lighter, and costs bytes where the page is not opened in the end, so it is off until you want it."
        ),
        pages=tuple(leading),
        bytes=0,
        of_bytes=0,
        requests=0,
        tried=False,
        facts=PlaceFacts(),
        changes=(Change("next-page", "next-page", tuple(leading), tuple(leading), NextParams(), on=False),),
    )
    return Found((excess,), tuple(notices))


SURVEYOR = Surveyor("journeys", find, (PlaceFacts,), remedies=("next-page",))
