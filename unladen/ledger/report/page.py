"""The report as one HTML file that needs nothing else."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from html import escape
from typing import Any

from unladen.glossary import OF_REPORTS, TERMS
from unladen.ledger.document import carried_out
from unladen.ledger.report.content import Figures, Report, figures_of, small_picture
from unladen.ledger.report.drawings import beam, kilobytes, legend, stairs
from unladen.remedies import remedy_named

_VISITS = 10_000
# Rows of some 250 pages; browsers print no more than twice that, and nobody reads it. What is beyond is summed up.
_MOST_CHANGES, _MOST_LEFT = 8000, 2000
_POLICY = "default-src 'none';img-src data:;style-src 'unsafe-inline'"
_STYLE = """
:root{color-scheme:light}
*{box-sizing:border-box}
body{margin:0;background:#F5F1E8;color:#23211D;font:15px/1.5 system-ui,sans-serif;overflow-wrap:anywhere}
main,header,footer{max-width:780px;margin:0 auto;padding:0 24px}
header{padding-top:32px;display:flex;gap:20px;align-items:center}
header img{max-width:160px;max-height:80px}
h1{font-size:28px;line-height:1.2;margin:0}
h2{font-size:19px;margin:36px 0 8px;border-bottom:1px solid #CDBFA8;padding-bottom:4px;break-after:avoid}
h3{font-size:15px;margin:18px 0 4px;break-after:avoid}
p{margin:8px 0}
.soft,small{color:#5F594F}
.big{font-size:21px;font-weight:600}
table{border-collapse:collapse;width:100%;font-variant-numeric:tabular-nums;margin:10px 0}
th,td{text-align:left;vertical-align:top;padding:5px 8px 5px 0;border-bottom:1px solid #DDD3C2}
th{font-weight:600}
.n{text-align:right;white-space:nowrap;padding-right:0;padding-left:12px}
tr{break-inside:avoid}
svg{width:100%;height:auto;display:block;margin:10px 0}
svg text{font:13px system-ui,sans-serif;fill:#23211D}
.kind{margin-right:14px;white-space:nowrap}
.kind i{display:inline-block;width:10px;height:10px;margin-right:5px}
.pair{display:grid;grid-template-columns:1fr 1fr;gap:14px;break-inside:avoid;margin:12px 0 22px}
.pair figure{margin:0}
.pair img{width:100%;border:1px solid #CDBFA8;display:block}
figcaption{font-size:13px;color:#5F594F}
dt{font-weight:600;margin-top:8px}
dd{margin:0}
nav ul{list-style:none;padding:0;margin:14px 0 0}
nav li{display:inline-block;margin-right:16px}
a{color:#8A4F22}
footer{padding:28px 24px 40px}
@media print{body{background:#fff;font-size:12px}main,header,footer{max-width:none;padding-left:0;padding-right:0}header{padding-top:0}}
@media (max-width:520px){main,header,footer{padding-left:14px;padding-right:14px}.wide{overflow-x:auto}}
"""


def report_html(report: Report) -> str:
    """All of it; what people and sites have written is text in it and nothing else."""
    ledger = report.ledger
    words = "".join(f"<dt>{_text(term)}</dt><dd>{_text(TERMS[term])}</dd>" for term in OF_REPORTS)
    sections = {
        "Summary": _summary(report),
        "Savings by remedy": _what_brought_it(report),
        "Pages": _pages(ledger),
        "Before and after": _pictures(report),
        "Changes and reasons": _changes(ledger),
        "Unchanged, with reasons": _left_out(report),
        "Further advice": _by_hand(report),
        "Measurement": _conditions(ledger),
        "Glossary": f"<dl>{words}</dl>",
    }
    shown = {title: body for title, body in sections.items() if body}
    links = "".join(f'<li><a href="#part-{n}">{_text(title)}</a></li>' for n, title in enumerate(shown, 1))
    parts = [
        "<!doctype html>",
        f'<html lang="{escape(report.lang, quote=True)}"><head><meta charset="utf-8">',
        '<meta name="viewport" content="width=device-width,initial-scale=1">',
        f'<meta http-equiv="Content-Security-Policy" content="{_POLICY}">',
        f"<title>{_text(report.site)}: lighter pages</title><style>{_STYLE}</style></head><body>",
        _head(report),
        f'<main><nav aria-label="Parts"><ul>{links}</ul></nav>',
        *(
            f'<section id="part-{n}"><h2>{_text(title)}</h2>{body}</section>'
            for n, (title, body) in enumerate(shown.items(), 1)
        ),
        "</main>",
        f'<footer class="soft">Made with Unladen Mule{f" on {_text(report.made)}" if report.made else ""}.</footer>',
        "</body></html>",
    ]
    return "\n".join(parts) + "\n"


def _text(value: Any) -> str:
    return escape(" ".join(str(value).split()), quote=True)


def _head(report: Report) -> str:
    logo = report.sender.logo
    picture = (
        f'<img src="{escape(logo, quote=True)}" alt="{_text(report.sender.name) or "Logo"}">'
        if logo.startswith("data:image/")
        else ""
    )
    by = f'<p class="soft">by {_text(report.sender.name)}</p>' if report.sender.name.strip() else ""
    return f"<header>{picture}<div><h1>{_text(report.site)}, made lighter</h1>{by}</div></header>"


def _sides(ledger: Mapping[str, Any], device: str = "") -> tuple[Figures, Figures]:
    before, after = ([row for row in ledger[side] if device in ("", row["device"])] for side in ("before", "after"))
    return figures_of(before), figures_of(after)


def _summary(report: Report) -> str:
    ledger, lines = report.ledger, []
    for words in filter(str.strip, report.sender.words.split("\n")):
        lines.append(f"<p>{_text(words)}</p>")
    both = _sides(ledger)
    pages = len(dict.fromkeys(row["page"] for row in ledger["before"]))
    for device in report.devices:
        before, after = _sides(ledger, device)
        share = 1 - after.bytes / before.bytes if before.bytes else 0
        of = f"the {pages} pages" if pages > 1 else "the page"
        lines.append(
            f'<p class="big">On a {_text(device)}, {of} weighed {kilobytes(before.bytes)}. '
            f"Now: {kilobytes(after.bytes)}, {abs(share):.0%} {'less' if share >= 0 else 'more'}.</p>"
        )
        lines.append(_table(("Measure", "As found", "Now", "Difference"), _figures(ledger, device), numbers=3))
        lines.append(beam(before, after, f"gone-{len(lines)}"))
    checks = ledger["checks"]
    lines.append(f'<p class="soft">{legend(both)}</p>')
    lines.append(
        f"<p>The check compared every page with the page as found, at rest and in use. "
        f"{checks['passed']} of {checks['pairs']} page checks (a page on a device) found no difference"
        f"{_aside(checks['set_aside'])}.</p>"
    )
    return "".join(lines)


def _aside(count: int) -> str:
    if not count:
        return ""
    changes, were = ("changes", "were") if count > 1 else ("change", "was")
    return f"; {count} {changes} that made a difference {were} set aside"


def _figures(ledger: Mapping[str, Any], device: str) -> list[tuple[str, str, str, str]]:
    """What a visitor of a device loads: name, as found, now, difference."""
    before, after = _sides(ledger, device)
    rows = [
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
        found, now = (sum(stop[side]["bytes"] for stop in journey["pages"]) for side in ("found", "now"))
        rows.append(_figure("Journey through all pages", found, now, kilobytes))
    again = journey["again"]
    name = f"Repeat visit to {again['page']}"
    return [*rows, _figure(name, again["found"]["bytes"], again["now"]["bytes"], kilobytes)]


def _figure(name: str, before: float, after: float, said: Callable[[Any], str]) -> tuple[str, str, str, str]:
    if said(before) == said(after):
        return _text(name), said(before), said(after), "none"
    more = "more" if after > before else "less"
    return _text(name), said(before), said(after), f"{said(abs(after - before))} {more}"


def _what_brought_it(report: Report) -> str:
    before, after = _sides(report.ledger)
    note = (
        '<p class="soft">Sum over all pages and devices. '
        "As found minus all savings equals the weight now, to the byte.</p>"
    )
    rows = [(_text(title), f"{size:,}", f"{count:,}" if count else "") for title, size, count in report.steps()]
    table = _table(("Remedy", "Bytes saved", "Requests saved"), rows, numbers=2)
    return note + stairs(before.bytes, report.steps(), after.bytes) + table


def _pages(ledger: Mapping[str, Any]) -> str:
    now = {(row["page"], row["device"]): row for row in ledger["after"]}
    links = list(dict.fromkeys(link for row in ledger["before"] for link in row["modelled_load_ms"]))[-2:-1]
    rows = []
    for row in ledger["before"]:
        new = now.get((row["page"], row["device"]), row)
        seconds = [
            f"{row['modelled_load_ms'].get(link, 0) / 1000:.1f} → {new['modelled_load_ms'].get(link, 0) / 1000:.1f} s"
            for link in links
        ]
        rows.append(
            (
                f"{_text(row['page'])} <small>{_text(row['device'])}</small>",
                kilobytes(row["transferred"]),
                kilobytes(new["transferred"]),
                f"{row['requests']} → {new['requests']}",
                *seconds,
            )
        )
    return _table(("Page", "As found", "Now", "Requests", *links), rows, numbers=3 + len(links))


def _pictures(report: Report) -> str:
    found = []
    for shot in report.shots:
        before, after = small_picture(shot.before), small_picture(shot.after)
        if before and after:
            place = f"{_text(shot.page)} on a {_text(shot.device)}"
            figures = (
                f'<figure><img src="{url}" alt="{place}, {said}"><figcaption>{said.capitalize()}</figcaption></figure>'
                for url, said in ((before, "as found"), (after, "now"))
            )
            found.append(f"<h3>{place}</h3><div class=pair>{''.join(figures)}</div>")
    return "".join(found)


def _changes(ledger: Mapping[str, Any]) -> str:
    by_remedy: dict[str, list[Mapping[str, Any]]] = {}
    for change in carried_out(ledger):
        by_remedy.setdefault(change["remedy"], []).append(change)
    parts = []
    room = _MOST_CHANGES
    for name, changes in sorted(by_remedy.items(), key=lambda row: -sum(c["saved"]["bytes"] for c in row[1])):
        remedy = remedy_named(name)
        detail = remedy.detail or remedy.what
        files = [target for change in changes for target in change["targets"]]
        saved = sum(change["saved"]["bytes"] for change in changes)
        parts.append(f"<h3>{_text(remedy.title)}</h3><p>{_text(detail)} <small>{kilobytes(saved)} saved.</small></p>")
        ordered = sorted(changes, key=lambda change: -change["saved"]["bytes"])
        shown, rest = ordered[:room], ordered[room:]
        room -= len(shown)
        rows = [(_text(", ".join(c["targets"]) or remedy.title), f"{c['saved']['bytes']:,}") for c in shown]
        if rest:
            left = sum(change["saved"]["bytes"] for change in rest)
            rows.append((f"{len(rest):,} more with smaller savings; the ledger lists them all", f"{left:,}"))
        if files:
            parts.append(_table(("File", "Bytes saved"), rows, numbers=1))
    return "".join(parts)


def _left_out(report: Report) -> str:
    rows = [
        (_text(r.what), _text(f"{r.who} did not want it" + (f": {r.why}" if r.why else ""))) for r in report.refused
    ]
    for change in report.ledger["changes"]:
        title = remedy_named(change["remedy"]).title
        if change["on"] and change["standing"] == "set aside":
            rows.append((f"{_text(title)}: {_text(', '.join(change['targets']))}", _text(change["reason"])))
        rows += [
            (f"{_text(title)}: {_text(part['target'])}", _text(part["reason"]))
            for part in change["aside"]
            if change["standing"] != "set aside"
        ]
    rows += [
        (_text(notice["name"]), _text(notice["reason"])) for notice in report.ledger["notices"] if notice["name"]
    ]
    rows = list(dict.fromkeys(rows))
    if len(rows) > _MOST_LEFT:
        rows[_MOST_LEFT:] = [(f"{len(rows) - _MOST_LEFT:,} more", "The ledger lists them all.")]
    return _table(("File or change", "Reason"), rows)


def _by_hand(report: Report) -> str:
    rows = [
        (_text(left.what), _text(left.advice), kilobytes(left.bytes) if left.bytes else "")
        for left in sorted(report.left, key=lambda left: -left.bytes)
    ]
    return _table(("Finding", "Advice", "Possible saving"), rows, numbers=1)


def _conditions(ledger: Mapping[str, Any]) -> str:
    rows = []
    for side, label in (("before", "as found"), ("after", "now")):
        for row in ledger[side]:
            window = row["window"]
            runs = row["load_ms_runs"] or [row["load_ms"]]
            size = f"{window['width']} by {window['height']} at {window['density']:g}"
            rows.append(
                (
                    f"{_text(row['page'])} <small>{label}</small>",
                    f"{_text(row['device'])}, {size}, {_text(row['visit'])} visit, {_text(row['link'])}",
                    f"{row['load_ms']:,.0f} ms ({min(runs):,.0f} to {max(runs):,.0f}, {row['runs']} loads)",
                    f"Chromium {_text(row['browser'])}, {_text(row['taken'][:16].replace('T', ' '))}",
                )
            )
    note = (
        "<p>Measured in a headless browser with an empty cache, served from the recorded files. "
        "Bytes and requests are the same in every load; measured load times depend on the machine.</p>"
    )
    return note + _table(("Page", "Conditions", "Load time (lowest to highest)", "Browser, time"), rows)


def _table(heads: Sequence[str], rows: Iterable[Sequence[str]], numbers: int = 0) -> str:
    """A table, of which the last so many columns hold figures; nothing where there are no rows."""
    first = len(heads) - numbers
    mark = [' class="n"' if i >= first else "" for i in range(len(heads))]
    body = "".join(
        "<tr>" + "".join(f"<td{mark[i]}>{cell}</td>" for i, cell in enumerate(row)) + "</tr>" for row in rows
    )
    if not body:
        return ""
    head = "".join(f'<th scope="col"{mark[i]}>{_text(name)}</th>' for i, name in enumerate(heads))
    return f'<div class="wide" tabindex="0"><table><thead><tr>{head}</tr></thead><tbody>{body}</tbody></table></div>'
