"""Widgets: scripts of other hosts in the pages' markup that bring something nobody has asked for yet."""

from __future__ import annotations

import re
from collections import defaultdict
from dataclasses import dataclass, field
from urllib.parse import urlsplit

from unladen.capture.addresses import canonical
from unladen.markup.html import Element
from unladen.plan import Change, Effort
from unladen.survey.embeds import Found, caused_by, elements_of, find_all, kind_of, many, pictures_of
from unladen.survey.evidence import Evidence
from unladen.survey.finding import Excess
from unladen.weigh.embeds import Embed
from unladen.weigh.model import Request

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
        return max(self.brings.values(), key=_weight)


def find(evidence: Evidence, effort: Effort) -> list[Excess]:
    """One excess for each script that could wait until what it makes is wanted."""
    found = []
    for widget in sorted(_widgets(evidence), key=lambda w: w.url):
        if _weight(widget.heaviest) >= _WORTH:
            found.append(_excess(evidence, widget, effort))
    return found


def _widgets(evidence: Evidence) -> list[Widget]:
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
            if _weight(below) > _weight(widget.brings.get(weigh_in.page, [])):
                widget.brings[weigh_in.page] = below
            _note_frames(widget, weigh_in.page, weigh_in.conditions.device.name, below, embeds)
    return list(table.values())


def _is_widget(elements: list[Element], below: list[Request]) -> bool:
    """Whether nothing else can count on the script: it comes when it will, or brings things of its own."""
    return all("async" in element.attrs for element in elements) or len(below) > 1


def _note_frames(widget: Widget, page: str, device: str, below: list[Request], embeds: dict[str, Found]) -> None:
    inside = {canonical(r.url) for r in below}
    made = [entry for url, entry in embeds.items() if url in inside]
    for entry in made:
        shown = (s for s in entry.showings if s.weigh_in.page == page and s.weigh_in.conditions.device.name == device)
        widget.frames[page] += [(device, s.embed) for s in shown]
    of_frames = {id(r) for e in made for s in e.showings for r in s.requests}
    widget.only_frames &= bool(made) and all(id(r) in of_frames or canonical(r.url) == widget.url for r in below)


def _excess(evidence: Evidence, widget: Widget, effort: Effort) -> Excess:
    heaviest = widget.heaviest
    size = _weight(heaviest)
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
        params: dict[str, object] = {
            "kind": kind,
            "wait": "near" if near else "act",
            "places": places if near else {},
        }
        params |= {"title": next((n for n in names if n), ""), "pictures": pictures_of(frames)} if near else {}
        pages = tuple(widget.brings)
        change = Change(f"hold:{widget.url}", "hold", (widget.url,), pages, params, on=effort.name == "bold")
    host = urlsplit(widget.url).hostname or ""
    hosts = sorted({urlsplit(r.url).hostname or "" for r in heaviest})
    where = "until a visitor comes near it" if near else "until a visitor scrolls, clicks or types"
    return Excess(
        id=change.id if change else f"widget:{widget.url}",
        excess="embedded",
        kind="scripts",
        title=f"A {WORDS[kind]} of {host} brings {many(len(heaviest))}",
        why=f"It is put into the page by a script of another host, which can wait {where}.",
        pages=tuple(widget.brings),
        bytes=size,
        of_bytes=size,
        requests=len(heaviest),
        tried=False,
        change=change,
        facts={
            "is": kind or "script",
            "from": host,
            "hosts": hosts,
            "waits": "near" if near else "act",
            "where": sorted({embed.selector for embed in frames}),
            **({"stays": reason} if reason else {}),
        },
        advice="" if change else f"It stays as it is: it {reason}.",
        files=tuple(dict.fromkeys(r.url for r in heaviest)),
    )


def _why_it_stays(evidence: Evidence, widget: Widget, frames: list[Embed]) -> str:
    for request in widget.heaviest:
        exchange = evidence.capture.lookup(request.url) if request.kind == "scripts" else None
        if request.frame != widget.heaviest[0].frame:
            continue  # what runs in a frame of its own writes there
        if exchange and _WRITES.search(evidence.capture.body(exchange)):
            return "writes into the page while it loads, which only works at once"
    return ""


def _place(evidence: Evidence, page: str, made: list[tuple[str, Embed]]) -> dict[str, object]:
    """The element of the markup in which frames stand: its position in the text, and the heights that it has.

    Empty when none can be told from the others.
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
            return {}
    if len(starts) != 1:
        return {}
    start = starts.pop()
    element = next(e for e in document.elements if e.start == start)
    widths = {w.conditions.device.name: w.conditions.device.width for w in evidence.weigh_ins}
    sized = sorted((widths[device], height) for device, height in heights.items())
    complete = len(heights) == len({device for device, _ in made})
    frames = {device: [widths[device], round(embed.width), round(embed.height)] for device, embed in made}
    return {
        "tag": element.tag,
        "attrs": dict(element.attrs),
        "heights": [list(h) for h in sized] if complete else [],
        "frames": sorted(frames.values()) if len(made) == len(frames) else [],
    }


def _weight(requests: list[Request]) -> int:
    return sum(request.transferred for request in requests)
