"""From widths measured in windows of several sizes to the `sizes` attribute, and which file a browser then takes.

HTML Standard, 4.8.4.2.2 "Sizes attributes". Layouts are linear between the points where something changes, so what was
measured splits into lines; two that cross between two measured windows meet where they cross.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

_TOLERANCE = 0.75  # CSS px
PHONE_WINDOW = 600  # CSS px; what is wider counts as a tablet


@dataclass(frozen=True, slots=True)
class Line:
    """`slope` x window width + `offset` (CSS px), in windows up to `until` (CSS px; 0: in all wider ones)."""

    slope: float
    offset: float
    until: int = 0

    def at(self, window: float) -> float:
        """The width in CSS px."""
        return self.slope * window + self.offset

    def text(self) -> str:
        """As a CSS length, rounded up."""
        share = math.ceil(self.slope * 10_000 - 1e-6) / 100
        if abs(share) < 0.02:
            return f"{math.ceil(self.at(1000) - 0.01)}px"
        if abs(self.offset) < 0.5:
            return f"{share:g}vw"
        offset = math.ceil(self.offset - 0.01)
        return f"calc({share:g}vw {'+' if offset >= 0 else '-'} {abs(offset)}px)"


def lines_of(points: Sequence[tuple[int, float]]) -> list[Line]:
    """The lines through (window, width) points in the order of windows; windows where it is hidden do not count."""
    shown = [(window, width) for window, width in points if width > 0]
    runs: list[list[tuple[int, float]]] = []
    for point in shown:
        if runs and _on_one_line([*runs[-1], point]):
            runs[-1].append(point)
        else:
            runs.append([point])
    lines = [_through(run) for run in runs]
    return [
        replace(line, until=_boundary(line, lines[i + 1], runs[i][-1][0], runs[i + 1][0][0]))
        if i + 1 < len(lines)
        else line
        for i, line in enumerate(lines)
    ]


def _through(run: list[tuple[int, float]]) -> Line:
    (x1, y1), (x2, y2) = run[0], run[-1]
    slope = (y2 - y1) / (x2 - x1) if x2 > x1 else 0.0
    if len(run) == 2 and x2 - x1 == 1:  # too near for a slope
        return Line(0.0, max(y1, y2))
    return Line(slope, y1 - slope * x1)


def _on_one_line(run: list[tuple[int, float]]) -> bool:
    line = _through(run)
    # What only two points far apart tell may be a kink between them; a third one confirms the line.
    return all(abs(line.at(window) - width) <= _TOLERANCE for window, width in run)


def _boundary(left: Line, right: Line, last: int, first: int) -> int:
    """Up to which window the left of two neighbouring lines holds."""
    if left.slope != right.slope:
        crossing = (right.offset - left.offset) / (left.slope - right.slope)
        if last <= crossing <= first:
            return math.floor(crossing)
    middle = (last + first) / 2
    return first - 1 if left.at(middle) >= right.at(middle) else last


def capped(lines: Sequence[Line], factor: float) -> list[Line]:
    """Lines that ask for less on phones: `factor` of the width in windows of up to 600 CSS px."""
    out: list[Line] = []
    below = 0
    for line in lines:
        if below < PHONE_WINDOW:
            until = min(line.until or PHONE_WINDOW, PHONE_WINDOW)
            out.append(Line(line.slope * factor, line.offset * factor, until))
        if not line.until or line.until > PHONE_WINDOW:
            out.append(line)
        below = line.until or 10**9
    return out


def sizes_text(lines: Sequence[Line]) -> str:
    """The value of a `sizes` attribute."""
    parts = [f"(max-width: {line.until}px) {line.text()}" for line in lines[:-1]]
    return ", ".join([*parts, lines[-1].text()])


def width_at(lines: Sequence[Line], window: float) -> float:
    """The width in CSS px in a window."""
    return next((line for line in lines if line.until and window <= line.until), lines[-1]).at(window)


def chosen(widths: Sequence[int], size: float, density: float) -> int:
    """The file's width (px) that Chromium takes for a box of `size` CSS px on a screen of this density.

    The standard leaves the choice to the browser. This one takes the narrowest that fills the box, or else the widest;
    the tests ask it.
    """
    return min((width for width in widths if width >= size * density), default=max(widths))
