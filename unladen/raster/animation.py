"""Animated GIF and PNG as animated WebP (RFC 9649, section 2.7.1.1), with the same frames, times and repeats."""

from __future__ import annotations

import io
from collections.abc import Iterator

from PIL import Image, ImageSequence

from unladen.raster.probe import ImageInfo, ImageRefused, open_image
from unladen.raster.similarity import similarity

_SHORTEST, _TAKEN_AS = 10, 100  # ms; browsers show what claims to be shorter at ten frames a second
_QUALITIES = (75, 88)
_ALL_BUT_EXACT = 0.9999  # colours under full transparency may differ


def animated_webp(data: bytes, info: ImageInfo, target: float) -> tuple[bytes, int, float]:
    """The file, its quality (0: exact) and the likeness of its worst frame; raises `ImageRefused`.

    Exact coding is tried beside the lossy one unless it alone is wanted (`target` 1), and the smaller is taken.
    """
    frames, durations = _frames(data)
    loops = _loops(data, info)
    exact = _save(frames, durations, loops, lossless=True, quality=60)
    if min(similarity(a, b) for a, b in _pairs(frames, durations, exact)) < _ALL_BUT_EXACT:
        raise ImageRefused("would not play the same as WebP")
    if target >= 1:
        return exact, 0, 1.0
    for quality in _QUALITIES:
        lossy = _save(frames, durations, loops, lossless=False, quality=quality)
        likeness = min(similarity(a, b) for a, b in _pairs(frames, durations, lossy))
        if likeness >= target and len(lossy) < len(exact):
            return lossy, quality, likeness
    return exact, 0, 1.0


def _frames(data: bytes) -> tuple[list[Image.Image], list[int]]:
    image = open_image(data)
    frames, durations = [], []
    try:
        size = image.size
        for frame in ImageSequence.Iterator(image):
            if frame.size != size:  # known before anything of it is unpacked
                raise ImageRefused("has frames of different sizes")
            frames.append(frame.convert("RGBA"))
            duration = int(frame.info.get("duration") or 0)
            durations.append(duration if duration > _SHORTEST else _TAKEN_AS)
    except ImageRefused:
        raise
    except Exception as error:
        raise ImageRefused(f"is damaged or cut off ({error})") from error
    if all(frame.getchannel("A").getextrema() == (255, 255) for frame in frames):
        frames = [frame.convert("RGB") for frame in frames]
    return frames, durations


def _loops(data: bytes, info: ImageInfo) -> int:
    """How often it plays, 0 for endlessly. A GIF counts repeats after the first time, PNG and WebP count all."""
    loop = open_image(data).info.get("loop")
    if info.format == "GIF":
        return 1 if loop is None else 0 if loop == 0 else int(loop) + 1
    return int(loop or 0)


def _save(frames: list[Image.Image], durations: list[int], loops: int, *, lossless: bool, quality: int) -> bytes:
    out = io.BytesIO()
    frames[0].save(
        out, "WEBP", save_all=True, append_images=frames[1:], duration=durations, loop=loops,
        lossless=lossless, quality=quality, method=4, minimize_size=lossless,
    )  # fmt: skip
    return out.getvalue()


def _pairs(frames: list[Image.Image], durations: list[int], made: bytes) -> Iterator[tuple[Image.Image, Image.Image]]:
    """Frames as found and as made that are on at the same time: equal neighbours may have become one."""
    result, starts, clock = [], [], 0
    with Image.open(io.BytesIO(made)) as image:
        for frame in ImageSequence.Iterator(image):
            result.append(frame.convert(frames[0].mode))
            starts.append(clock)
            clock += int(frame.info["duration"])
    time = 0
    step = max(1, len(frames) // 12)
    for number, (frame, duration) in enumerate(zip(frames, durations, strict=True)):
        if number % step == 0:
            on = max(i for i, start in enumerate(starts) if start <= time)
            yield frame, result[on]
        time += duration


def plays_for_ever(data: bytes) -> bool:
    """Whether a file is a GIF of several frames without end, of which nothing shines through; raises `ImageRefused`."""
    image = open_image(data)
    if image.format != "GIF" or getattr(image, "n_frames", 1) < 2 or image.info.get("loop") != 0:
        return False
    return _frames(data)[0][0].mode == "RGB"
