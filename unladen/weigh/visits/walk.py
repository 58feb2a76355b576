"""A walk: what a visitor does on a page, step by step, while the browser notes which styles and scripts are used."""

from __future__ import annotations

import asyncio
import contextlib
import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass, field
from typing import Any
from urllib.parse import urlsplit

from playwright.async_api import Error as PlaywrightError
from playwright.async_api import Page

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import canonical, site_path
from unladen.errors import BadInput
from unladen.page_scripts import in_page
from unladen.weigh.chromium.browser import Browser, target_of
from unladen.weigh.chromium.protocol import ProtocolClosed
from unladen.weigh.chromium.recorder import Recorder
from unladen.weigh.page.coverage import Collector, FileUse, prepare
from unladen.weigh.records.conditions import HEADER_BYTES, Device
from unladen.weigh.session import Session
from unladen.weigh.visits.lanes import in_lanes
from unladen.weigh.visits.remote import Batch, RemoteTask
from unladen.weigh.visits.visit import LIMIT, MOST_NAVIGATIONS, SCROLL, Watch, ask, load

ACTIONS = ("scroll", "hover", "open", "click", "type", "wait")
_NEEDS_ELEMENT = ("hover", "open", "click", "type")
_MOST_STEPS = 100
_STEP_WITHIN = 2000  # ms to find an element and act on it
_AFTER_STEP = 0.12  # s of quiet
_LONGEST_WAIT = 10_000  # ms
_WALKABLE, _GUARD, _PICKABLE = in_page("walkable"), in_page("guard"), in_page("pickable")


@dataclass(frozen=True, slots=True)
class Step:
    """One step. `own` ones were added by the user; `label` is what stands on the element. `wait` takes `ms`."""

    action: str
    selector: str = ""
    text: str = ""
    ms: int = 0
    label: str = ""
    own: bool = False

    def __post_init__(self) -> None:
        if self.action not in ACTIONS:
            raise BadInput(self.action, f"is not a step of a walk; use {', '.join(ACTIONS)}")
        if self.action in _NEEDS_ELEMENT and not self.selector.strip():
            raise BadInput(self.action, "needs the selector of an element")
        if not 0 <= self.ms <= _LONGEST_WAIT:
            raise BadInput(self.action, f"waits 0 to {_LONGEST_WAIT:,} ms")

    @property
    def key(self) -> str:
        """What tells a step from others of the same page."""
        return f"{self.action} {self.selector} {self.text}".strip()


@dataclass(slots=True)
class StepTaken:
    """A step and what came of it.

    `outcome` is "" when it was taken, else why not; the requests and bytes it brought.
    """

    step: Step
    outcome: str = ""
    requests: int = 0
    transferred: int = 0


@dataclass(slots=True)
class Walk:
    """A walk over one page on one device; `elements` are those that a step may be about, with their boxes in CSS px.

    `came`: the addresses that steps asked for.
    """

    page: str
    device: Device
    steps: list[StepTaken] = field(default_factory=list)
    files: list[FileUse] = field(default_factory=list)
    errors: list[str] = field(default_factory=list)
    elements: list[dict[str, Any]] = field(default_factory=list)
    came: list[str] = field(default_factory=list)

    def to_record(self) -> dict[str, Any]:
        """Plain values, for `from_record`."""
        return asdict(self)

    @classmethod
    def from_record(cls, record: dict[str, Any]) -> Walk:
        """The walk that `to_record` gave."""
        return cls(
            page=record["page"],
            device=Device(**record["device"]),
            steps=[StepTaken(**row | {"step": Step(**row["step"])}) for row in record["steps"]],
            files=[
                FileUse(row["url"], row["kind"], row["length"], [(a, b) for a, b in row["used"]])
                for row in record["files"]
            ],
            errors=record["errors"],
            elements=record["elements"],
            came=record.get("came", []),
        )


@dataclass(frozen=True, slots=True)
class WalkOrders:
    """What the user wants of a page's walk: own steps, and the keys of steps that are switched off."""

    own: tuple[Step, ...] = ()
    off: frozenset[str] = frozenset()


def orders_from(record: Any) -> WalkOrders:
    """Orders from plain values `{"own": [steps], "off": [keys]}`; raises `BadInput`."""
    rows, off = (record.get(name, []) for name in ("own", "off")) if isinstance(record, dict) else (None, None)
    if not isinstance(rows, list) or not isinstance(off, list):
        raise BadInput("walk", "must be an object with lists “own” and “off”")
    if len(rows) > _MOST_STEPS:
        raise BadInput("walk", f"has more than {_MOST_STEPS} custom steps")
    if not all(isinstance(key, str) for key in off):
        raise BadInput("walk", "names a switched-off step without its key")
    return WalkOrders(tuple(map(_own_step, rows)), frozenset(off))


def _own_step(row: Any) -> Step:
    if not isinstance(row, dict):
        raise BadInput("walk", "has a step that is not an object")
    for name, value in row.items():
        if not isinstance(value, int if name == "ms" else bool if name == "own" else str):
            raise BadInput("walk", f"has a step whose “{str(name)[:40]}” is of the wrong kind")
    try:
        return Step(**row | {"own": True})
    except TypeError as error:
        raise BadInput("walk", f"has a step with wrong fields ({error})") from error


