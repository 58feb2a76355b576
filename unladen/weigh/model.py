"""Weigh-ins as data."""

from __future__ import annotations

from dataclasses import asdict, dataclass, field
from typing import Any

from unladen.weigh.conditions import HEADER_BYTES, Conditions, Device
from unladen.weigh.kinds import KINDS

FORMAT = "unladen/weigh-ins/1"


@dataclass(slots=True)
class Request:
    """One request of a visit. Sizes are bodies in bytes; `transferred` adds the fixed header estimate.

    `started` and `ended` are ms after the first request; `cached` ones cost nothing.
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

    @property
    def transferred(self) -> int:
        """Encoded body and header estimate in bytes."""
        return 0 if self.cached else self.body + HEADER_BYTES


@dataclass(slots=True)
class ShownImage:
    """One place where an image is shown. Lengths are CSS px; `x`, `y` count from the top left of the page.

    `paint_width` and `paint_height` are those of the whole bitmap, which the box may crop. `natural_*` are those of
    the file, 0 when the browser could not decode it. `free`: the box owes nothing to the image but its shape.
    `reserved`: the box has its height before the image is there. `reservable`: width and height attributes would
    move nothing, as was tried in the page. `scalable`: another size of file can be painted just as large.
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


@dataclass(slots=True)
class Visit:
    """One run: what was asked for, what went wrong, when the page was ready, and where its images are."""

    requests: list[Request] = field(default_factory=list)
    errors: list[str] = field(default_factory=list)
    images: list[ShownImage] = field(default_factory=list)
    content_ready_ms: float = 0.0
    load_ms: float = 0.0
    page_height: float = 0.0
    picture: bytes = b""

    @property
    def transferred(self) -> int:
        """Bytes of all requests."""
        return sum(request.transferred for request in self.requests)


@dataclass(slots=True)
class WeighIn:
    """The median run of a page under stated conditions, and the load times of all runs in ms."""

    page: str
    conditions: Conditions
    visit: Visit
    load_times: list[float] = field(default_factory=list)
    browser: str = ""

    def kinds(self) -> dict[str, dict[str, int]]:
        """Requests, transferred and decoded bytes of every kind."""
        table = {kind: {"requests": 0, "transferred": 0, "decoded": 0} for kind in KINDS}
        for request in self.visit.requests:
            row = table[request.kind]
            row["requests"] += not request.cached
            row["transferred"] += request.transferred
            row["decoded"] += request.decoded
        return table

    def as_json(self) -> dict[str, Any]:
        """One element of `weigh_ins` in the published format."""
        kinds = self.kinds()
        return {
            "page": self.page,
            "device": self.conditions.device.name,
            "visit": self.conditions.visit,
            "link": self.conditions.link,
            "runs": self.conditions.runs,
            "requests": sum(row["requests"] for row in kinds.values()),
            "transferred": sum(row["transferred"] for row in kinds.values()),
            "decoded": sum(row["decoded"] for row in kinds.values()),
            "kinds": kinds,
            "missing": sorted({request.url for request in self.visit.requests if request.missing}),
            "errors": list(self.visit.errors),
            "content_ready_ms": round(self.visit.content_ready_ms, 1),
            "load_ms": round(self.visit.load_ms, 1),
            "load_ms_runs": [round(value, 1) for value in self.load_times],
            "browser": self.browser,
        }

    def requests_as_json(self) -> list[dict[str, Any]]:
        """Every request with its sizes and times."""
        return [asdict(request) | {"transferred": request.transferred} for request in self.visit.requests]

    def to_record(self) -> dict[str, Any]:
        """Everything but the picture as plain values, for `from_record`."""
        record = asdict(self)
        del record["visit"]["picture"]
        return record

    @classmethod
    def from_record(cls, record: dict[str, Any]) -> WeighIn:
        """The weigh-in that `to_record` gave."""
        visit = record["visit"]
        conditions = record["conditions"]
        return cls(
            page=record["page"],
            conditions=Conditions(**conditions | {"device": Device(**conditions["device"])}),
            visit=Visit(
                **visit
                | {
                    "requests": [Request(**request) for request in visit["requests"]],
                    "images": [ShownImage(**image) for image in visit["images"]],
                }
            ),
            load_times=record["load_times"],
            browser=record["browser"],
        )


def weigh_ins_document(weigh_ins: list[WeighIn]) -> dict[str, Any]:
    """The published document."""
    return {"format": FORMAT, "weigh_ins": [weigh_in.as_json() for weigh_in in weigh_ins]}
