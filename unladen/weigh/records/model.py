"""Weigh-ins as data."""

from __future__ import annotations

import statistics
from collections.abc import Sequence
from dataclasses import asdict, dataclass, field, fields
from typing import Any

from unladen.weigh.link.model import modelled
from unladen.weigh.page.embeds import Embed
from unladen.weigh.page.films import ShownFilm
from unladen.weigh.records.conditions import HEADER_BYTES, LINKS, Conditions, Device, Link
from unladen.weigh.records.kinds import KINDS

FORMAT = "unladen/weigh-ins/1"
Headers = list[tuple[str, str]]


@dataclass(slots=True)
class Request:
    """One request of a visit. Sizes are bodies in bytes; `transferred` adds the fixed header estimate.

    `started`, `responded` (the first byte came) and `ended` are ms after the first request; `cached` ones cost
    nothing. `initiator` is the address that asked for it and `stack` those of the scripts that ran then, the
    innermost first; `frame` is the document it belongs to. `blocking`: the first paint waits for it. `named_at` is the
    share of the initiator's text after which it is named.
    """

    url: str
    kind: str
    status: int = 0
    body: int = 0
    decoded: int = 0
    frame: str = ""
    initiator: str = ""
    initiator_type: str = ""
    started: float = 0.0
    ended: float = 0.0
    cached: bool = False
    missing: bool = False
    failed: str = ""
    responded: float = 0.0
    method: str = "GET"
    protocol: str = ""
    priority: str = ""
    media_type: str = ""
    blocking: bool = False
    redirect: str = ""
    named_at: float = 0.0
    stack: list[str] = field(default_factory=list)
    request_headers: Headers = field(default_factory=list)
    response_headers: Headers = field(default_factory=list)

    @property
    def transferred(self) -> int:
        """Encoded body and header estimate in bytes."""
        return 0 if self.cached else self.body + HEADER_BYTES

    @classmethod
    def from_record(cls, record: dict[str, Any]) -> Request:
        """The request that `asdict` gave, also after a way through JSON."""
        headers = {name: [tuple(pair) for pair in record[name]] for name in ("request_headers", "response_headers")}
        return cls(**record | headers)


@dataclass(slots=True)
class ShownImage:
    """One place where an image is shown. Lengths are CSS px; `x`, `y` count from the top left of the page.

    `paint_width` and `paint_height` are those of the whole bitmap, which the box may crop. `natural_*` are those of
    the file, 0 when the browser could not decode it. `free`: the box owes nothing to the image but its shape.
    `reserved`: the box has its height before the image is there. `reservable`: width and height attributes would
    move nothing, as was tried in the page. `scalable`: another size of file can be painted just as large.
    `covered`: in the first view it is see-through or beneath something opaque; a background also where it has no box.
    `closed`: it has no box as the page opens, in a menu, tab or dialog, and is painted so once that is opened.
    `by_ratio`: only a written ratio holds its space. `boxed`: both sides of its box are given, whatever file comes.
    `veil` is what lies over all of it: red, green, blue, and its cover in percent; none when empty.
    """

    url: str
    via: str
    selector: str
    x: float
    y: float
    width: float
    height: float
    paint_width: float
    paint_height: float
    natural_width: int
    natural_height: int
    visible: bool
    first_view: bool
    loading: str = ""
    by_srcset: bool = False
    fit: str = ""
    reserved: bool = True
    reservable: bool = False
    scalable: bool = True
    free: bool = True
    covered: bool = False
    closed: bool = False
    by_ratio: bool = False
    boxed: bool = False
    veil: list[int] = field(default_factory=list)


@dataclass(slots=True)
class Timings:
    """What one run took, in ms after the start of navigation; `shift` has no unit (Layout Instability, W3C WICG).

    `blocking` is the part of long tasks beyond 50 ms each, between first paint and load (Long Tasks, W3C).
    """

    first_paint: float = 0.0
    largest_paint: float = 0.0
    content_ready: float = 0.0
    load: float = 0.0
    blocking: float = 0.0
    shift: float = 0.0


TIMINGS = tuple(entry.name for entry in fields(Timings))


@dataclass(slots=True)
class LargestPaint:
    """The element that was the largest paint: where it stands, its text or the address of its image, its size."""

    selector: str = ""
    text: str = ""
    url: str = ""
    width: float = 0.0
    height: float = 0.0


@dataclass(slots=True)
class Part:
    """An element of a page: what it is called by those who look at it, its nodes, its box in CSS px of the page."""

    selector: str
    label: str = ""
    nodes: int = 0
    x: float = 0.0
    y: float = 0.0
    width: float = 0.0
    height: float = 0.0


