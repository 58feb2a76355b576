"""Makes the demo site: the same bytes every time."""

from __future__ import annotations

import os
import zipfile
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from demo import pages
from demo.pictures import icon, jpeg, landscape, png, screenshot, still_life

VERSION = 1
FOLDER = "merrow-tide-mill"
_EPOCH = (1980, 1, 1, 0, 0, 0)
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
    yield "theme/theme.css", lambda: pages.style_sheet().encode()
    yield "theme/theme.js", lambda: pages.script().encode()
    yield "images/estuary-hero.jpg", lambda: jpeg(landscape(3600, 2400, 11, mill=True), 90, camera=True)
    yield "images/quay.jpg", lambda: jpeg(landscape(2800, 1860, 31), 88, camera=True)
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


def write_archive(target: Path) -> None:
    """Write the site as a ZIP file."""
    wanted = list(files())
    part = target.with_suffix(".part")
    with ThreadPoolExecutor(2) as pool, zipfile.ZipFile(part, "w") as archive:
        for (path, _), body in zip(wanted, pool.map(lambda entry: entry[1](), wanted), strict=True):
            info = zipfile.ZipInfo(f"{FOLDER}/{path}", _EPOCH)
            info.external_attr = 0o644 << 16
            archive.writestr(
                info, body, zipfile.ZIP_STORED if path.endswith(("jpg", "png")) else zipfile.ZIP_DEFLATED
            )
    part.replace(target)


def demo_archive() -> Path:
    """The archive in the data folder, made when it is not there yet."""
    folder = Path(os.environ.get("MULE_DATA") or Path(__file__).resolve().parent.parent / "var")
    folder.mkdir(parents=True, exist_ok=True)
    target = folder / f"{FOLDER}-{VERSION}.zip"
    if not target.exists():
        write_archive(target)
    return target


if __name__ == "__main__":
    print(demo_archive())
