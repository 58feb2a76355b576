"""Two files of one picture compared at the size at which a visitor sees them, whatever browser reduces them."""

from __future__ import annotations

import io
from dataclasses import asdict, dataclass
from typing import Any, ClassVar

from PIL import Image

from unladen.raster.codec import decode
from unladen.raster.probe import ImageInfo
from unladen.raster.sight import Sight, usual_density

# What two files may be apart and still pass for one picture. Steady aims at 0.97 and bold at 0.95, in the worst part
# of the file's own px; reduced to 16 to 640 px at densities 1 to 3 what steady makes of 64 photographs and graphics
# stays above 0.945.
LEAST_LIKENESS = 0.9
_SHAPE = 1.01  # px by which rounding may change the height of a narrower file
Size = tuple[int, int]


@dataclass(frozen=True, slots=True)
class Reduced:
    """The work of reducing a picture to a width and height in px, upright and in sRGB, as a PNG."""

    name: ClassVar[str] = "reduced"
    version: ClassVar[int] = 1
    seconds: ClassVar[float] = 60
    memory: ClassVar[int] = 3_000_000_000

    width: int
    height: int

    def as_json(self) -> dict[str, Any]:
        """Plain values, the same for the same size."""
        return asdict(self)

    def run(self, data: bytes) -> Picture:
        """The smaller picture; raises `ImageRefused`."""
        pixels = decode(data, (self.width, self.height), still=True)
        out = io.BytesIO()
        pixels.save(out, "PNG", compress_level=1)
        return Picture(out.getvalue())


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture made for comparison."""

    data: bytes

    def facts(self) -> dict[str, Any]:
        """Nothing beside the file."""
        return {}


@dataclass(frozen=True, slots=True)
class Showing:
    """At which size in px two files are compared, and how many px that are for each CSS px."""

    size: Size
    density: float


def showing(first: ImageInfo, second: ImageInfo, box: tuple[float, float], density: float) -> Showing | None:
    """How two files are compared that are shown in a box (CSS px) of a window with so many px for each CSS px.

    At the size of the box, which the picture covers, or at that of the smaller file if it has fewer px, down to one
    for each CSS px. None where they have not one shape: a part of a picture, or another one.
    """
    if abs(second.height - first.height * second.width / first.width) > max(_SHAPE, second.height * 0.004):
        return None
    scale = max(box[0] / first.width, box[1] / first.height)  # CSS px for each px of the first file
    if scale <= 0:
        return None
    least = min(1.0, scale)
    wanted = min(1.0, scale * density)
    share = max(least, min(wanted, second.width / first.width))
    size = max(1, round(first.width * share)), max(1, round(first.height * share))
    return Showing(size, usual_density(share / scale))


def shown_likeness(first: Image.Image, second: Image.Image, density: float) -> float:
    """How alike two pictures of one size are to a visitor, from 0 to 1 (see `Sight`)."""
    mode = "RGBA" if "A" in first.getbands() or "A" in second.getbands() else "RGB"
    return Sight(first.convert(mode), density).likeness(second.convert(mode))
