"""A modelled time: what a page's requests take over a stated link, the same every time.

Assumptions (docs/modelled-time.md): bytes and dependencies count, computing time does not. A connection costs one round
trip for TCP and one for TLS 1.3 (RFC 8446); it begins with a window of min(10 MSS, max(2 MSS, 14600)) bytes (RFC 6928)
that doubles each round trip in which it was used up (slow start, RFC 5681). HTTP/2 uses one connection a host, HTTP/1.1
up to six. All transfers under way share the link equally.
"""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Protocol
from urllib.parse import urlsplit

from unladen.weigh.records.conditions import Link

MSS = 1460
INITIAL_WINDOW = min(10 * MSS, max(2 * MSS, 14_600))
_CONNECTIONS = {"h2": 1, "h3": 1}
_MOST_CONNECTIONS = 6
_FASTEST = 1e9  # bytes per ms, for a link without limit
_TINY = 1e-7


class Moved(Protocol):
    """What the model needs of a request."""

    url: str
    kind: str
    initiator: str
    initiator_type: str
    started: float
    cached: bool
    protocol: str
    priority: str
    named_at: float

    @property
    def transferred(self) -> int:
        """Bytes on the wire."""
        ...


@dataclass(slots=True)
class Modelled:
    """When all is there (`load`) and when the document and its scripts are (`ready`), in ms; `ends` by request."""

    load: float
    ready: float
    ends: list[float]


@dataclass(slots=True)
class _Connection:
    open_at: float = -1.0
    window: float = INITIAL_WINDOW
    credit: float = 0.0
    tick: float = -1.0
    used_up: bool = False
    serving: int = 0


@dataclass(slots=True)
class _Transfer:
    size: float
    parent: int
    share: float
    ordered: bool
    host: str
    most: int
    left: float = 0.0
    flows_at: float = -1.0
    end: float = -1.0
    runs_at: float = -1.0
    connection: _Connection | None = None
    released: bool = False
    is_style: bool = False
    children: list[int] = field(default_factory=list)


def modelled(requests: Sequence[Moved], link: Link, *, handshakes: bool = True, slow_start: bool = True) -> Modelled:
    """The modelled times of these requests over a link.

    Without `handshakes` and `slow_start` as a browser throttles.
    """
    wanted = [request for request in requests if not request.cached]
    return _Simulation(wanted, link, handshakes, slow_start).run()


