"""Embeds: frames and widgets of other hosts, found by what they do, with everything that they cause."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Literal
from urllib.parse import urljoin, urlsplit

from unladen.capture.addresses import canonical
from unladen.markup.html import Element
from unladen.markup.references import resolve
from unladen.plan import Effort
from unladen.raster.probe import ImageRefused, probe
from unladen.raster.recode import STILL
from unladen.remedies import Change
from unladen.remedies.embeds.stills import MOST_TITLE, EmbedParams, StillPicture
from unladen.survey.amounts import heaviest_kind, requests_in_words, weight_of
from unladen.survey.findings import Facts, Finding
from unladen.survey.site_facts import SiteFacts
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.page.embeds import Embed, Inside
from unladen.weigh.records.model import Request, WeighIn
from unladen.weigh.records.parties import Causes
from unladen.work_cache import Job

# Chromium starts a lazy frame when it comes within this distance of the window on a fast link (as the images, see far).
BROWSER_MARGIN = 2500  # CSS px
WORTH = 10_000  # bytes on one page
_STILL_MARKUP = 700  # bytes of a page, compressed, that a still takes; measured on the demo
_TILES = 4
_POSTS = 3
_SAME_SHAPE = 0.04
# Common practice of embedded players, no source; those that do not know it wait for another click.
_STARTS = "autoplay=1"
_PLAYS_ALONE = re.compile(r"[?&]autoplay=(1|true)\b", re.I)
WORDS = {"player": "A player", "map": "A map", "form": "A form", "feed": "A feed", "frame": "A frame"}
NATIVE = ("player", "map")  # what steady effort puts a still for


@dataclass(slots=True)
class EmbedShowing:
    """An embed on one page and device, with the requests that it causes there, its document first."""

    weigh_in: WeighIn
    embed: Embed
    requests: list[Request]
    chain: list[Request]

    @property
    def transferred(self) -> int:
        """Bytes of all of it."""
        return weight_of(self.requests)


@dataclass(slots=True)
class FoundEmbed:
    """An embed by its address, wherever it is shown."""

    url: str
    showings: list[EmbedShowing] = field(default_factory=list)

    @property
    def pages(self) -> tuple[str, ...]:
        """The pages that show it."""
        return tuple(dict.fromkeys(s.weigh_in.page for s in self.showings))

    @property
    def heaviest(self) -> EmbedShowing:
        """Where it weighs the most."""
        return max(self.showings, key=lambda s: (s.transferred, s.embed.width))

    @property
    def kind(self) -> str:
        """What it does: a word of `WORDS`."""
        return kind_of(self.heaviest.embed.inside, self.heaviest.embed.allows)

    @property
    def title(self) -> str:
        """What it calls itself, or its host."""
        names = (name for s in self.showings for name in (s.embed.title, s.embed.inside.name))
        return next((name for name in names if name), urlsplit(self.url).hostname or self.url)


def kind_of(inside: Inside, allows: str = "") -> str:
    """A frame's kind by what stands in it and what its page allows it."""
    if inside.films or inside.plays or "autoplay" in allows:
        return "player"
    if inside.tiles >= _TILES:
        return "map"
    if inside.fields:
        return "form"
    return "feed" if inside.images >= _POSTS else "frame"


def find_all(evidence: SiteFacts) -> list[FoundEmbed]:
    """The embeds of all pages, the heaviest first."""
    result: dict[str, FoundEmbed] = {}
    for weigh_in in evidence.weigh_ins:
        causes = evidence.causes(weigh_in)
        for embed in weigh_in.facts.embeds:
            url = canonical(embed.url) if embed.url.startswith(("http:", "https:")) else ""
            if not url or causes.is_own(url):
                continue
            entry = result.setdefault(url, FoundEmbed(url))
            if any(s.weigh_in is weigh_in for s in entry.showings):
                continue  # the same embed again brings nothing more
            entry.showings.append(EmbedShowing(weigh_in, embed, *caused_by(causes, url)))
    return sorted(result.values(), key=lambda entry: (-entry.heaviest.transferred, entry.url))


