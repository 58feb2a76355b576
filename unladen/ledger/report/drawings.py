"""Bars and stairs as SVG in the text of a page. Lengths are CSS px; one scale for a whole drawing."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape

from markupsafe import Markup

from unladen.ledger.report.content import Figures
from unladen.weigh.records.kinds import KINDS

# One palette for every chart; screens have the same.
COLOURS = {
    "images": "#B4532A",
    "scripts": "#2D4A73",
    "styles": "#B0527E",
    "fonts": "#2F8A86",
    "media": "#C79A2B",
    "documents": "#5B6670",
    "data": "#7C7A3A",
    "other": "#A9A399",
}
_INK, _ROPE, _SADDLE = "#23211D", "#CDBFA8", "#8A4F22"
_WIDTH, _BAR, _STEP = 680, 26, 24
_HATCH = (
    '<pattern id="{id}" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">'
    f'<rect width="6" height="6" fill="#F5F1E8"/><line y2="6" stroke="{_ROPE}" stroke-width="3"/></pattern>'
)


def kilobytes(count: float) -> str:
    """1 kB is 1,000 bytes."""
    return f"{count / 1e6:,.2f} MB" if abs(count) >= 1e6 else f"{count / 1000:,.1f} kB"


def beam(before: Figures, after: Figures, id: str = "gone") -> Markup:
    """Two stacked bars on one scale, as found above and now below; the gap between is what was saved."""
    scale = _WIDTH / max(before.bytes, after.bytes, 1)
    parts = [f"<defs>{_HATCH.format(id=id)}</defs>"]
    for row, (label, figures) in enumerate((("As found", before), ("Now", after))):
        y, x = row * 52 + 16, 0.0
        parts.append(
            f'<text x="0" y="{y - 4}">{label}: {kilobytes(figures.bytes)}, {figures.requests:,} requests</text>'
        )
        for kind in KINDS:
            width = figures.kinds[kind] * scale
            if width > 0:
                parts.append(
                    f'<rect x="{x:.1f}" y="{y}" width="{width:.1f}" height="{_BAR}" fill="{COLOURS[kind]}"/>'
                )
            x += width
        if row and before.bytes > after.bytes:
            gone = (before.bytes - after.bytes) * scale
            parts.append(f'<rect x="{x:.1f}" y="{y}" width="{gone:.1f}" height="{_BAR}" fill="url(#{id})"/>')
    said = f"As found {kilobytes(before.bytes)}, now {kilobytes(after.bytes)}"
    return _svg(parts, 98, said)


def stairs(before: int, steps: Sequence[tuple[str, int, int]], after: int) -> Markup:
    """From found down to now, a step for each (title, bytes, requests)."""
    rows = [("As found", before, 0, _INK), *((t, b, r, _SADDLE) for t, b, r in steps), ("Now", after, 0, _INK)]
    label, room = 210, 110
    scale = (_WIDTH - label - room) / max(before, after, 1)
    parts, remaining = [], float(before)
    for number, (title, size, _, colour) in enumerate(rows):
        y = number * _STEP
        whole = colour == _INK
        start = 0.0 if whole else min(remaining, remaining - size)
        width = max(abs(size) * scale, 1)
        shown = title if len(title) <= 32 else title[:31] + "…"
        parts.append(f'<text x="0" y="{y + 16}">{escape(shown)}</text>')
        parts.append(
            f'<rect x="{label + start * scale:.1f}" y="{y + 4}" width="{width:.1f}" height="{_STEP - 8}" '
            f'fill="{colour}"/>'
        )
        if not whole:
            remaining -= size
        if number < len(rows) - 1:
            edge = label + remaining * scale
            parts.append(
                f'<line x1="{edge:.1f}" x2="{edge:.1f}" y1="{y + _STEP - 4}" y2="{y + _STEP + 4}" stroke="{_ROPE}"/>'
            )
        said = kilobytes(size) if whole else f"{'-' if size >= 0 else '+'}{kilobytes(abs(size))}"
        parts.append(f'<text x="{_WIDTH}" y="{y + 16}" text-anchor="end">{said}</text>')
    spoken = "; ".join(f"{title} {kilobytes(size)}" for title, size, _, _ in rows)
    return _svg(parts, len(rows) * _STEP, f"Stairs: {spoken}")


def legend(figures: Sequence[Figures]) -> Markup:
    """The kinds that occur, with their colours."""
    names = [kind for kind in KINDS if any(each.kinds[kind] for each in figures)]
    return Markup("".join(f'<span class="kind"><i style="background:{COLOURS[k]}"></i>{k}</span>' for k in names))


def _svg(parts: Sequence[str], height: int, said: str) -> Markup:
    label = escape(said, quote=True)
    return Markup(f'<svg viewBox="0 0 {_WIDTH} {height}" role="img" aria-label="{label}">{"".join(parts)}</svg>')
