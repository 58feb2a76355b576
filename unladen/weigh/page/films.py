"""The films of a page: where they stand and how they start."""

from __future__ import annotations

from dataclasses import dataclass

from unladen.page_scripts import in_page

FILMS = in_page("films")


@dataclass(slots=True)
class ShownFilm:
    """A `video` element. Lengths are CSS px; `paint_width` is that of the whole picture, which the box may crop.

    `natural_*` are px of the file, 0 when nothing of it was loaded. `muted` is its state, by attribute or by script.
    """

    url: str
    selector: str
    x: float
    y: float
    width: float
    height: float
    visible: bool
    first_view: bool
    paint_width: float
    natural_width: int
    natural_height: int
    autoplay: bool
    muted: bool
    loop: bool
    controls: bool
    preload: str
    poster: str
    fit: str = ""

    @property
    def background(self) -> bool:
        """Whether it only moves behind the page: it starts by itself, without sound, without controls."""
        return self.autoplay and self.muted and not self.controls