def caused_by(causes: Causes, url: str) -> tuple[list[Request], list[Request]]:
    """All requests that a request causes, itself first, and the chain from the page to it."""
    roots = {i for i, request in enumerate(causes.requests) if canonical(request.url) == url}
    if not roots:
        return [], []
    below = [r for i, r in enumerate(causes.requests) if not r.cached and roots.intersection(causes.chain(i))]
    return below, [causes.requests[i] for i in causes.chain(min(roots))]


def elements_of(evidence: SiteFacts, page: str, tag: str, url: str) -> list[Element]:
    """The elements of a page as found whose `src` is an address, where a browser would heed them."""
    exchange = evidence.capture.page(page)
    document = evidence.texts.document(exchange)
    base = evidence.texts.base(exchange)
    return [
        element
        for element in (document.elements if document else [])
        if element.tag == tag and not element.inert and resolve(base, element.attrs.get("src", "")) == url
    ]


def find(context: Context) -> Found:
    """One excess for each embed: with a still for it, or the reason why it stays; raises `Cancelled`."""
    evidence, effort = context.evidence, context.effort
    entries = find_all(evidence)
    shown = [p for entry in entries for p in pictures_of(s.embed for s in entry.showings)]
    jobs: list[Job] = [(picture.digest, STILL) for picture in shown]
    made = context.work_cache.outcomes(jobs, context.progress, "survey")
    sizes = {job[0]: outcome.size for job, outcome in made.items()}
    findings = []
    for entry in entries:
        pages = tuple(p for p in entry.pages if elements_of(evidence, p, "iframe", entry.url))
        if entry.heaviest.transferred >= WORTH and pages:
            findings.append(_excess(evidence, entry, pages, effort, sizes))
    return Found(tuple(findings))


@dataclass(frozen=True, slots=True, kw_only=True)
class EmbedFacts(Facts):
    """An embed: its sort and host, bytes of scripts, ms that it keeps the page busy, CSS px from the top of the page.

    `stays` says why nothing may stand in its place.
    """

    about: Literal["embed"] = "embed"
    sort: str
    host: str
    scripts: int
    blocking: int
    nearest: int
    stays: str


def _excess(
    evidence: SiteFacts, entry: FoundEmbed, pages: tuple[str, ...], effort: Effort, sizes: Mapping[str, int]
) -> Finding:
    heaviest = entry.heaviest
    reason = why_it_stays(entry)
    change = None if reason else _change(evidence, entry, pages, effort)
    kept = _left(change, sizes) if change else 0
    scripts = sum(r.transferred for r in heaviest.requests if r.kind == "scripts")
    blocking = max(s.embed.inside.blocking for s in entry.showings)
    return Finding(
        id=f"embed:{entry.url}",
        excess="embedded",
        kind=heaviest_kind(heaviest.requests),
        title=f"{WORDS[entry.kind]}, {entry.title}, causes {requests_in_words(len(heaviest.requests))}",
        why=f"All of it loads before a visitor wants it; {scripts:,} bytes are scripts.",
        pages=pages,
        bytes=max(0, heaviest.transferred - kept),
        of_bytes=heaviest.transferred,
        requests=len(heaviest.requests),
        tried=False,
        facts=EmbedFacts(
            where=sorted({s.embed.selector for s in entry.showings}),
            sort=entry.kind,
            host=urlsplit(entry.url).hostname or "",
            scripts=scripts,
            blocking=round(blocking),
            nearest=round(min(s.embed.y for s in entry.showings)),
            stays=reason,
        ),
        changes=(change,) if change else (),
        advice="" if change else f"It stays unchanged: it {reason}.",
        files=tuple(dict.fromkeys(r.url for r in heaviest.requests)),
    )