async def walk_page(browser: Browser, url: str, device: Device, orders: WalkOrders) -> Walk:
    """Walk over a page. Never leaves it nor submits a form; raises nothing for what the page does wrong."""
    context, page = await browser.open(device)
    collector = Collector()
    recorder = Recorder(browser.protocol, prepare=prepare, listener=collector.hear)
    watch = Watch(page, recorder)
    result = Walk(site_path(browser.replay.capture.base_url, url), device)
    try:
        await recorder.attach(await target_of(page))
        if await load(page, recorder, watch, url) and await ask(page, _GUARD):
            results = await ask(page, _WALKABLE) or []
            result.elements = await ask(page, _PICKABLE) or []
            steps = [Step("scroll", label="to the end and back"), *(Step(**row) for row in results), *orders.own]
            for step in steps:
                result.steps.append(await _take(browser, page, recorder, step, orders, result.came))
                if watch.crashed:
                    break
            result.files = await collector.collect(browser.protocol, recorder.sessions())
            for use in result.files:
                use.url = canonical(use.url)
    except (PlaywrightError, ProtocolClosed) as error:
        watch.errors.append(f"the walk was interrupted: {str(error).splitlines()[0][:200]}")
    finally:
        recorder.detach()
        result.came = list(dict.fromkeys(canonical(url) for url in result.came))
        with contextlib.suppress(PlaywrightError, ProtocolClosed):
            await context.close()
    result.errors = watch.errors
    return result


async def _take(
    browser: Browser, page: Page, recorder: Recorder, step: Step, orders: WalkOrders, asked: list[str]
) -> StepTaken:
    taken = StepTaken(step)
    if step.key in orders.off:
        taken.outcome = "switched off"
        return taken
    log = browser.replay.log
    mark, before = len(log), recorder.navigations
    try:
        await _act(page, step)
    except PlaywrightError as error:
        find = f"() => Boolean(document.querySelector({json.dumps(step.selector)}))"
        there = await ask(page, find) if step.selector else True
        taken.outcome = "could not be done: the element is covered or moves" if there else "there is no such element"
        if "selector" in str(error).lower() and "not a valid" in str(error).lower():
            taken.outcome = "the selector cannot be read"
    await recorder.idle(_AFTER_STEP, LIMIT / 3, MOST_NAVIGATIONS + before)
    if recorder.navigations > before:
        taken.outcome = "would have left the page"
    # The browser's own calls are no part of the page.
    hosts = {urlsplit(entry.url).netloc for entry in recorder.seen}
    came = [served for served in log[mark:] if served.method != "OPTIONS" and urlsplit(served.url).netloc in hosts]
    asked += [served.url for served in came]
    taken.requests = len(came)
    taken.transferred = sum(served.body + HEADER_BYTES for served in came)
    return taken


async def _act(page: Page, step: Step) -> None:
    if step.action == "scroll":
        await ask(page, SCROLL, 20)
        await ask(page, "() => { scrollTo(0, 0); return true; }")
        return
    if step.action == "wait":
        await asyncio.sleep(step.ms / 1000)
        return
    element = page.locator(step.selector).first
    if step.action == "hover":
        await element.hover(timeout=_STEP_WITHIN, no_wait_after=True)
    elif step.action == "type":
        await element.fill(step.text, timeout=_STEP_WITHIN, no_wait_after=True)
    elif step.action == "open" and not step.own:
        # Without the mouse, so that what an earlier step opened on top of it is no hindrance.
        await element.evaluate("(e) => e.click()", timeout=_STEP_WITHIN)
    else:
        await element.click(timeout=_STEP_WITHIN, no_wait_after=True)


def walk_pages(
    session: Session, pages: Sequence[Exchange], devices: Sequence[Device], orders: dict[str, WalkOrders]
) -> list[Walk]:
    """Walks over all pages on all devices, in that order; `orders` go by path. Raises `Cancelled`."""
    capture = session.capture

    def one(lane: Browser, job: tuple[Exchange, Device]) -> Walk:
        path = site_path(capture.base_url, job[0].url)
        return lane.run(walk_page(lane, job[0].url, job[1], orders.get(path, WalkOrders())))

    def note(job: tuple[Exchange, Device]) -> str:
        return f"{site_path(capture.base_url, job[0].url)}, {job[1].name}"

    def remote_task(job: tuple[Exchange, Device]) -> RemoteTask:
        path = site_path(capture.base_url, job[0].url)
        return RemoteTask(_walk_there, (job[0].url, job[1], orders.get(path, WalkOrders())))

    jobs = [(page, device) for page in pages for device in devices]
    return in_lanes(session, Batch("walk", jobs, one, note, remote_task), serves=True)


def _walk_there(browser: Browser, _: Capture, url: str, device: Device, orders: WalkOrders) -> Walk:
    return browser.run(walk_page(browser, url, device, orders))
