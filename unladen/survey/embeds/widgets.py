"""Widgets: scripts of other hosts in the pages' markup that bring something nobody has asked for yet."""

from __future__ import annotations

import re
from collections import defaultdict
from dataclasses import dataclass, field
from typing import Literal
from urllib.parse import urlsplit

from unladen.capture.addresses import canonical
from unladen.markup.html import Element
from unladen.remedies import Change
from unladen.remedies.embeds.delay_scripts import DelayParams, Place
from unladen.remedies.embeds.stills import MOST_TITLE
from unladen.survey.amounts import requests_in_words, weight_of
from unladen.survey.embeds.frames import FoundEmbed, caused_by, elements_of, find_all, kind_of, pictures_of
from unladen.survey.findings import Facts, Finding
from unladen.survey.site_facts import SiteFacts
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.page.embeds import Embed
from unladen.weigh.records.model import Request

_WORTH = 30_000  # bytes on one page
_WRITES = re.compile(rb"\bdocument\s*\.\s*write(ln)?\s*\(")
_SPARE = 40  # CSS px by which a box may be taller than the frame in it for its height to be the frame's
WORDS = {"player": "player", "map": "map", "form": "form", "feed": "feed", "frame": "widget", "": "script"}


@dataclass(slots=True)
class Widget:
    """A script in the markup: the requests that it causes, itself first, and the frames that it makes, by page."""

    url: str
    brings: dict[str, list[Request]] = field(default_factory=dict)
    frames: dict[str, list[tuple[str, Embed]]] = field(default_factory=lambda: defaultdict(list))
    only_frames: bool = True

    @property
    def heaviest(self) -> list[Request]:
        """What it brings where it brings the most."""
        return max(self.brings.values(), key=weight_of)


@dataclass(frozen=True, slots=True, kw_only=True)
class WidgetFacts(Facts):
    """A widget: its sort and host, all hosts that it brings things from, and for what it can wait.

    `stays` says why it cannot.
    """

    about: Literal["widget"] = "widget"
    sort: str
    host: str
    hosts: list[str]
    waits: str
    stays: str


def find(context: Context) -> Found:
    """One excess for each script that could wait until what it makes is wanted."""
    evidence, findings = context.evidence, []
    for widget in sorted(_widgets(evidence), key=lambda w: w.url):
        if weight_of(widget.heaviest) >= _WORTH:
            findings.append(_excess(evidence, widget))
    return Found(tuple(findings))


def _widgets(evidence: SiteFacts) -> list[Widget]:
    table: dict[str, Widget] = {}
    embeds = {entry.url: entry for entry in find_all(evidence)}
    for weigh_in in evidence.weigh_ins:
        causes = evidence.causes(weigh_in)
        document = evidence.texts.document(evidence.capture.page(weigh_in.page))
        for url in dict.fromkeys(canonical(r.url) for r in weigh_in.visit.requests if r.kind == "scripts"):
            if causes.is_own(url) or document is None:
                continue
            elements = elements_of(evidence, weigh_in.page, "script", url)
            below, _ = caused_by(causes, url)
            if not elements or not below or not _is_widget(elements, below):
                continue
            widget = table.setdefault(url, Widget(url))
            if weight_of(below) > weight_of(widget.brings.get(weigh_in.page, [])):
                widget.brings[weigh_in.page] = below
            _note_frames(widget, weigh_in.page, weigh_in.conditions.device.name, below, embeds)
    return list(table.values())


def _is_widget(elements: list[Element], below: list[Request]) -> bool:
    """Whether nothing else can count on the script: it comes when it will, or brings things of its own."""
    return all("async" in element.attrs for element in elements) or len(below) > 1


def _note_frames(widget: Widget, page: str, device: str, below: list[Request], embeds: dict[str, FoundEmbed]) -> None:
    inside = {canonical(r.url) for r in below}
    made = [entry for url, entry in embeds.items() if url in inside]
    for entry in made:
        shown = (s for s in entry.showings if s.weigh_in.page == page and s.weigh_in.conditions.device.name == device)
        widget.frames[page] += [(device, s.embed) for s in shown]
    of_frames = {id(r) for e in made for s in e.showings for r in s.requests}
    widget.only_frames &= bool(made) and all(id(r) in of_frames or canonical(r.url) == widget.url for r in below)