def _left(change: Change[EmbedParams], sizes: Mapping[str, int]) -> int:
    """Bytes that take the embed's place."""
    if change.params.way == "lazy":
        return 0
    return _STILL_MARKUP + max((sizes[p.digest] for p in change.params.pictures), default=0)


def why_it_stays(entry: FoundEmbed) -> str:
    """Why no picture may stand in for an embed, "" if one may."""
    if any(s.requests and s.requests[0].missing for s in entry.showings):
        return "is not in the capture, so nobody knows how it looks"
    if any((s.embed.heard and s.embed.listeners) or s.embed.inside.messages for s in entry.showings):
        size = ", by which it sets its height" if any(s.embed.resized for s in entry.showings) else ""
        return f"and the page send each other messages{size}"
    if not any(s.embed.visible for s in entry.showings):
        return "is shown nowhere, so no visitor could ask for it"
    if any(s.embed.visible and not s.embed.reachable for s in entry.showings):
        return "lies beneath something else, so nobody could press a button there"
    if not any(s.embed.picture for s in entry.showings):
        return "is too small or could not be pictured"
    return ""


def _change(evidence: SiteFacts, entry: FoundEmbed, pages: tuple[str, ...], effort: Effort) -> Change[EmbedParams]:
    """A still where the effort goes so far; else the frame loads as it comes near, if it lies far below."""
    still = effort.name == "bold" or (entry.kind in NATIVE and not _PLAYS_ALONE.search(entry.url))
    far = all(far_frame(s) for s in entry.showings)
    params = EmbedParams(
        kind=entry.kind,
        title=entry.title[:MOST_TITLE],
        way="still" if still or not far else "lazy",
        start=_STARTS if entry.kind == "player" else "",
        pictures=pictures_of(s.embed for s in entry.showings),
        poster=_poster(evidence, entry),
    )
    return Change(f"embed:{entry.url}", "embed", (evidence.path(entry.url),), pages, params, on=still or far)


def _poster(evidence: SiteFacts, entry: FoundEmbed) -> tuple[StillPicture, ...]:
    """The picture that an embed offers of itself, if it is in the capture and one can be read."""
    for url in dict.fromkeys(
        urljoin(entry.url, s.embed.inside.poster) for s in entry.showings if s.embed.inside.poster
    ):
        exchange = evidence.capture.lookup(url) if url.startswith("http") else None
        if exchange is None or exchange.status != 200:
            continue
        try:
            info = probe(evidence.capture.body(exchange))
        except ImageRefused:
            continue
        size = {"frame": info.width, "width": info.width, "height": info.height}
        return (StillPicture(digest=exchange.digest, **size),)
    return ()


def far_frame(showing: EmbedShowing) -> bool:
    """Whether a frame lies so far below the first view that browsers put it off if told to."""
    embed, height = showing.embed, showing.weigh_in.conditions.device.height
    return embed.visible and embed.loading != "lazy" and embed.y >= height + BROWSER_MARGIN


def pictures_of(embeds: Iterable[Embed]) -> tuple[StillPicture, ...]:
    """One picture of each shape: its digest, the frame's width in CSS px, and width and height of the shape."""
    kept: list[Embed] = []
    for embed in sorted((e for e in embeds if e.picture), key=lambda e: (-e.picture_width, e.url)):
        if all(abs(embed.height / embed.width * k.width / k.height - 1) > _SAME_SHAPE for k in kept):
            kept.append(embed)
    return tuple(
        StillPicture(digest=e.picture, frame=round(e.width), width=round(e.width), height=round(e.height))
        for e in sorted(kept, key=lambda e: e.width)
    )


def covered(found: Iterable[Finding]) -> dict[str, set[str]]:
    """For each page the addresses that belong to an embed or widget, so that no other excess counts them again."""
    table: dict[str, set[str]] = defaultdict(set)
    for excess in found:
        for page in excess.pages:
            table[page] |= set(excess.files)
    return table


SURVEYOR = Surveyor("embeds", find, (EmbedFacts,), remedies=("embed",))
