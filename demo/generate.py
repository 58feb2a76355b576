"""Makes the demo site: the same bytes every time."""

from __future__ import annotations

import os
import subprocess
import tempfile
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from demo import pages, services
from demo.pictures import icon, jpeg, landscape, png, screenshot, still_life
from demo.symbols import symbols
from unladen.capture.mediatypes import is_compressible, media_type_of
from unladen.capture.recorded import Response
from unladen.capture.warc import write_warc

VERSION = 5
NAME = "merrow-tide-mill"
HOST = "merrow-tide-mill.example"
# The mill's own server knows when a file changed, but gives it no lifetime.
_OWN_FIELDS = {"etag": '"1"', "cache-control": "no-cache"}
_TIDES = [
    f"Day {day:2}    high water {(6 + day * 50 // 60) % 12:02}:{day * 50 % 60:02}    milling" for day in range(1, 13)
]
_FLOUR, _RYE, _STONE = (
    ((214, 204, 184), (250, 246, 236)),
    ((120, 92, 62), (206, 176, 130)),
    ((96, 92, 86), (188, 184, 176)),
)


def files() -> Iterator[tuple[str, Callable[[], bytes]]]:
    """Every file's path and what makes its bytes."""
    yield "index.html", lambda: pages.home().encode()
    yield "visit.html", lambda: pages.visit().encode()
    yield "journal.html", lambda: pages.journal().encode()
    yield "shop.html", lambda: pages.shop().encode()
    yield "events.html", lambda: pages.events().encode()
    yield "theme/library.js", lambda: pages.library().encode()
    yield "theme/parts/library.js", lambda: pages.library().encode()  # once more, by another name
    yield "theme/icons.woff2", icons
    yield "media/stones-turning.mp4", moving_picture
    yield "theme/theme.css", lambda: pages.style_sheet().encode()
    yield "theme/parts/foot.css", lambda: pages.foot().encode()
    yield "theme/parts/paper.css", lambda: pages.paper().encode()
    yield "theme/theme.js", lambda: pages.script().encode()
    yield "images/estuary-hero.jpg", lambda: jpeg(landscape(3600, 2400, 11, mill=True), 90, camera=True)
    yield "images/quay.jpg", lambda: jpeg(landscape(2800, 1860, 31), 88, camera=True)
    yield "images/slide-2.jpg", lambda: jpeg(landscape(2400, 1600, 21), 88, camera=True)
    yield "images/slide-3.jpg", lambda: jpeg(landscape(2400, 1600, 41), 88, camera=True)
    yield "images/stamp.png", lambda: png(icon(600, "wheel", (69, 84, 92)))
    for n in range(1, 7):
        colours = (_FLOUR, _RYE, _STONE)[n % 3]
        yield f"images/shop/{n:02}.jpg", lambda n=n, c=colours: jpeg(still_life(1500, 1000, 700 + 11 * n, *c), 90)  # type: ignore[misc]
    yield "images/band.jpg", lambda: jpeg(landscape(2000, 900, 51), 92)
    yield "images/flour-shop.jpg", lambda: jpeg(still_life(1800, 1200, 71, *_FLOUR), 92, camera=True)
    yield "images/tea-room.jpg", lambda: jpeg(still_life(1600, 1066, 81, *_RYE), 92)
    yield "images/stones.jpg", lambda: jpeg(still_life(1800, 1200, 91, *_STONE), 92, camera=True)
    yield "images/marsh.png", lambda: png(landscape(900, 600, 101))
    yield "images/tide-table.jpg", lambda: jpeg(screenshot(1400, 900, _TIDES), 96)
    for shape, colour in (("wheel", (138, 79, 34)), ("clock", (45, 74, 115)), ("pin", (111, 123, 90))):
        yield f"images/icon-{shape}.png", lambda s=shape, c=colour: png(icon(512, s, c))  # type: ignore[misc]
    for n in range(1, 13):
        yield f"images/gallery/{n:02}.jpg", lambda n=n: jpeg(landscape(1200, 800, 200 + 13 * n, mill=n % 4 == 0), 85)  # type: ignore[misc]
    for n in range(1, 7):
        yield f"images/journal/{n:02}.jpg", lambda n=n: jpeg(landscape(1400, 930, 500 + 17 * n, mill=n == 1), 86)  # type: ignore[misc]


def icons() -> bytes:
    """A font of symbols, of which the pages show three."""
    return symbols("Saltings Icons", pages.FIRST_ICON, pages.ICONS)


def moving_picture() -> bytes:
    """Four seconds of video, as an editor exports it: far too good for a background."""
    with tempfile.TemporaryDirectory() as folder:
        still, film = Path(folder) / "still.png", Path(folder) / "film.mp4"
        still.write_bytes(png(still_life(1600, 1000, 121, *_STONE)))
        command = ["ffmpeg", "-v", "error", "-loop", "1", "-i", str(still), "-t", "4", "-r", "25", "-vf"]
        command += [
            "crop=1280:720:'(iw-ow)/2*(1+sin(t))':'(ih-oh)/2*(1+cos(t))'",
            "-c:v",
            "libx264",
            "-preset",
            "veryfast",
        ]
        command += [
            "-crf",
            "24",
            "-pix_fmt",
            "yuv420p",
            "-threads",
            "1",
            "-fflags",
            "+bitexact",
            "-flags:v",
            "+bitexact",
        ]
        subprocess.run([*command, "-map_metadata", "-1", str(film)], check=True, capture_output=True)
        return film.read_bytes()


def responses() -> Iterator[Response]:
    """Everything that the demo's hosts answer, the mill's own files first."""
    own = list(files())
    others = list(services.answers())
    makers = [make for _, make in own] + [make for _, (_, _, make) in others]
    kinds = [(f"{HOST}/{path}", media_type_of(path), _OWN_FIELDS) for path, _ in own]
    kinds += [(url, media_type, fields) for url, (media_type, fields, _) in others]
    with ThreadPoolExecutor(2) as pool:
        for (url, media_type, fields), body in zip(kinds, pool.map(lambda make: make(), makers), strict=True):
            headers = {"content-type": media_type, "access-control-allow-origin": "*", **fields}
            packed = "gzip" if is_compressible(media_type) else ""
            if packed:
                headers["content-encoding"] = packed
            yield Response(f"https://{url}", 200, tuple(headers.items()), body, packed)


def write_archive(target: Path) -> None:
    """Write the site and the services that it embeds as a WARC file."""
    part = target.with_suffix(".part")
    write_warc(responses(), part)
    part.replace(target)


def demo_archive() -> Path:
    """The archive in the data folder, made when it is not there yet."""
    folder = Path(os.environ.get("MULE_DATA") or Path(__file__).resolve().parent.parent / "var")
    folder.mkdir(parents=True, exist_ok=True)
    target = folder / f"{NAME}-{VERSION}.warc"
    if not target.exists():
        write_archive(target)
    return target


if __name__ == "__main__":
    print(demo_archive())
