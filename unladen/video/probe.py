"""What a film file really is, with limits on what is believed."""

from __future__ import annotations

import contextlib
import ctypes
import json
import os
import resource
import signal
import subprocess
import tempfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from unladen.raster.probe import ImageRefused

MAX_SECONDS = 600  # of film
MAX_SIDE = 4096
MAX_BYTES = 400_000_000
_PROBE_WITHIN, _ENDED_WITHIN = 20, 5  # s
_PR_SET_PDEATHSIG = 1
_MEMORY = 3_000_000_000  # address space in bytes
# By the first bytes, so that nothing is read as a playlist, which could name files and hosts.
_DEMUXERS = ((4, b"ftyp", "mov"), (0, b"\x1a\x45\xdf\xa3", "matroska"), (0, b"OggS", "ogg"), (0, b"GIF8", "gif"))


class VideoRefused(ImageRefused):
    """The film is left as it is; the text says why, in words for the person at the screen."""


@dataclass(frozen=True, slots=True)
class VideoInfo:
    """Width and height in px as shown, after rotation; `seconds` of film; codecs by ffmpeg's names, "" for no sound.

    `demuxer` is the name under which ffmpeg must read it.
    """

    demuxer: str
    codec: str
    width: int
    height: int
    seconds: float
    frames_per_second: float
    sound: str


def demuxer_of(data: bytes) -> str:
    """How ffmpeg must read a file; raises `VideoRefused` for what is no single film file."""
    if not data:
        raise VideoRefused("is empty")
    if len(data) > MAX_BYTES:
        raise VideoRefused(f"is larger than {MAX_BYTES // 10**6} MB")
    if data.lstrip()[:7] == b"#EXTM3U" or data.lstrip()[:4] in (b"<MPD", b"ffco"):
        raise VideoRefused("is a playlist that points to other files, which cannot be fetched")
    for at, mark, name in _DEMUXERS:
        if data[at : at + len(mark)] == mark:
            return name
    raise VideoRefused("is not a readable video")


@contextlib.contextmanager
def written(data: bytes) -> Iterator[tuple[Path, Path]]:
    """A folder of its own for the time of the work, and the film in it."""
    with tempfile.TemporaryDirectory(prefix="mule-film-") as name:
        source = Path(name) / "film"
        source.write_bytes(data)
        yield Path(name), source


def run(command: Sequence[str | Path], within: float) -> str:
    """What a program says on its error channel or, without that, its output; raises `VideoRefused`.

    It has limits on time and memory, reads nothing but files, and dies with this process.
    """
    try:
        done = subprocess.run(
            [str(part) for part in command], capture_output=True, timeout=within, stdin=subprocess.DEVNULL, check=False,
            preexec_fn=_limit, env={"PATH": os.environ.get("PATH", ""), "LC_ALL": "C"},
        )  # fmt: skip
    except subprocess.TimeoutExpired:
        raise VideoRefused(f"could not be treated within {within:g} s") from None
    except FileNotFoundError:
        raise VideoRefused("cannot be converted: ffmpeg is missing") from None
    if done.returncode:
        lines = done.stderr.decode(errors="replace").strip().splitlines() or [f"ended with {done.returncode}"]
        raise VideoRefused(f"could not be read ({lines[-1][-160:]})")
    return (done.stdout or done.stderr).decode(errors="replace")


def _limit() -> None:
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
    resource.setrlimit(resource.RLIMIT_AS, (_MEMORY, _MEMORY))


def reading(demuxer: str, source: Path) -> list[str]:
    """The arguments that make ffmpeg and ffprobe read one file and no other."""
    return ["-protocol_whitelist", "file", "-f", demuxer, "-i", str(source)]


def probe_film(data: bytes) -> VideoInfo:
    """What a film is; raises `VideoRefused`."""
    demuxer = demuxer_of(data)
    with written(data) as (_, source):
        output = run(
            ["ffprobe", "-v", "error", "-show_streams", "-show_format", "-of", "json", *reading(demuxer, source)],
            _PROBE_WITHIN,
        )
    try:
        document = json.loads(output)
    except ValueError:
        raise VideoRefused("could not be read") from None
    streams = document.get("streams", [])
    film = next((s for s in streams if s.get("codec_type") == "video" and not _is_cover(s)), None)
    if film is None:
        raise VideoRefused("has no moving pictures in it")
    if film.get("codec_name", "unknown") == "unknown" or not film.get("width"):
        raise VideoRefused("uses a codec that ffmpeg does not know")
    width, height = int(film["width"]), int(film["height"])
    if max(width, height) > MAX_SIDE:
        raise VideoRefused(f"is {width}x{height} px; at most {MAX_SIDE} px per side are supported")
    seconds = _number(document.get("format", {}).get("duration")) or _number(film.get("duration"))
    if seconds > MAX_SECONDS:
        raise VideoRefused(f"runs for {seconds / 60:.0f} min; at most {MAX_SECONDS // 60} min are treated")
    if _turned(film):
        width, height = height, width
    sound = next((str(s.get("codec_name", "")) for s in streams if s.get("codec_type") == "audio"), "")
    return VideoInfo(demuxer, str(film["codec_name"]), width, height, seconds, _rate(film), sound)


def _is_cover(stream: dict[str, object]) -> bool:
    disposition = stream.get("disposition")
    return isinstance(disposition, dict) and bool(disposition.get("attached_pic"))


def _turned(stream: dict[str, object]) -> bool:
    sides = stream.get("side_data_list")
    turns = [side.get("rotation", 0) for side in sides if isinstance(side, dict)] if isinstance(sides, list) else []
    return any(abs(int(turn)) % 180 == 90 for turn in turns)


def _number(value: object) -> float:
    try:
        return float(str(value))
    except ValueError:
        return 0.0


def _rate(stream: dict[str, object]) -> float:
    above, _, below = str(stream.get("avg_frame_rate", "0/1")).partition("/")
    return _number(above) / _number(below) if _number(below) else 0.0
