"""Pictures in boxes of 16 to 640 px, coded as the steady effort does and spoilt in many ways: alarms and what is
missed.

Photographs and graphics of bench.pictures stand on pages that a browser paints at one, two and three px for each CSS
px.
"""

from __future__ import annotations

import io
import random
import sys
import tempfile
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path

from PIL import Image, ImageOps

from bench.pictures import graphics, photographs
from unladen.capture import BodyStore, Capture, read_folder
from unladen.check.compare import compare
from unladen.check.file_judge import FileJudge
from unladen.check.snapshot import Snapshot, SnapshotTaker
from unladen.raster.probe import ImageRefused, probe
from unladen.raster.recode import Recipe, recode
from unladen.weigh.records.conditions import DEVICES, Device
from unladen.weigh.visits.weighing import browser_for
from unladen.work_cache import WorkCache

BOXES = (16, 20, 24, 30, 36, 40, 48, 64, 80, 96, 128, 160, 240, 320, 480, 640)
DENSITIES = (1, 2, 3)
A_PAGE = 40
Change = Callable[[Image.Image], Image.Image]


@dataclass(frozen=True)
class Case:
    """A picture (its file) in a box so wide (CSS px), at a density, and the file that takes its place."""

    name: str
    file: bytes
    box: int
    density: int
    other: bytes


def pictures() -> list[bytes]:
    """Files as sites have them: photographs as JPEG, graphics as PNG."""
    found = []
    for some, format in ((photographs(1000), "JPEG"), (graphics(800), "PNG")):
        for image in some:
            out = io.BytesIO()
            image.save(out, format, **({"quality": 90} if format == "JPEG" else {}))
            found.append(out.getvalue())
    return found


def _blank(image: Image.Image) -> Image.Image:
    return Image.new("RGB", image.size, tuple(image.convert("RGB").resize((1, 1)).getpixel((0, 0))))  # type: ignore[arg-type]


