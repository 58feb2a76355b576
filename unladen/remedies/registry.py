"""All remedies there are, in the order in which they run. A new one is its module and a line here."""

from __future__ import annotations

from unladen.remedies.delivery import hints, lifetimes, next_page, precompress, straight_there
from unladen.remedies.embeds import delay_scripts, embed
from unladen.remedies.films import animations_as_films, film, lazy_films, poster
from unladen.remedies.fonts import even_fallbacks, fonts_first, host_fonts, show_text, subset_fonts
from unladen.remedies.images import (
    avif,
    data_images,
    exact,
    inline,
    lazy_backgrounds,
    lazy_images,
    merge,
    phone,
    priority,
    recompress,
    reserve,
    shrink,
    site_icons,
    svg,
    webp,
    widths,
)
from unladen.remedies.markup import drop_extras, inline_code, still_out_of_sight, tidy_markup
from unladen.remedies.scripts import defer_scripts, functions_when_called, leave_out, minify_scripts, wait_for_visitor
from unladen.remedies.spec import Remedy
from unladen.remedies.styles import first_view_styles, imports_as_links, minify_styles, trim_styles

ALL: tuple[Remedy, ...] = (
    leave_out.REMEDY,
    straight_there.REMEDY,
    embed.REMEDY,
    delay_scripts.REMEDY,
    animations_as_films.REMEDY,
    merge.REMEDY,
    exact.REMEDY,
    svg.REMEDY,
    shrink.REMEDY,
    recompress.REMEDY,
    webp.REMEDY,
    avif.REMEDY,
    widths.REMEDY,
    phone.REMEDY,
    inline.REMEDY,
    data_images.REMEDY,
    site_icons.REMEDY,
    reserve.REMEDY,
    film.REMEDY,
    poster.REMEDY,
    lazy_images.REMEDY,
    lazy_backgrounds.REMEDY,
    lazy_films.REMEDY,
    priority.REMEDY,
    imports_as_links.REMEDY,
    trim_styles.REMEDY,
    minify_styles.REMEDY,
    functions_when_called.REMEDY,
    minify_scripts.REMEDY,
    wait_for_visitor.REMEDY,
    defer_scripts.REMEDY,
    host_fonts.REMEDY,
    subset_fonts.REMEDY,
    show_text.REMEDY,
    even_fallbacks.REMEDY,
    fonts_first.REMEDY,
    first_view_styles.REMEDY,
    inline_code.REMEDY,
    drop_extras.REMEDY,
    still_out_of_sight.REMEDY,
    tidy_markup.REMEDY,
    hints.REMEDY,
    next_page.REMEDY,
    precompress.REMEDY,
    lifetimes.REMEDY,
)


def remedies() -> tuple[Remedy, ...]:
    """All of them; to be asked when needed rather than kept."""
    return ALL


def remedy_named(name: str) -> Remedy:
    """The remedy of this name; raises `KeyError`."""
    for remedy in ALL:
        if remedy.name == name:
            return remedy
    raise KeyError(name)


def order_of(name: str) -> int:
    """Its place in the order; raises `KeyError`."""
    return ALL.index(remedy_named(name))


def name_now(name: str) -> str:
    """The name of a remedy that a document of version 1 calls so; the same if it has no other."""
    return next((remedy.name for remedy in ALL if remedy.formerly == name), name)
