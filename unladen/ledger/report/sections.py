"""The sections of a report, computed from the ledger's document.

The summary fills the first page and stands alone; at most four pages follow, so their tables are cut to the largest
rows; the appendix lists everything.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from markupsafe import Markup

from unladen.glossary import OF_REPORTS, TERMS
from unladen.ledger.document import carried_out
from unladen.ledger.report.content import Figures, Report, figures_of, small_picture
from unladen.ledger.report.drawings import beam, kilobytes, stairs
from unladen.ledger.report.layout import Block, Cell, Part, Pictures, Table, table
from unladen.remedies import remedy_named

_VISITS = 10_000
_FEW_WORDS = 500  # characters of an introduction that fit on the first page
_LARGEST = 3  # savings on the first page
# Rows of each section before the appendix, so that all of them fit on four pages.
_STEPS, _PAGES, _ADVICE, _UNCHANGED, _SHOTS, _DEVICES = 12, 12, 5, 5, 1, 3
_LONG = 120  # characters of a name before the appendix
# Rows of some 250 pages; browsers print no more than twice as many, and nobody reads them. The rest is summed up.
_MOST_CHANGES, _MOST_UNCHANGED = 8000, 2000


@dataclass(frozen=True, slots=True)
class OnDevice:
    """The weight of all pages on a device, in words, and its drawing."""

    name: str
    pages: str
    found: str
    now: str
    change: str
    beam: Markup


@dataclass(frozen=True, slots=True)
class Summary:
    """What stands on the first page."""

    words: Sequence[str]
    devices: Sequence[OnDevice]
    largest: Table | None
    checked: str
    shot: Pictures | None


def pictures_of(report: Report) -> list[Pictures]:
    """Small pictures of the pages whose pictures can be read."""
    pictures = (
        Pictures(shot.page, shot.device, small_picture(shot.before), small_picture(shot.after))
        for shot in report.shots
    )
    return [each for each in pictures if each.before and each.after]


def summary_of(report: Report, pictures: Sequence[Pictures]) -> Summary:
    """The first page: weights, the largest savings, the check, and a page before and after."""
    steps = [row for row in report.steps() if row[1] > 0][:_LARGEST]
    rows = [(title, kilobytes(size), f"{count:,}" if count else "") for title, size, count in steps]
    largest = table(("Remedy", "Saved", "Requests"), rows, 2) if rows else None
    words = _introduction(report)
    return Summary(
        words if _is_short(words) else (),
        [_on_device(report, device, number) for number, device in enumerate(report.devices)],
        largest,
        _checked(report.ledger["checks"]),
        next(iter(pictures), None),
    )


def parts_of(report: Report, pictures: Sequence[Pictures], *, short: bool = False) -> list[Part]:
    """The parts after the summary that hold anything; `short` leaves the appendix out."""
    words = _introduction(report)
    main = {
        "Introduction": [] if _is_short(words) else [Block(words=words)],
        "Savings by remedy": _savings(report, short),
        "Figures": _figures_by_device(report),
        "Pages": _pages(report.ledger, short),
        "Before and after": _before_and_after(pictures, short),
        "Further advice": [_advice(report, _ADVICE)],
        "Unchanged, with reasons": [_unchanged(report, _UNCHANGED)],
    }
    appendix = {
        "Bytes by remedy": [_bytes_by_remedy(report)],
        "All pages": [Block(table=_page_table(report.ledger))] if len(report.ledger["before"]) > _PAGES else [],
        "All pictures": [Block(pictures=pictures[n : n + 2]) for n in range(1 + _SHOTS, len(pictures), 2)],
        "Changes and reasons": _changes(report.ledger),
        "All advice": [_advice(report)] if len(report.advice) > _ADVICE else [],
        "All that is unchanged": [_unchanged(report)] if len(_unchanged_rows(report)) > _UNCHANGED else [],
        "Measurement": [_conditions(report.ledger)],
        "Glossary": [Block(terms=[(term, TERMS[term]) for term in OF_REPORTS])],
    }
    parts = _numbered(main, "part")
    if not short:
        extra = _numbered(appendix, "appendix")
        parts += [Part(p.id, p.title, p.blocks, opens_appendix=not number) for number, p in enumerate(extra)]
    return parts


def sides(ledger: Mapping[str, Any], device: str = "") -> tuple[Figures, Figures]:
    """Sums as found and now, on a device or on all."""
    before, after = ([row for row in ledger[side] if device in ("", row["device"])] for side in ("before", "after"))
    return figures_of(before), figures_of(after)


def _numbered(sections: Mapping[str, Sequence[Block]], prefix: str) -> list[Part]:
    filled = {title: [block for block in blocks if not block.is_empty] for title, blocks in sections.items()}
    return [
        Part(f"{prefix}-{number}", title, blocks)
        for number, (title, blocks) in enumerate(((t, b) for t, b in filled.items() if b), 1)
    ]


def _introduction(report: Report) -> list[str]:
    return [line for line in report.sender.words.split("\n") if line.strip()]


def _is_short(words: Sequence[str]) -> bool:
    return sum(map(len, words)) <= _FEW_WORDS and len(words) <= 6


def _on_device(report: Report, device: str, number: int) -> OnDevice:
    before, after = sides(report.ledger, device)
    count = len(dict.fromkeys(row["page"] for row in report.ledger["before"]))
    share = 1 - after.bytes / before.bytes if before.bytes else 0
    return OnDevice(
        device,
        f"the {count} pages" if count > 1 else "the page",
        kilobytes(before.bytes),
        kilobytes(after.bytes),
        f"{abs(share):.0%} {'less' if share >= 0 else 'more'}",
        beam(before, after, f"gone-{number}"),
    )


def _checked(checks: Mapping[str, int]) -> str:
    text = f"{checks['passed']} of {checks['pairs']} page checks (a page on a device) found no difference"
    count = checks["set_aside"]
    if not count:
        return f"{text}."
    changes, were = ("changes", "were") if count > 1 else ("change", "was")
    return f"{text}; {count} {changes} that made a difference {were} set aside."


def _figures_by_device(report: Report) -> list[Block]:
    heads = ("Measure", "As found", "Now", "Difference")
    return [
        Block(f"Visitors on a {device}", table=table(heads, _figures(report.ledger, device), 3))
        for device in report.devices[:_DEVICES]
    ]


def _figures(ledger: Mapping[str, Any], device: str) -> list[tuple[str, str, str, str]]:
    """What a visitor of a device loads: name, as found, now, difference."""
    before, after = sides(ledger, device)
    rows = [
        _figure("Transferred", before.bytes, after.bytes, kilobytes),
        _figure("Requests", before.requests, after.requests, lambda count: f"{count:,.0f}"),
        _figure(
            f"{_VISITS:,} visits", before.bytes * _VISITS, after.bytes * _VISITS, lambda size: f"{size / 1e9:,.1f} GB"
        ),
    ]
    for link, seconds in before.seconds.items():
        if link in after.seconds:
            name = f"Modelled load time at {link}"
            rows.append(_figure(name, seconds, after.seconds[link], lambda time: f"{time:.1f} s"))
    journey = next((row for row in ledger.get("journeys", ()) if row["device"] == device), None)
    if journey is None:
        return rows
    if len(journey["pages"]) > 1:
        result, now = (sum(stop[side]["bytes"] for stop in journey["pages"]) for side in ("found", "now"))
        rows.append(_figure("Journey through all pages", result, now, kilobytes))
    again = journey["again"]
    name = f"Repeat visit to {again['page']}"
    return [*rows, _figure(name, again["found"]["bytes"], again["now"]["bytes"], kilobytes)]


def _figure(name: str, before: float, after: float, said: Callable[[Any], str]) -> tuple[str, str, str, str]:
    if said(before) == said(after):
        return name, said(before), said(after), "none"
    return name, said(before), said(after), f"{said(abs(after - before))} {'more' if after > before else 'less'}"


def _savings(report: Report, short: bool) -> list[Block]:
    before, after = sides(report.ledger)
    note = ("Sum over all pages and devices. As found minus all savings equals the weight now, to the byte.",)
    steps = report.steps()
    if len(steps) > _STEPS:
        rest = steps[_STEPS - 1 :]
        title = f"{len(rest)} more" if short else f"{len(rest)} more, see the appendix"
        steps = [*steps[: _STEPS - 1], (title, sum(row[1] for row in rest), sum(row[2] for row in rest))]
    return [Block(words=note, is_note=True, drawing=stairs(before.bytes, steps, after.bytes))]


def _bytes_by_remedy(report: Report) -> Block:
    rows = [(title, f"{size:,}", f"{count:,}" if count else "") for title, size, count in report.steps()]
    return Block(table=table(("Remedy", "Bytes saved", "Requests saved"), rows, 2))


def _pages(ledger: Mapping[str, Any], short: bool) -> list[Block]:
    rest = len(ledger["before"]) - _PAGES
    where = "" if short else "; the appendix lists them all"
    words = [f"{rest} more rows{where}."] if rest > 0 else []
    return [Block(table=_page_table(ledger, _PAGES)), Block(words=words, is_note=True)]


def _page_table(ledger: Mapping[str, Any], most: int | None = None) -> Table:
    now = {(row["page"], row["device"]): row for row in ledger["after"]}
    links = list(dict.fromkeys(link for row in ledger["before"] for link in row["modelled_load_ms"]))[-2:-1]
    rows: list[tuple[str | Cell, ...]] = []
    for row in ledger["before"][:most]:
        new = now.get((row["page"], row["device"]), row)
        seconds = [
            f"{row['modelled_load_ms'].get(link, 0) / 1000:.1f} → {new['modelled_load_ms'].get(link, 0) / 1000:.1f} s"
            for link in links
        ]
        rows.append(
            (
                Cell(row["page"] if most is None else _shortened(row["page"]), row["device"]),
                kilobytes(row["transferred"]),
                kilobytes(new["transferred"]),
                f"{row['requests']} → {new['requests']}",
                *seconds,
            )
        )
    return table(("Page", "As found", "Now", "Requests", *links), rows, 3 + len(links))


def _before_and_after(pictures: Sequence[Pictures], short: bool) -> list[Block]:
    # The first one stands in the summary.
    shown = pictures[1 : 1 + _SHOTS]
    rest = len(pictures) - 1 - len(shown)
    words = (
        [f"{rest} more {'pairs are' if rest > 1 else 'pair is'} in the appendix."] if rest > 0 and not short else []
    )
    return [*(Block(pictures=[each]) for each in shown), Block(words=words, is_note=True)] if shown else []


def _changes(ledger: Mapping[str, Any]) -> list[Block]:
    by_remedy: dict[str, list[Mapping[str, Any]]] = {}
    for change in carried_out(ledger):
        by_remedy.setdefault(change["remedy"], []).append(change)
    blocks = []
    room = _MOST_CHANGES
    for name, changes in sorted(by_remedy.items(), key=lambda row: -sum(c["saved"]["bytes"] for c in row[1])):
        remedy = remedy_named(name)
        saved = sum(change["saved"]["bytes"] for change in changes)
        words = [f"{remedy.detail or remedy.what} {kilobytes(abs(saved))} {'saved' if saved >= 0 else 'added'}."]
        ordered = sorted(changes, key=lambda change: -change["saved"]["bytes"])
        shown, rest = ordered[:room], ordered[room:]
        room -= len(shown)
        rows = [(", ".join(c["targets"]) or remedy.title, f"{c['saved']['bytes']:,}") for c in shown]
        if rest:
            size = sum(change["saved"]["bytes"] for change in rest)
            rows.append((f"{len(rest):,} more with smaller savings; the ledger lists them all", f"{size:,}"))
        has_files = any(change["targets"] for change in changes)
        files = table(("File", "Bytes saved"), rows, 1) if has_files else None
        blocks.append(Block(remedy.title, words, table=files))
    return blocks


def _unchanged_rows(report: Report) -> list[tuple[str, str]]:
    rows = [(r.what, f"{r.who} did not want it" + (f": {r.why}" if r.why else "")) for r in report.refused]
    for change in report.ledger["changes"]:
        title = remedy_named(change["remedy"]).title
        if change["on"] and change["standing"] == "set aside":
            rows.append((f"{title}: {', '.join(change['targets'])}", change["reason"]))
        rows += [
            (f"{title}: {part['target']}", part["reason"])
            for part in change["aside"]
            if change["standing"] != "set aside"
        ]
    rows += [(notice["name"], notice["reason"]) for notice in report.ledger["notices"] if notice["name"]]
    return list(dict.fromkeys(rows))


def _unchanged(report: Report, most: int = 0) -> Block:
    rows = _unchanged_rows(report)
    limit = most or _MOST_UNCHANGED
    shown = [(_shortened(name), _shortened(reason)) for name, reason in rows[:limit]] if most else rows[:limit]
    if len(rows) > limit:
        shown = [*shown, (f"{len(rows) - limit:,} more", "The ledger lists them all.")]
    return Block(table=table(("File or change", "Reason"), shown))


def _advice(report: Report, most: int | None = None) -> Block:
    ordered = sorted(report.advice, key=lambda each: -each.bytes)
    rows = [
        (
            _shortened(each.what) if most else each.what,
            _shortened(each.advice) if most else each.advice,
            kilobytes(each.bytes) if each.bytes else "",
        )
        for each in ordered[:most]
    ]
    rest = len(ordered) - len(rows)
    if rest:
        size = sum(each.bytes for each in ordered[len(rows) :])
        rows.append((f"{rest:,} more", "", kilobytes(size) if size else ""))
    return Block(table=table(("Finding", "Advice", "Possible saving"), rows, 1))


def _conditions(ledger: Mapping[str, Any]) -> Block:
    rows = []
    for side, label in (("before", "as found"), ("after", "now")):
        for row in ledger[side]:
            window = row["window"]
            loads = row["load_ms_runs"] or [row["load_ms"]]
            size = f"{window['width']} by {window['height']} at {window['density']:g}"
            count = f"{row['runs']} {'loads' if row['runs'] > 1 else 'load'}"
            rows.append(
                (
                    Cell(row["page"], label),
                    f"{row['device']}, {size}, {row['visit']} visit, {row['link']}",
                    f"{row['load_ms']:,.0f} ms ({min(loads):,.0f} to {max(loads):,.0f}, {count})",
                    f"{row['browser']}, {row['taken'][:16].replace('T', ' ')}",
                )
            )
    words = (
        "Measured in a headless browser with an empty cache, served from the recorded files. "
        "Bytes and requests are the same in every load; measured load times depend on the machine.",
    )
    return Block(
        words=words, table=table(("Page", "Conditions", "Load time (lowest to highest)", "Browser, time"), rows)
    )


def _shortened(text: str) -> str:
    return text if len(text) <= _LONG else f"{text[: _LONG - 1]}…"
