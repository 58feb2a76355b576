"""How large the bitmap of an image is painted, from what the page tells and the file says."""

from __future__ import annotations

from unladen.capture import Capture
from unladen.raster.probe import ImageRefused, probe
from unladen.weigh.records.model import ShownImage


def with_natural_size(capture: Capture, image: ShownImage) -> ShownImage:
    """Natural sizes come from the files: what a page reports is corrected by density, and CSS images report none."""
    exchange = capture.lookup(image.url)
    if exchange is None:
        return image
    try:
        info = probe_cached(capture, exchange.digest)
    except ImageRefused:
        return image
    if image.via in ("background", "css", "poster", "svg", "input"):
        image.natural_width, image.natural_height = info
        if image.via == "background":
            paint_background(image)
    elif image.natural_width:
        image.natural_width, image.natural_height = info
    return image


_probed: dict[str, tuple[int, int]] = {}


def probe_cached(capture: Capture, digest: str) -> tuple[int, int]:
    """Width and height in px of an image of the capture; raises `ImageRefused`."""
    if digest not in _probed:
        info = probe(capture.store.get(digest))
        _probed[digest] = (info.width, info.height)
    return _probed[digest]


def paint_background(image: ShownImage) -> None:
    """The painted size of a background bitmap (CSS Backgrounds and Borders Level 3, 3.9 background-size)."""
    width, height = image.paint_width, image.paint_height
    across, down = width / image.natural_width, height / image.natural_height
    if image.fit in ("cover", "contain"):
        scale = max(across, down) if image.fit == "cover" else min(across, down)
        image.paint_width, image.paint_height = image.natural_width * scale, image.natural_height * scale
        return
    first, _, second = image.fit.partition(" ")
    wide, high = _length(first, width), _length(second or "auto", height)
    ratio = image.natural_width / image.natural_height
    if wide is None and high is None:
        wide, high = float(image.natural_width), float(image.natural_height)
    image.paint_width = wide if wide is not None else (high or 0) * ratio
    image.paint_height = high if high is not None else image.paint_width / ratio


def _length(value: str, whole: float) -> float | None:
    if value.endswith("%"):
        return float(value[:-1]) / 100 * whole
    if value.endswith("px"):
        return float(value[:-2])
    return None