class _Simulation:
    """Advances from event to event; between two events nothing changes but the bytes that are left."""

    def __init__(self, requests: list[Moved], link: Link, handshakes: bool, slow_start: bool) -> None:
        self.link = link
        self.handshakes, self.slow_start = handshakes, slow_start
        self.requests = requests
        self.rate = min(link.bytes_per_ms, _FASTEST)
        self.now = 0.0
        self.items = [self._item(i) for i in range(len(requests))]
        for i, item in enumerate(self.items):
            if item.parent >= 0:
                self.items[item.parent].children.append(i)
        self.connections: dict[str, list[_Connection]] = defaultdict(list)
        self.queues: dict[str, deque[int]] = defaultdict(deque)
        self.flying: list[int] = []
        # Scripts that the parser waits for run in their order; each waits for the style sheets named before it.
        self.in_order = deque(i for i, item in enumerate(self.items) if item.ordered)
        self.ran = 0.0
        # What style sheets name, such as fonts, is asked for once all that hold the first paint are there.
        self.styles_left = sum(item.ordered and requests[i].kind == "styles" for i, item in enumerate(self.items))
        self.named_by_styles: list[int] = []

    def _item(self, i: int) -> _Transfer:
        request = self.requests[i]
        parent = next((k for k in range(i - 1, -1, -1) if self.requests[k].url == request.initiator), 0 if i else -1)
        by_parser = request.initiator_type == "parser" and parent >= 0 and self.requests[parent].kind == "documents"
        early = request.priority in ("VeryHigh", "High", "Medium", "")
        parts = urlsplit(request.url)
        return _Transfer(
            size=max(1.0, float(request.transferred)),
            parent=parent,
            share=request.named_at if by_parser else 1.0,
            ordered=by_parser and request.kind in ("scripts", "styles") and early,
            host=f"{parts.scheme}://{parts.netloc}",
            is_style=request.kind == "styles",
            most=_CONNECTIONS.get(request.protocol, _MOST_CONNECTIONS) if request.protocol else 1,
        )

    def run(self) -> Modelled:
        if not self.items:
            return Modelled(0.0, 0.0, [])
        self._release(0)
        self._assign()
        while self.flying:
            self._advance(self._flowing())
        ends = [item.end for item in self.items]
        waited = [end for end, request in zip(ends, self.requests, strict=True) if request.kind != "data"]
        return Modelled(max(waited, default=0.0), max(ends[0], self.ran), ends)

    def _release(self, i: int) -> None:
        item = self.items[i]
        item.released, item.left = True, item.size
        self.queues[item.host].append(i)

    def _assign(self) -> None:
        """Give queued requests a connection, as far as their hosts have one free."""
        for host in [host for host, queue in self.queues.items() if queue]:
            queue, pool = self.queues[host], self.connections[host]
            while queue:
                item = self.items[queue[0]]
                result = next((c for c in pool if item.most == 1 or not c.serving), None)
                if result is None and len(pool) < item.most:
                    trips = (2 if host.startswith("https") else 1) if self.handshakes else 0
                    result = _Connection(open_at=self.now + trips * self.link.latency)
                    pool.append(result)
                if result is None:
                    break
                result.serving += 1
                item.connection = result
                item.flows_at = max(self.now, result.open_at) + self.link.latency
                self.flying.append(queue.popleft())

    def _flowing(self) -> list[_Transfer]:
        result = []
        for i in self.flying:
            item = self.items[i]
            connection = item.connection
            if item.flows_at > self.now + _TINY or connection is None:
                continue
            if self.slow_start and self.link.latency:
                if connection.tick < 0:
                    connection.credit, connection.tick = connection.window, self.now + self.link.latency
                if connection.credit <= _TINY:
                    continue
            result.append(item)
        return result

    def _step(self, flowing: list[_Transfer], rate: float) -> float:
        """How long until the next thing happens."""
        step = float("inf")
        load: dict[int, int] = defaultdict(int)
        for item in flowing:
            load[id(item.connection)] += 1
            step = min(step, item.left / rate, *self._naming(item, rate))
        for i in self.flying:
            item = self.items[i]
            if item.flows_at > self.now + _TINY:
                step = min(step, item.flows_at - self.now)
                continue
            connection = item.connection
            if connection is not None and connection.tick > self.now:
                step = min(step, connection.tick - self.now)
                if shared := load[id(connection)]:
                    step = min(step, connection.credit / (rate * shared))
        return max(step, _TINY)

    def _naming(self, item: _Transfer, rate: float) -> list[float]:
        """How long until the next place in a document that names another file has come."""
        if not item.children:
            return []
        come = item.size - item.left
        places = (self.items[i].share * item.size for i in item.children if not self.items[i].released)
        nearest = min((place for place in places if place > come + _TINY), default=item.size)
        return [(nearest - come) / rate]

    def _advance(self, flowing: list[_Transfer]) -> None:
        rate = self.rate / max(1, len(flowing))
        step = self._step(flowing, rate)
        self.now += step
        for item in flowing:
            item.left -= rate * step
            if item.connection is not None:
                item.connection.credit -= rate * step
                item.connection.used_up |= item.connection.credit <= 1
        for connection in {id(self.items[i].connection): self.items[i].connection for i in self.flying}.values():
            if connection is not None and 0 <= connection.tick <= self.now + _TINY:
                self._tick(connection)
        over = [i for i in self.flying if self.items[i].flows_at <= self.now and self.items[i].left <= rate * _TINY]
        for i in over:
            self._finish(i)
        for parent in [*flowing, *self._run_scripts(), *(self.items[i] for i in over)]:
            if parent.children:
                self._discover(parent)
        self._assign()

    def _tick(self, connection: _Connection) -> None:
        connection.window *= 2 if connection.used_up else 1
        connection.credit, connection.used_up = connection.window, False
        connection.tick += self.link.latency

    def _finish(self, i: int) -> None:
        item = self.items[i]
        item.left, item.end = 0.0, self.now
        self.flying.remove(i)
        if item.connection is not None:
            item.connection.serving -= 1
            if not item.connection.serving:
                item.connection.tick = -1.0  # idle: the next answer begins a flight of its own
        if not item.ordered:
            item.runs_at = self.now
        elif self.requests[i].kind == "styles":
            self.styles_left -= 1
            if not self.styles_left:
                for waiting in self.named_by_styles:
                    self._release(waiting)

    def _run_scripts(self) -> list[_Transfer]:
        """Those whose turn has come."""
        done = []
        while self.in_order and self.items[self.in_order[0]].end >= 0:
            item = self.items[self.in_order.popleft()]
            item.runs_at = self.ran = self.now
            done.append(item)
        return done

    def _discover(self, parent: _Transfer) -> None:
        """Release what the part of the parent that has come names, or all once it runs."""
        come = parent.size - parent.left
        if parent.runs_at >= 0 and parent.is_style and self.styles_left:
            self.named_by_styles += parent.children
            parent.children = []
        remaining = []
        for i in parent.children:
            item = self.items[i]
            if parent.runs_at >= 0 or (item.share < 1.0 and come + 1 >= item.share * parent.size):
                self._release(i)
            else:
                remaining.append(i)
        parent.children = remaining
