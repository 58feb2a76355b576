"""Strips of pixels that are no more than a gradient of colours, which styles draw by themselves."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from unladen.raster.probe import ImageRefused, probe
from unladen.survey.findings import Finding, PlaceFacts
from unladen.survey.site_facts import ImageUse, places_of
from unladen.survey.spec import Context, Found, Surveyor

_NARROW, _LONGEST = 64, 4_000  # px
_SAME = 1.5  # levels of 255 by which a pixel may be off
_MOST_STOPS = 6
_Line = NDArray[np.float64]


def find(context: Context) -> Found:
    """One piece of advice for each background that is a gradient and nothing else."""
    findings = []
    for use in context.evidence.images.values():
        if use.showings and all(showing.image.via == "background" for showing in use.showings):
            gradient = _gradient_of(context, use)
            if gradient:
                findings.append(_advice(use, gradient))
    return Found(tuple(findings))


def _gradient_of(context: Context, use: ImageUse) -> str:
    body = context.evidence.capture.body(use.exchange)
    try:
        info = probe(body)
    except ImageRefused:
        return ""
    if info.frames > 1 or min(info.width, info.height) > _NARROW or max(info.width, info.height) > _LONGEST:
        return ""
    with Image.open(io.BytesIO(body)) as image:
        return gradient(np.asarray(image.convert("RGBA"), dtype=float))


def gradient(pixels: NDArray[np.float64]) -> str:
    """The CSS gradient (CSS Images 3, 3.1) that draws these pixels (height, width, 4: 0 to 255); empty if none does.

    Every pixel is off by one and a half levels at most, with at most six stops. One colour alone is no gradient.
    """
    for way, line in (("to bottom", pixels), ("to right", pixels.transpose(1, 0, 2))):
        if len(line) > 2 and np.ptp(line, axis=1).max() <= _SAME:
            first = line[:, 0, :]
            stops = _stops(first)
            if len(stops) > _MOST_STOPS or np.ptp(first, axis=0).max() <= _SAME:
                return ""
            last = len(first) - 1
            stops_text = [f"{_colour(first[at])}{_share(at, last)}" for at in stops]
            return f"linear-gradient({way}, {', '.join(stops_text)})"
    return ""


def _stops(line: _Line) -> list[int]:
    """Where straight pieces of a line of colours meet: the greedy longest ones that keep every pixel in bounds."""
    stops, last = [0], len(line) - 1
    while stops[-1] < last and len(stops) <= _MOST_STOPS:
        start = end = stops[-1]
        while end < last and _straight(line, start, end + 1):
            end += 1
        stops.append(end)
    return stops


def _straight(line: _Line, start: int, end: int) -> bool:
    share = np.linspace(0, 1, end - start + 1)[:, None]
    drawn = line[start] * (1 - share) + line[end] * share
    return bool(np.abs(drawn - line[start : end + 1]).max() <= _SAME)


def _colour(rgba: _Line) -> str:
    red, green, blue, alpha = (round(float(value)) for value in rgba)
    return f"#{red:02x}{green:02x}{blue:02x}" + (f"{alpha:02x}" if alpha < 255 else "")


def _share(at: int, last: int) -> str:
    return "" if at in (0, last) else f" {at / last * 100:.4g}%"


def _advice(use: ImageUse, gradient: str) -> Finding:
    return Finding(
        id=f"strip:{use.path}",
        excess="picture-strip",
        kind="images",
        title=f"{use.name} is a gradient that CSS can draw",
        why=f"A request and {use.exchange.size:,} bytes for what a line of the style sheet does.",
        pages=tuple(use.pages),
        bytes=0,
        of_bytes=0,
        requests=0,
        tried=False,
        facts=PlaceFacts(where=places_of([use], use.pages)),
        advice=f"Write background-image: {gradient}; in its place, and background-size as large as the picture.",
        files=(use.path,),
    )


SURVEYOR = Surveyor("picture strips", find, (PlaceFacts,), advises=True)