@dataclass(slots=True)
class Structure:
    """How a page is built. `sections` are its heaviest parts, `deepest` holds the deepest node.

    `moving` are those whose animation never ends; `nested` the selectors of those within another one. `fonts` gives
    for every family in use the weights and styles asked for, the characters shown, and whether the first view shows
    any (`first`).
    """

    nodes: int = 0
    depth: int = 0
    deepest: Part | None = None
    sections: list[Part] = field(default_factory=list)
    moving: list[Part] = field(default_factory=list)
    nested: list[str] = field(default_factory=list)
    fonts: list[dict[str, Any]] = field(default_factory=list)

    @classmethod
    def from_record(cls, record: dict[str, Any]) -> Structure:
        """The structure that `asdict` or a page gave; what was taken earlier knew selectors only."""

        def part(value: Any) -> Part:
            return Part(value) if isinstance(value, str) else Part(**value)

        moving = record.get("moving", record.get("endless", []))
        return cls(
            nodes=record["nodes"],
            depth=record["depth"],
            deepest=part(record["deepest"]) if record["deepest"] else None,
            sections=[part(section) for section in record["sections"]],
            moving=[part(each) for each in moving],
            nested=record["nested"],
            fonts=record["fonts"],
        )


@dataclass(slots=True)
class Frame:
    """The boxes that a picture covers, over all windows: width by height, the lowest and the highest.

    `on_phones`: the highest in narrow windows; `of_window`: how much of the window's height it has there at most.
    `x`, `y`: where the picture lies in them, from 0 to 1, -1 for anything else. `by_height`: the shape goes with the
    height of the window.
    """

    low: float
    high: float
    on_phones: float
    of_window: float
    x: float
    y: float
    by_height: bool = True

    @classmethod
    def over(cls, frames: Sequence[Frame]) -> Frame | None:
        """One for all of them; None without any, or where a picture does not lie in them in the same way."""
        if not frames or len({(frame.x, frame.y) for frame in frames}) > 1:
            return None
        return cls(
            low=min(frame.low for frame in frames),
            high=max(frame.high for frame in frames),
            on_phones=max(frame.on_phones for frame in frames),
            of_window=max(frame.of_window for frame in frames),
            x=frames[0].x,
            y=frames[0].y,
            by_height=any(frame.by_height for frame in frames),
        )


@dataclass(slots=True)
class Layout:
    """For each image URL its shown width in CSS px at each of `windows` (CSS px); 0 where it is hidden.

    `mixed` are those that one page shows at several widths at once; `frames` the boxes that pictures cover.
    """

    windows: list[int] = field(default_factory=list)
    widths: dict[str, list[float]] = field(default_factory=dict)
    mixed: list[str] = field(default_factory=list)
    frames: dict[str, Frame] = field(default_factory=dict)

    @classmethod
    def from_record(cls, record: dict[str, Any]) -> Layout:
        """The layout that `asdict` gave; what was measured earlier knew no frames."""
        frames = {url: Frame(**frame) for url, frame in record.get("frames", {}).items()}
        return cls(**record | {"frames": frames})


@dataclass(slots=True)
class Visit:
    """What one run measured: what was asked for, what went wrong, how long it took."""

    requests: list[Request] = field(default_factory=list)
    errors: list[str] = field(default_factory=list)
    timings: Timings = field(default_factory=Timings)
    largest: LargestPaint = field(default_factory=LargestPaint)

    @property
    def transferred(self) -> int:
        """Bytes of all requests."""
        return sum(request.transferred for request in self.requests)

    @property
    def at_load(self) -> list[Request]:
        """The requests that began before the load event."""
        return [request for request in self.requests if request.started <= self.timings.load]


@dataclass(slots=True)
class PageFacts:
    """What a page is like, whatever a run takes: what it shows where, how it is built, what scrolling brings.

    `view_width` is that of the window in CSS px as the page's styles see it: a phone shows pages that say nothing of
    phones in a wider one. `scrolled` are the requests that came only when the page was scrolled to its end; they are
    in no sum of a visit. `matched` are the relaxed selectors of its style sheets that something matched before or
    after that, `names` the classes, ids, tags and attributes that were there, as selectors; `first` are those that
    something in the first view matches before that, or something that might be there without its styles.
    """

    images: list[ShownImage] = field(default_factory=list)
    films: list[ShownFilm] = field(default_factory=list)
    embeds: list[Embed] = field(default_factory=list)
    structure: Structure = field(default_factory=Structure)
    layout: Layout = field(default_factory=Layout)
    scrolled: list[Request] = field(default_factory=list)
    matched: list[str] = field(default_factory=list)
    names: list[str] = field(default_factory=list)
    first: list[str] = field(default_factory=list)
    page_height: float = 0.0
    view_width: float = 0.0
    picture: bytes = b""

    @classmethod
    def from_record(cls, record: dict[str, Any]) -> PageFacts:
        """The facts that `asdict` gave, also after a way through JSON."""
        return cls(
            images=[ShownImage(**image) for image in record["images"]],
            films=[ShownFilm(**film) for film in record.get("films", [])],
            embeds=[Embed.from_record(embed) for embed in record.get("embeds", [])],
            structure=Structure.from_record(record["structure"]),
            layout=Layout.from_record(record.get("layout", {})),
            scrolled=[Request.from_record(request) for request in record["scrolled"]],
            matched=record.get("matched", []),
            names=record.get("names", []),
            first=record.get("first", []),
            page_height=record["page_height"],
            view_width=record.get("view_width", 0.0),
        )


