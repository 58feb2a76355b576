"""Whether pages keep to an allowance: what is over, where, by how much, and who brings it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import urlsplit
from xml.etree import ElementTree

from unladen.capture import Capture
from unladen.capture.addresses import site_path
from unladen.errors import BadInput
from unladen.ledger.allowance import Allowance, Limit
from unladen.ledger.comparison import compare_documents
from unladen.schemas import document_of, object_of
from unladen.weigh.link.model import modelled
from unladen.weigh.page.fonts import fonts_of
from unladen.weigh.records.conditions import link_named
from unladen.weigh.records.model import ShownImage, WeighIn, weigh_ins_document
from unladen.weigh.records.parties import PLATFORM, SITE, THIRD_PARTY, Causes, Rule

FORMAT = "unladen/gate/1"
_MOST_NAMED = 5
_NEVER = "1970-01-01T00:00:00"


@dataclass(frozen=True, slots=True)
class Culprit:
    """Something that counts towards a figure: a path, address or name, its share of the figure, and who brings it."""

    name: str
    amount: float
    bringer: str = ""


@dataclass(frozen=True, slots=True)
class Kept:
    """A limit at one page on one device: what it came to, and what counts most towards it, the largest first."""

    limit: Limit
    page: str
    device: str
    value: float
    culprits: tuple[Culprit, ...] = ()

    @property
    def over(self) -> float:
        """By how much it is broken; 0 where it holds."""
        return max(0.0, self.value - self.limit.most)

    @property
    def text(self) -> str:
        """In a line."""
        said = f"{self.page} on {self.device}: {self.limit.label} {_figure(self.value, self.limit)}"
        if not self.over:
            return f"{said}, at most {_figure(self.limit.most, self.limit)}"
        return f"{said}, {_figure(self.over, self.limit)} over {_figure(self.limit.most, self.limit)}"


@dataclass(slots=True)
class Gate:
    """All limits at all pages and devices, and what stood in the way of judging; `taken`: when the last was weighed
    (ISO 8601).
    """

    kept: list[Kept] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    taken: str = ""

    @property
    def broken(self) -> list[Kept]:
        """Those that do not hold."""
        return [row for row in self.kept if row.over]

    @property
    def passes(self) -> bool:
        """Whether all of them hold."""
        return not self.broken


def judge(
    allowance: Allowance,
    weigh_ins: Sequence[WeighIn],
    capture: Capture,
    *,
    rules: Sequence[Rule] = (),
    pinned: Any = None,
    pinned_name: str = "pinned weigh-ins",
) -> Gate:
    """Every limit at every weigh-in of a first visit that it is for.

    `pinned` is a weigh-ins document that growth is counted from. Raises `BadInput` where growth is limited and
    nothing is pinned, or no limit is for anything that was weighed; `NotComparable` where `pinned` was taken
    otherwise.
    """
    gate = Gate(taken=max((weigh_in.taken for weigh_in in weigh_ins), default=""))
    grown = _growth(allowance, weigh_ins, pinned, pinned_name, gate)
    for weigh_in in weigh_ins:
        page, device = weigh_in.page, weigh_in.conditions.device.name
        causes = Causes(weigh_in.visit.requests, capture.base_url, rules)
        for limit in allowance.limits:
            if not limit.holds(page, device):
                continue
            if limit.measure == "growth":
                if (page, device) in grown:
                    gate.kept.append(Kept(limit, page, device, *grown[(page, device)]))
            else:
                gate.kept.append(
                    Kept(limit, page, device, *_MEASURES[limit.measure](weigh_in, causes, limit, capture))
                )
        lost = sorted({site_path(capture.base_url, r.url) for r in weigh_in.visit.requests if r.missing})
        if lost:
            named = ", ".join(lost[:_MOST_NAMED]) + (" …" if len(lost) > _MOST_NAMED else "")
            gate.notes.append(
                f"{page} on {device}: {len(lost)} missing {'files count' if len(lost) > 1 else 'file counts'} "
                f"nothing: {named}"
            )
    if not gate.kept:
        raise BadInput("allowance", "has no limit for a weighed page")
    for number, limit in enumerate(allowance.limits, 1):
        if not any(row.limit is limit for row in gate.kept):
            gate.notes.append(f"limit {number} ({limit.label}) applies to no weighed page")
    return gate


_Found = tuple[float, tuple[Culprit, ...]]


def _growth(
    allowance: Allowance, weigh_ins: Sequence[WeighIn], pinned: Any, name: str, gate: Gate
) -> dict[tuple[str, str], _Found]:
    if not any(limit.measure == "growth" for limit in allowance.limits):
        return {}
    if pinned is None:
        raise BadInput("allowance", "limits growth, which needs earlier weigh-ins")
    comparison = compare_documents(pinned, weigh_ins_document(list(weigh_ins)), (name, "weigh-ins of now"))
    gate.notes += [f"counted from other conditions: {note}" for note in comparison["notes"]]
    gate.notes += [f"no earlier weigh-in of {where}, so its growth is unknown" for where in comparison["only_after"]]
    table: dict[tuple[str, str], _Found] = {}
    for pair in comparison["pairs"]:
        before, more = pair["before"]["transferred"], pair["difference"]["transferred"]
        kinds = sorted(((kind, row["transferred"]) for kind, row in pair["kinds"].items()), key=lambda row: -row[1])
        culprits = tuple(Culprit(kind, amount) for kind, amount in kinds if amount > 0)
        table[(pair["page"], pair["device"])] = (
            100 * more / before if before else 100.0 * bool(more),
            culprits[:_MOST_NAMED],
        )
    return table


def _largest(rows: Sequence[Culprit]) -> tuple[Culprit, ...]:
    return tuple(sorted(rows, key=lambda row: -row.amount)[:_MOST_NAMED])


def _by_request(weigh_in: WeighIn, causes: Causes, limit: Limit, capture: Capture) -> _Found:
    rows, value = [], 0
    for request, bringer in zip(causes.requests, causes.bringers, strict=True):
        host = urlsplit(request.url).hostname or ""
        if request.cached or limit.kind not in ("", request.kind) or limit.bringer not in ("", bringer.kind):
            continue
        if limit.host and limit.host not in (host, bringer.name):
            continue
        amount = request.transferred if limit.measure == "bytes" else 1
        value += amount
        rows.append(Culprit(site_path(capture.base_url, request.url), amount, bringer.name or bringer.kind))
    return value, _largest(rows)


def _seconds(weigh_in: WeighIn, causes: Causes, limit: Limit, capture: Capture) -> _Found:
    asked = weigh_in.visit.at_load
    result = modelled(asked, link_named(limit.link))
    who = {id(r): bringer.name or bringer.kind for r, bringer in zip(causes.requests, causes.bringers, strict=True)}
    last = sorted(zip(result.ends, asked, strict=True), key=lambda row: -row[0])[:_MOST_NAMED]
    culprits = [
        Culprit(site_path(capture.base_url, r.url), round(end / 1000, 2), who.get(id(r), "")) for end, r in last
    ]
    return round(result.load / 1000, 3), tuple(culprits)


def _widths(backgrounds: bool) -> Callable[..., _Found]:
    def measure(weigh_in: WeighIn, causes: Causes, limit: Limit, capture: Capture) -> _Found:
        wide: dict[str, int] = {}
        for image in weigh_in.facts.images:
            if _is_background(image, weigh_in) == backgrounds:
                wide[image.url] = max(wide.get(image.url, 0), image.natural_width)
        rows = [Culprit(site_path(capture.base_url, url), width) for url, width in wide.items() if width]
        return max(wide.values(), default=0), _largest([row for row in rows if row.amount > limit.most] or rows)

    return measure


def _is_background(image: ShownImage, weigh_in: WeighIn) -> bool:
    """One of styles, or a picture as wide as its window."""
    window = weigh_in.facts.view_width or weigh_in.conditions.device.width
    return image.via in ("background", "poster") or image.paint_width >= 0.95 * window > 600


def _families(weigh_in: WeighIn, causes: Causes, limit: Limit, capture: Capture) -> _Found:
    families: dict[str, int] = {}
    for font in fonts_of(capture, weigh_in.visit.requests, weigh_in.facts.structure):
        families[font.family] = families.get(font.family, 0) + font.transferred
    return len(families), _largest([Culprit(name, size) for name, size in families.items()])


def _third_parties(weigh_in: WeighIn, causes: Causes, limit: Limit, capture: Capture) -> _Found:
    hosts: dict[str, float] = {}
    for request, bringer in zip(causes.requests, causes.bringers, strict=True):
        if not request.cached and bringer.kind not in (SITE, PLATFORM):
            host = urlsplit(request.url).hostname or request.url
            hosts[host] = hosts.get(host, 0) + request.transferred
    return len(hosts), _largest([Culprit(host, size, THIRD_PARTY) for host, size in hosts.items()])


def _missing(weigh_in: WeighIn, causes: Causes, limit: Limit, capture: Capture) -> _Found:
    lost = sorted({request.url for request in weigh_in.visit.requests if request.missing})
    return len(lost), tuple(Culprit(site_path(capture.base_url, url), 1) for url in lost[:_MOST_NAMED])


_MEASURES: dict[str, Callable[[WeighIn, Causes, Limit, Capture], _Found]] = {
    "bytes": _by_request,
    "requests": _by_request,
    "seconds": _seconds,
    "picture width": _widths(False),
    "background width": _widths(True),
    "font families": _families,
    "third parties": _third_parties,
    "missing files": _missing,
}


def _figure(value: float, limit: Limit) -> str:
    if limit.measure == "bytes":
        return f"{value:,.0f} bytes"
    if limit.measure == "requests":
        return f"{value:,.0f}"
    return f"{value:,.3g} {limit.unit}" if value % 1 else f"{value:,.0f} {limit.unit}"


def gate_document(gate: Gate) -> dict[str, Any]:
    """The published document."""
    return {
        "format": FORMAT,
        "passes": gate.passes,
        "limits": [
            {
                "limit": row.limit.as_json(),
                "page": row.page,
                "device": row.device,
                "value": row.value,
                "over": row.over,
                "culprits": [{"name": c.name, "amount": c.amount, "bringer": c.bringer} for c in row.culprits],
            }
            for row in gate.kept
        ],
        "notes": gate.notes,
    }


def gate_schema() -> dict[str, Any]:
    """JSON Schema, draft 2020-12."""
    number, text = {"type": "number"}, {"type": "string"}
    culprit = object_of({"name": text, "amount": number, "bringer": text})
    row = {
        "limit": Limit.schema(),
        "page": text,
        "device": text,
        "value": number,
        "over": number,
        "culprits": {"type": "array", "items": culprit},
    }
    properties = {
        "format": {"const": FORMAT},
        "passes": {"type": "boolean"},
        "limits": {"type": "array", "items": object_of(row)},
        "notes": {"type": "array", "items": text},
    }
    return document_of(FORMAT, properties)


def gate_lines(gate: Gate) -> list[str]:
    """For people at a terminal: what is over first, with what brings it."""
    lines = []
    for row in gate.broken:
        lines.append(f"over: {row.text}")
        lines += [f"  {_culprit(row, culprit)}" for culprit in row.culprits]
    lines += [f"within: {row.text}" for row in gate.kept if not row.over]
    return lines + [f"note: {note}" for note in gate.notes]


def _culprit(row: Kept, culprit: Culprit) -> str:
    amount = (
        f"{culprit.amount:,.0f} bytes"
        if row.limit.measure in ("bytes", "third parties", "font families", "growth")
        else ""
    )
    if row.limit.measure in ("picture width", "background width"):
        amount = f"{culprit.amount:,.0f} px"
    if row.limit.measure == "seconds":
        amount = f"there after {culprit.amount:g} s"
    return ", ".join(filter(None, (culprit.name, amount, f"loaded by {culprit.bringer}" if culprit.bringer else "")))


def gate_markdown(gate: Gate) -> str:
    """A table for a comment on a change under review (CommonMark with tables)."""

    def cell(text: str) -> str:
        plain = " ".join(text.split()).replace("\\", "\\\\").replace("|", "\\|")
        return plain.replace("<", "&lt;").replace("`", "\\`")

    said = "All limits met." if gate.passes else f"{len(gate.broken)} of {len(gate.kept)} limits exceeded."
    lines = [f"**{said}**", "", "| page | device | limit | is | at most | loaded by |", "|---|---|---|--:|--:|---|"]
    for row in [*gate.broken, *(row for row in gate.kept if not row.over)]:
        by = "; ".join(cell(_culprit(row, culprit)) for culprit in row.culprits[:3]) if row.over else ""
        mark = f"**{_figure(row.value, row.limit)}**" if row.over else _figure(row.value, row.limit)
        lines.append(
            f"| {cell(row.page)} | {row.device} | {cell(row.limit.label)} | {mark} | "
            f"{_figure(row.limit.most, row.limit)} | {by} |"
        )
    return "\n".join([*lines, "", *(f"- {cell(note)}" for note in gate.notes)]).rstrip() + "\n"


def gate_junit(gate: Gate) -> bytes:
    """As test results in the JUnit schema (Windy Road, for Apache Ant) that build servers read.

    A suite for each page and device, a case for each limit.
    """
    suites = ElementTree.Element("testsuites")
    for number, (page, device) in enumerate(dict.fromkeys((row.page, row.device) for row in gate.kept)):
        rows = [row for row in gate.kept if (row.page, row.device) == (page, device)]
        place = _token(f"{page} on {device}")
        counts = {
            "tests": len(rows),
            "failures": sum(bool(row.over) for row in rows),
            "errors": 0,
            "time": 0,
            "id": number,
        }
        texts = {
            "name": place,
            "package": "allowance",
            "hostname": "localhost",
            "timestamp": gate.taken[:19] or _NEVER,
        }
        suite = ElementTree.SubElement(suites, "testsuite", texts | {name: str(n) for name, n in counts.items()})
        properties = ElementTree.SubElement(suite, "properties")
        ElementTree.SubElement(properties, "property", name="device", value=_xml(device))
        for row in rows:
            case = ElementTree.SubElement(suite, "testcase", name=_token(row.limit.label), classname=place, time="0")
            if row.over:
                failure = ElementTree.SubElement(case, "failure", message=_token(row.text), type="over")
                failure.text = _xml("\n".join(_culprit(row, culprit) for culprit in row.culprits))
        for name in ("system-out", "system-err"):
            ElementTree.SubElement(suite, name)
    return ElementTree.tostring(suites, encoding="utf-8", xml_declaration=True)


def _token(text: str) -> str:
    return " ".join(_xml(text).split())


def _xml(text: str) -> str:
    """Without the characters that XML 1.0 (section 2.2) has no way to hold."""
    return "".join(
        c if c in "\t\n" or " " <= c < "\ud800" or "\ue000" <= c <= "\ufffd" or c > "\uffff" else "\ufffd"
        for c in text
    )
