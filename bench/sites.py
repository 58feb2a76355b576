"""Sites to measure with."""

from __future__ import annotations

import tempfile
from pathlib import Path

from demo.generate import demo_archive
from tests.sites import page, photo
from unladen.capture import BodyStore, Capture, read_folder, read_site


def demo_site(folder: Path) -> Capture:
    """The demo's site."""
    return read_site(demo_archive(), BodyStore(folder / "bodies"))


def many_files(folder: Path, files: int = 100) -> Capture:
    """A site of so many files: ten pages with nine photographs each."""
    source = Path(tempfile.mkdtemp(dir=folder))
    pages = files // 10
    for number in range(pages):
        images = "".join(f"<img src=p{number}-{n}.jpg width=400 height=300>" for n in range(9))
        text = "<p>" + "A paragraph of text as pages have them. " * 60 + "</p>"
        (source / f"page{number}.html").write_bytes(page(images + text * 5))
        for n in range(9):
            (source / f"p{number}-{n}.jpg").write_bytes(photo(640, 480, number * 10 + n))
    return read_folder(source, BodyStore(folder / "bodies"))