@dataclass(slots=True)
class WeighIn:
    """The median run of a page under stated conditions with the timings of all runs, and the facts of the page.

    `taken` is the time in ISO 8601.
    """

    page: str
    conditions: Conditions
    visit: Visit
    facts: PageFacts = field(default_factory=PageFacts)
    runs: list[Timings] = field(default_factory=list)
    browser: str = ""
    taken: str = ""

    def kinds(self) -> dict[str, dict[str, int]]:
        """Requests, transferred and decoded bytes of every kind."""
        table = {kind: {"requests": 0, "transferred": 0, "decoded": 0} for kind in KINDS}
        for request in self.visit.requests:
            row = table[request.kind]
            row["requests"] += not request.cached
            row["transferred"] += request.transferred
            row["decoded"] += request.decoded
        return table

    def spread(self) -> dict[str, dict[str, float]]:
        """For every timing its median, lowest and highest value over the runs."""
        table = {}
        for name in TIMINGS:
            values = [getattr(run, name) for run in self.runs or [self.visit.timings]]
            low, high = min(values), max(values)
            table[name] = {"median": _short(statistics.median_low(values)), "low": _short(low), "high": _short(high)}
        return table

    def modelled_ms(self) -> dict[str, float]:
        """The modelled time until the load event for every usual link and that of the conditions."""
        links = dict.fromkeys([*LINKS[1:], self.conditions.link])
        requests = self.visit.at_load
        return {link.label: round(modelled(requests, link).load, 1) for link in links if link.rate}

    def as_json(self) -> dict[str, Any]:
        """One element of `weigh_ins` in the published format."""
        kinds = self.kinds()
        device = self.conditions.device
        scrolled = self.facts.scrolled
        return {
            "page": self.page,
            "device": device.name,
            "window": {"width": device.width, "height": device.height, "density": device.density},
            "visit": self.conditions.visit,
            "link": self.conditions.link.label,
            "runs": self.conditions.runs,
            "requests": sum(row["requests"] for row in kinds.values()),
            "transferred": sum(row["transferred"] for row in kinds.values()),
            "decoded": sum(row["decoded"] for row in kinds.values()),
            "kinds": kinds,
            "missing": sorted({request.url for request in self.visit.requests if request.missing}),
            "errors": list(self.visit.errors),
            "content_ready_ms": round(self.visit.timings.content_ready, 1),
            "load_ms": round(self.visit.timings.load, 1),
            "load_ms_runs": [round(run.load, 1) for run in self.runs],
            "timings": self.spread(),
            "modelled_load_ms": self.modelled_ms(),
            "scrolled": {
                "requests": sum(not request.cached for request in scrolled),
                "transferred": sum(request.transferred for request in scrolled),
            },
            "browser": self.browser,
            "taken": self.taken,
        }

    def to_record(self) -> dict[str, Any]:
        """Everything but the picture as plain values, for `from_record`."""
        record = asdict(self)
        del record["facts"]["picture"]
        return record

    @classmethod
    def from_record(cls, record: dict[str, Any]) -> WeighIn:
        """The weigh-in that `to_record` gave."""
        visit = record["visit"]
        facts = record.get("facts", visit)  # those taken before facts stood apart
        conditions = record["conditions"]
        device, link = Device(**conditions["device"]), Link(**conditions["link"])
        return cls(
            page=record["page"],
            conditions=Conditions(**conditions | {"device": device, "link": link}),
            visit=Visit(
                requests=[Request.from_record(request) for request in visit["requests"]],
                errors=visit["errors"],
                timings=Timings(**visit["timings"]),
                largest=LargestPaint(**visit["largest"]),
            ),
            facts=PageFacts.from_record(facts),
            runs=[Timings(**run) for run in record["runs"]],
            browser=record["browser"],
            taken=record["taken"],
        )


def _short(value: float) -> float:
    return round(value, 4 if value < 1 else 1)


def weigh_ins_document(weigh_ins: list[WeighIn]) -> dict[str, Any]:
    """The published document."""
    return {"format": FORMAT, "weigh_ins": [weigh_in.as_json() for weigh_in in weigh_ins]}