def _half(image: Image.Image) -> Image.Image:
    out = image.convert("RGB")
    out.paste((128, 128, 128), (0, out.height // 2, out.width, out.height))
    return out


def _zoomed(image: Image.Image) -> Image.Image:
    width, height = image.size
    return image.crop((width // 5, height // 5, width * 4 // 5, height * 4 // 5)).resize(image.size)


def _other_hue(image: Image.Image) -> Image.Image:
    hue, saturation, value = image.convert("RGB").convert("HSV").split()
    return Image.merge("HSV", (hue.point(lambda level: (level + 90) % 256), saturation, value)).convert("RGB")


FAULTS: dict[str, Change] = {
    "mirrored": ImageOps.mirror,
    "upside down": lambda image: image.rotate(180),
    "another crop": _zoomed,
    "another hue": _other_hue,
    "blank": _blank,
    "half of it": _half,
}


def _saved(image: Image.Image, box: int) -> bytes:
    out = io.BytesIO()
    image.thumbnail((box * 2, 4000))
    image.convert("RGB").save(out, "WEBP", quality=85)
    return out.getvalue()


def _harmless(file: bytes, box: int, density: int, kept: int, format: str) -> bytes | None:
    width = min(probe(file).width, box * kept)
    try:
        recipe = Recipe(width if width < probe(file).width else 0, format, 0.97, density=float(kept))
        return recode(file, recipe).data
    except ImageRefused:
        return None


def harmless_cases(files: Sequence[bytes], count: int, random_: random.Random) -> Iterator[Case]:
    """So many pictures coded as the steady effort codes them, for one or two px for each CSS px."""
    wanted = []
    for number in range(count):
        file = files[number % len(files)]
        format = random_.choice(["WEBP", "AVIF", "JPEG" if file[:2] == b"\xff\xd8" else "PNG"])
        wanted.append((file, random_.choice(BOXES), random_.choice(DENSITIES), random_.choice((1, 2)), format))
    with ProcessPoolExecutor(2) as pool:
        for (file, box, density, _, format), made in zip(
            wanted, pool.map(_harmless, *zip(*wanted, strict=True), chunksize=8), strict=True
        ):
            if made is not None:
                yield Case(f"{format} {box} px", file, box, density, made)


def faulty_cases(files: Sequence[bytes], count: int, random_: random.Random) -> Iterator[Case]:
    """So many pictures spoilt, or another one in their place, where the fault shows at all."""
    names = [*FAULTS, "another picture", "no alpha"]
    clear = [file for file in files if Image.open(io.BytesIO(file)).mode == "RGBA"]
    number = 0
    while number < count:
        name = names[number % len(names)]
        file = random_.choice(clear if name == "no alpha" and clear else files)
        box = random_.choice(BOXES)
        image = Image.open(io.BytesIO(file))
        if name == "another picture":
            other = ImageOps.fit(Image.open(io.BytesIO(random_.choice(files))).convert("RGB"), image.size)
        elif name == "no alpha":
            other = image.convert("RGB")
        else:
            other = FAULTS[name](image)
        small = (32, 32)
        seen = [ImageOps.grayscale(_on_white(i)).resize(small) for i in (image, other)]
        coloured = [_on_white(i).resize(small) for i in (image, other)]
        apart = [
            sum(abs(a - b) for a, b in zip(p.tobytes(), q.tobytes(), strict=True)) / len(p.tobytes())
            for p, q in (seen, coloured)
        ]  # type: ignore[misc]
        if max(apart) < 12:
            continue  # it shows to nobody: a mirrored logo of one colour, say
        number += 1
        yield Case(f"{name} {box} px", file, box, random_.choice(DENSITIES), _saved(other, box))


def _on_white(image: Image.Image) -> Image.Image:
    clear = image.convert("RGBA")
    return Image.alpha_composite(Image.new("RGBA", clear.size, "white"), clear).convert("RGB")


def alarms(cases: Sequence[Case], folder: Path, *, wrong: Callable[[Case], None]) -> int:
    """How many cases the check says to look different; calls `wrong` with each of them."""
    found = 0
    store = BodyStore(folder / "bodies")
    for density in DENSITIES:
        device = replace(DEVICES["desktop"], name=f"at {density}", density=float(density))
        some = [case for case in cases if case.density == density]
        pages = [some[n : n + A_PAGE] for n in range(0, len(some), A_PAGE)]
        sides = [_site(pages, store, Path(tempfile.mkdtemp(dir=folder)), other=other) for other in (False, True)]
        judge = FileJudge(WorkCache(folder / "memo", store)).likenesses
        with browser_for(sides[0]) as browser:
            for number, page in enumerate(pages):
                snapshots = [_look(SnapshotTaker(browser), side, f"/p{number}.html", device) for side in sides]
                told = compare(snapshots[0], snapshots[0], snapshots[1], ["picture"], judge)
                blamed = {place.rpartition("#")[2] for difference in told for place in difference.places}
                for n, case in enumerate(page):
                    if f"i{n}" in blamed:
                        found += 1
                        wrong(case)
    return found


def _look(checker: SnapshotTaker, capture: Capture, path: str, device: Device) -> Snapshot:
    return checker.look_all(capture, [(capture.page(path).url, device)], only=["picture"])[0]


def _site(pages: Sequence[Sequence[Case]], store: BodyStore, folder: Path, *, other: bool) -> Capture:
    for number, cases in enumerate(pages):
        images = []
        for n, case in enumerate(cases):
            info = probe(case.file)
            height = max(1, round(case.box * info.height / info.width))
            name = f"{number}-{n}.{'other' if other else 'file'}"
            (folder / name).write_bytes(case.other if other else case.file)
            images.append(f'<p><img id="i{n}" src="{name}" width="{case.box}" height="{height}" alt="">')
        (folder / f"p{number}.html").write_text("<!doctype html><body>" + "\n".join(images))
    return read_folder(folder, store)


def measure() -> tuple[str, str, bool]:
    """Alarms among 1,000 harmless pictures, and faults found among 320."""
    random_ = random.Random(7)
    files = pictures()
    good, bad = list(harmless_cases(files, 1000, random_)), list(faulty_cases(files, 320, random_))
    missed = Counter(case.name for case in bad)
    with tempfile.TemporaryDirectory() as name:
        false = alarms(good, Path(name), wrong=lambda case: print(f"ALARM {case.name} at {case.density}", flush=True))
        found = alarms(bad, Path(name), wrong=lambda case: missed.subtract([case.name]))
    for case_name, count in sorted(missed.items()):
        if count:
            print(f"MISSED {count} times: {case_name}", file=sys.stderr, flush=True)
    told = f"{false} alarms among {len(good)}, {found} of {len(bad)} faults found"
    return told, "no alarm, all found", not false and found == len(bad)


if __name__ == "__main__":
    print(measure())
