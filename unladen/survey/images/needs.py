"""How many pixels of an image are ever shown."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from unladen.plan import Effort
from unladen.raster.probe import ImageInfo
from unladen.raster.sight import usual_density
from unladen.remedies import ImageSettings
from unladen.survey.site_facts import ImageUse, Showing
from unladen.weigh.records.conditions import DEVICES

# A picture as wide as the widest window weighed grows with it on larger screens (common practice, no source).
_FULL_WIDTH_SHARE, _FULL_WIDTH = 0.95, 1920
_ALIKE = (0.75, 1.3)  # times a window's width, for windows in which a page is much the same
_STAYS = 0.05  # CSS px by which the height of a box may differ without anything around it moving


Widths = Sequence[tuple[int, float]]


def density_of(effort: Effort, settings: ImageSettings) -> float:
    """Device px kept per CSS px; 0 for what the weighed devices can show."""
    return settings.density or effort.density


def needed_width(
    use: ImageUse, effort: Effort, settings: ImageSettings, elsewhere: Callable[[str], Widths] = lambda _: ()
) -> tuple[int, str]:
    """The width in px that all showings need, or 0 and the reason why it cannot be told.

    `elsewhere` gives for a page (window, shown width) in CSS px in windows that were only measured, not weighed.
    """
    widest = max((s.device.width for s in use.showings), default=0)
    images = [s.image for s in use.sized() if s.image.via == "img"]
    if any(not i.free for i in images) and any(i.free and not i.reservable and not i.reserved for i in images):
        return 0, "gives its box its size in one place and not in another"
    needed = 0.0
    for showings in use.places().values():
        if all(s.image.paint_width <= 0 for s in showings):
            return 0, "is in the page but was not shown at any size"
        for showing in showings:
            if reason := _obstacle(showing):
                return 0, reason
            needed = max(needed, _wanted(showing, widest, effort, settings))
    if needed:
        needed = max(needed, *(_unweighed(use, elsewhere(page), effort, settings) for page in use.pages))
    return math.ceil(needed), "" if needed else "was loaded but not shown"


def _obstacle(showing: Showing) -> str:
    image = showing.image
    if image.by_srcset:
        return "is already offered in several sizes"
    if not image.scalable:
        return "is shown in a way that depends on its own size"
    if not image.natural_width:
        return "could not be decoded by the browser"
    if image.via == "img" and not image.free and not image.reservable:
        return "gives its box its size"
    return ""


def _wanted(showing: Showing, widest: float, effort: Effort, settings: ImageSettings) -> float:
    image = showing.image
    width = image.paint_width * (density_of(effort, settings) or showing.device.density)
    full = showing.device.width == widest and image.paint_width >= _FULL_WIDTH_SHARE * widest
    if full:
        width = max(width, _FULL_WIDTH)
    return min(width, cap_of(showing, settings, full=full))


def _unweighed(use: ImageUse, widths: Widths, effort: Effort, settings: ImageSettings) -> float:
    """What the usual devices need on which nobody weighed, such as tablets, by how wide it is in windows about as
    wide.
    """
    weighed = [showing.device.width for showing in use.showings]
    needed = 0.0
    for device in DEVICES.values():
        alike = (device.width * _ALIKE[0], device.width * _ALIKE[1])
        if not any(alike[0] <= width <= alike[1] for width in weighed):
            shown = [width for window, width in widths if alike[0] <= window <= alike[1]]
            needed = max([needed, *shown])
    return min(needed * (density_of(effort, settings) or 1), settings.content_width)


def cap_of(showing: Showing, settings: ImageSettings, *, full: bool = False) -> int:
    """The most px that a showing may have by the user's settings."""
    if showing.device.mobile and showing.device.width <= 600:
        return settings.phone_width
    return settings.background_width if full or showing.image.via != "img" else settings.content_width


def even_width(info: ImageInfo, wanted: float, settings: ImageSettings, tall: float = 1000) -> int:
    """The least width (px) from `wanted` on at which the height comes out nearly whole, so that the shape stays.

    `tall`: the height in CSS px at which it is shown at most, which is to stay to a twentieth of a px; where no width
    near by keeps it, the nearest to it is taken. No search goes beyond a cap of the settings; from one it goes down.

    A shape that is off by a fraction of a pixel moves what stands below by one, and shifts every detail of the picture.
    """
    first = min(math.ceil(wanted), info.width)
    best, least = info.width, 1.0
    caps = (settings.phone_width, settings.content_width, settings.background_width)
    most = min([math.ceil(first * 1.15) + 8, *(cap for cap in caps if cap >= first)])
    candidates = range(first, min(info.width, most) + 1)
    if first in caps:
        candidates = range(first, max(1, math.floor(first * 0.94)), -1)
    for width in candidates:
        height = info.height * width / info.width
        error = abs(round(height) - height) / height
        if error < least:
            best, least = width, error
        if keeps_shape(info, width, tall):
            break
    return best


def keeps_shape(info: ImageInfo, width: int, tall: float) -> bool:
    """Whether a box that takes its shape from a file `width` px wide stays as high as it was, `tall` CSS px at most."""
    height = info.height * width / info.width
    return abs(round(height) - height) / height * tall < _STAYS


def tallest(use: ImageUse) -> float:
    """The height in CSS px at which a picture is shown at most."""
    return max((showing.image.paint_height for showing in use.sized()), default=0.0)


def density_at(use: ImageUse, width: int) -> float:
    """The px per CSS px that a file of this width has where it is shown widest, as likeness tells densities apart."""
    widest = max((showing.image.paint_width for showing in use.sized()), default=0.0)
    return usual_density(width / widest) if widest > 0 else 1.0


def veil_over(use: ImageUse) -> tuple[int, ...]:
    """What lies over a picture wherever it is shown, at its weakest; nothing where that is so anywhere."""
    veils = [tuple(showing.image.veil) for showing in use.sized()]
    if not veils or not all(veils) or len({veil[:3] for veil in veils}) > 1:
        return ()
    return min(veils, key=lambda veil: veil[3])
