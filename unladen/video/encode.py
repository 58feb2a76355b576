"""A film made smaller: the coarsest coding that holds a target of similarity, scaled to what is shown."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, ClassVar

from unladen.raster.recode import Recoded
from unladen.video.probe import VideoInfo, VideoRefused, probe_film, reading, run, written

VERSION = 1
SECONDS = 900  # for one film, all tries together
_ENCODE_WITHIN, _COMPARE_WITHIN = 400, 200  # s
# Constant rate factors from coarse to fine, the one to try first in the middle (SVT-AV1 0 to 63, x264 0 to 51).
_STEPS = {"AV1": (50, 43, 36, 30), "H264": (31, 28, 25, 22)}
_FIRST = 1
_CODERS = {
    "AV1": ("-c:v", "libsvtav1", "-preset", "8"),
    "H264": ("-c:v", "libx264", "-preset", "medium", "-profile:v", "high"),
}
_KEPT_SOUND = ("aac", "mp3")
_SSIM = re.compile(r"All:([0-9.]+)")


@dataclass(frozen=True, slots=True)
class VideoRecipe:
    """What to make of a film: `format` is AV1, H264 (both in MP4) or PNG, its first picture.

    `width` in px (0: as it is), `similarity` the mean SSIM of all frames to hold; `mute`: without its sound.
    """

    name: ClassVar[str] = "film"
    version: ClassVar[int] = VERSION
    seconds: ClassVar[float] = SECONDS
    memory: ClassVar[int] = 3_000_000_000

    format: str = "H264"
    width: int = 0
    similarity: float = 0.95
    mute: bool = False

    def as_json(self) -> dict[str, Any]:
        """Plain values, the same for the same recipe."""
        return asdict(self)

    def run(self, data: bytes) -> Recoded:
        """The smaller file; raises `VideoRefused`."""
        return film(data, self)


def film(data: bytes, recipe: VideoRecipe) -> Recoded:
    """The smaller file; raises `VideoRefused` with the reason when there is none."""
    info = probe_film(data)
    width, height = _size(info, recipe.width)
    with written(data) as (folder, source):
        if recipe.format == "PNG":
            return _first_picture(info, source, folder / "first.png", width, height)
        tries = 0

        def attempt(factor: int) -> Recoded:
            nonlocal tries
            tries += 1
            target = folder / f"out-{factor}.mp4"
            _encode(info, source, target, recipe, width, height, factor)
            likeness = _likeness(info, source, target, width, height)
            return Recoded(target.read_bytes(), recipe.format, width, height, factor, likeness, tries)

        made = _coarsest(attempt, _STEPS[recipe.format], recipe.similarity)
    if len(made.data) >= len(data):
        raise VideoRefused("would not become smaller")
    return made


def _coarsest(attempt: Callable[[int], Recoded], steps: tuple[int, ...], target: float) -> Recoded:
    """The coarsest step that holds the target, or the finest if none does."""
    made = attempt(steps[_FIRST])
    if made.likeness >= target:
        coarser = attempt(steps[_FIRST - 1])
        return coarser if coarser.likeness >= target else made
    for finer in steps[_FIRST + 1 :]:
        if (made := attempt(finer)).likeness >= target:
            break
    return made


def _size(info: VideoInfo, width: int) -> tuple[int, int]:
    """Even sides, as the coders want them, never larger than as found."""
    wide = min(width or info.width, info.width)
    return max(2, wide // 2 * 2), max(2, round(info.height * wide / info.width) // 2 * 2)


def _encode(
    info: VideoInfo, source: Path, target: Path, recipe: VideoRecipe, width: int, height: int, factor: int
) -> None:
    sound = ["-an"]
    if info.sound and not recipe.mute:
        sound = ["-c:a", "copy"] if info.sound in _KEPT_SOUND else ["-c:a", "aac", "-b:a", "128k"]
    coder = [*_CODERS[recipe.format], "-crf", str(factor), "-pix_fmt", "yuv420p"]
    if recipe.format == "H264":
        coder += ["-threads", "2"]
    plain = ["-map_metadata", "-1", "-fflags", "+bitexact", "-flags:v", "+bitexact", "-movflags", "+faststart"]
    command = ["ffmpeg", "-v", "error", "-nostdin", *reading(info.demuxer, source), "-map", "0:v:0", "-map", "0:a:0?"]
    command += ["-vf", f"scale={width}:{height}", "-fps_mode", "vfr", *coder, *sound, *plain, str(target)]
    run(command, _ENCODE_WITHIN)


def _likeness(info: VideoInfo, source: Path, target: Path, width: int, height: int) -> float:
    """The mean SSIM of all frames against the film as found at the same size (Wang et al., IEEE TIP 13(4), 2004)."""
    graph = f"[0:v:0]scale={width}:{height},format=yuv420p[a];[1:v:0]format=yuv420p[b];[a][b]ssim"
    command = [
        "ffmpeg",
        "-v",
        "info",
        "-nostdin",
        "-nostats",
        *reading(info.demuxer, source),
        *reading("mov", target),
    ]
    output = run([*command, "-lavfi", graph, "-f", "null", "-"], _COMPARE_WITHIN)
    match = _SSIM.search(output)
    return float(match[1]) if match else 0.0


def _first_picture(info: VideoInfo, source: Path, target: Path, width: int, height: int) -> Recoded:
    command = ["ffmpeg", "-v", "error", "-nostdin", *reading(info.demuxer, source), "-map", "0:v:0", "-frames:v", "1"]
    run([*command, "-vf", f"scale={width}:{height}", str(target)], _COMPARE_WITHIN)
    return Recoded(target.read_bytes(), "PNG", width, height, 0, 1.0, 1)