def _excess(evidence: SiteFacts, widget: Widget) -> Finding:
    heaviest = widget.heaviest
    size = weight_of(heaviest)
    frames = [embed for made in widget.frames.values() for _, embed in made]
    kind = kind_of(frames[0].inside, frames[0].allows) if frames else ""
    reason = _why_it_stays(evidence, widget, frames)
    places = (
        {page: _place(evidence, page, made) for page, made in widget.frames.items()} if widget.only_frames else {}
    )
    near = bool(places) and all(places.get(page) for page in widget.brings)
    change = None
    if not reason:
        names = (name for f in frames for name in (f.title, f.inside.name))
        params = DelayParams(kind=kind)
        if near:
            params = DelayParams(
                kind=kind,
                wait="near",
                places={page: place for page, place in places.items() if place},
                title=next((n for n in names if n), "")[:MOST_TITLE],
                pictures=pictures_of(frames),
            )
        pages = tuple(widget.brings)
        change = Change(f"delay-scripts:{widget.url}", "delay-scripts", (widget.url,), pages, params)
    host = urlsplit(widget.url).hostname or ""
    hosts = sorted({urlsplit(r.url).hostname or "" for r in heaviest})
    where = "until a visitor comes near it" if near else "until a visitor scrolls, clicks or types"
    return Finding(
        id=change.id if change else f"widget:{widget.url}",
        excess="embedded",
        kind="scripts",
        title=f"A {WORDS[kind]} of {host} causes {requests_in_words(len(heaviest))}",
        why=f"A script of another host adds it and can wait {where}.",
        pages=tuple(widget.brings),
        bytes=size,
        of_bytes=size,
        requests=len(heaviest),
        tried=False,
        facts=WidgetFacts(
            where=sorted({embed.selector for embed in frames}),
            sort=kind or "script",
            host=host,
            hosts=hosts,
            waits="near" if near else "act",
            stays=reason,
        ),
        changes=(change,) if change else (),
        advice="" if change else f"It stays unchanged: it {reason}.",
        files=tuple(dict.fromkeys(r.url for r in heaviest)),
    )


def _why_it_stays(evidence: SiteFacts, widget: Widget, frames: list[Embed]) -> str:
    for request in widget.heaviest:
        exchange = evidence.capture.lookup(request.url) if request.kind == "scripts" else None
        if request.frame != widget.heaviest[0].frame:
            continue  # what runs in a frame of its own writes there
        if exchange and _WRITES.search(evidence.capture.body(exchange)):
            return "writes into the page while it loads, which only works at once"
    return ""


def _place(evidence: SiteFacts, page: str, made: list[tuple[str, Embed]]) -> Place | None:
    """The element of the markup in which frames stand: its position in the text, and the heights that it has.

    None when none can be told from the others.
    """
    document = evidence.texts.document(evidence.capture.page(page))
    assert document is not None
    starts: set[int] = set()
    heights: dict[str, int] = {}
    for device, embed in made:
        for above in embed.above:
            alike = [e for e in document.elements if e.tag == above.tag and e.attrs == above.attrs and not e.inert]
            if len(alike) == 1:
                starts.add(alike[0].start)
                if above.height <= embed.height + _SPARE:
                    heights[device] = max(heights.get(device, 0), round(above.height))
                break
        else:
            return None
    if len(starts) != 1:
        return None
    start = starts.pop()
    element = next(e for e in document.elements if e.start == start)
    widths = {w.conditions.device.name: w.conditions.device.width for w in evidence.weigh_ins}
    sized = sorted((widths[device], height) for device, height in heights.items())
    complete = len(heights) == len({device for device, _ in made})
    frames = {device: (widths[device], round(embed.width), round(embed.height)) for device, embed in made}
    return Place(
        tag=element.tag,
        attrs=dict(element.attrs),
        heights=tuple(sized) if complete else (),
        frames=tuple(sorted(frames.values())) if len(made) == len(frames) else (),
    )


SURVEYOR = Surveyor("widgets", find, (WidgetFacts,), remedies=("delay-scripts",))
