"""Which part of a picture is ever shown where it covers a frame, such as a background or an img with object-fit.

A picture that covers a frame is scaled to its height or to its width, whichever fills it, and lies in it by a
position p from 0 to 1 (CSS Backgrounds 3, 3.6: the share p of what is over hangs over at the start). A part that
keeps the whole height and begins at p times what is cut off lies just as the whole one does, as long as no frame is
wider than the part.
"""

from __future__ import annotations

import math

from unladen.raster.probe import ImageInfo
from unladen.survey.site_facts import ImageUse, SiteFacts
from unladen.weigh.records.model import Frame

_ROOM = 1.05  # for windows in between, and for scrollbars
_WORTH = 0.9  # of the picture; what is cut off must be a tenth at least
_PHONE_SHAPE = 0.75  # width by height; the media query for phones asks for no wider window
_NEAR = 12  # px, within which a width is sought at which the part begins at a whole px
_SHOWN_BY = {"img", "style"}

Part = tuple[int, ...]


def part_of(evidence: SiteFacts, use: ImageUse, info: ImageInfo) -> Part:
    """Left, top, width and height in px of all that any window shows; none where that is the whole or is not known."""
    frame = frame_of(evidence, use)
    if frame is None or frame.by_height:
        return ()
    return _cut(info, frame, frame.low / _ROOM, frame.high * _ROOM)


def part_on_phones(evidence: SiteFacts, use: ImageUse, info: ImageInfo) -> Part:
    """The same for windows that are narrow, and no wider than 3 by 4."""
    frame = frame_of(evidence, use)
    if frame is None or not frame.on_phones or (frame.by_height and not frame.of_window):
        return ()
    high = max(frame.on_phones, _PHONE_SHAPE / frame.of_window) if frame.by_height else frame.on_phones
    return _cut(info, frame, 0.0, high * _ROOM)


def frame_of(evidence: SiteFacts, use: ImageUse) -> Frame | None:
    """The frames that a picture covers wherever it is shown; None if it is also shown otherwise, or named elsewhere."""
    images = [showing.image for showing in use.sized()]
    covers = all(
        i.fit == "cover" and not i.closed and (i.via == "background" or (i.via == "img" and i.boxed)) for i in images
    )
    named = {each.reference.via for each in evidence.texts.all_uses().get(use.exchange.url, [])}
    frames = [evidence.frame_on(showing.page, use.exchange.url) for showing in use.sized()]
    known = [frame for frame in frames if frame is not None]
    if not covers or not named <= _SHOWN_BY or not known or len(known) < len(frames):
        return None
    frame = Frame.over(known)
    return frame if frame and 0 <= frame.x <= 1 and 0 <= frame.y <= 1 else None


def _cut(info: ImageInfo, frame: Frame, low: float, high: float) -> Part:
    shape = info.width / info.height
    if high < shape:
        width = _even(info.width, math.ceil(info.height * high), frame.x)
        result = (round(frame.x * (info.width - width)), 0, width, info.height)
    elif low > shape:
        height = _even(info.height, math.ceil(info.width / low), frame.y)
        result = (0, round(frame.y * (info.height - height)), info.width, height)
    else:
        return ()
    return result if result[2] * result[3] <= _WORTH * info.width * info.height else ()


def _even(whole: int, wanted: int, position: float) -> int:
    """The least length from `wanted` on with which the part begins at a whole px, or nearly."""

    def off(length: int) -> float:
        start = position * (whole - length)
        return abs(start - round(start))

    lengths = range(min(wanted, whole), min(wanted + _NEAR, whole) + 1)
    return min(lengths, key=lambda length: (round(off(length), 3), length))
