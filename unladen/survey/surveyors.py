"""All surveyors, in the order in which they are asked. A new one is its module and a line here."""

from __future__ import annotations

from unladen.survey.code import (
    dead_rules,
    first_view,
    held_up,
    imported,
    longhand,
    tiny_code,
    twice,
    uncalled,
    unused,
)
from unladen.survey.delivery import hosts, journeys, roundabout, unpacked
from unladen.survey.embeds import frames, third_parties, widgets
from unladen.survey.films import animations
from unladen.survey.films import heavy as heavy_films
from unladen.survey.findings import Facts
from unladen.survey.fonts import characters, late, remote
from unladen.survey.fonts import heavy as heavy_fonts
from unladen.survey.images import (
    beyond,
    far,
    heavy,
    hidden,
    in_texts,
    late_hero,
    lazy_backgrounds,
    responsive,
    same_files,
    strips,
    tiny,
    unreserved,
)
from unladen.survey.pages import extras, repeats, structure
from unladen.survey.spec import Surveyor

SURVEYORS: tuple[Surveyor, ...] = (
    same_files.SURVEYOR,
    twice.SURVEYOR,
    heavy.SURVEYOR,
    responsive.SURVEYOR,
    tiny.SURVEYOR,
    in_texts.SURVEYOR,
    far.SURVEYOR,
    lazy_backgrounds.SURVEYOR,
    late_hero.SURVEYOR,
    unreserved.SURVEYOR,
    animations.SURVEYOR,
    heavy_films.SURVEYOR,
    frames.SURVEYOR,
    widgets.SURVEYOR,
    hidden.SURVEYOR,
    third_parties.SURVEYOR,
    dead_rules.SURVEYOR,
    characters.SURVEYOR,
    remote.SURVEYOR,
    late.SURVEYOR,
    heavy_fonts.SURVEYOR,
    longhand.SURVEYOR,
    uncalled.SURVEYOR,
    held_up.SURVEYOR,
    first_view.SURVEYOR,
    imported.SURVEYOR,
    tiny_code.SURVEYOR,
    unused.SURVEYOR,
    unpacked.SURVEYOR,
    roundabout.SURVEYOR,
    hosts.SURVEYOR,
    journeys.SURVEYOR,
    repeats.SURVEYOR,
    structure.SURVEYOR,
    beyond.SURVEYOR,
    strips.SURVEYOR,
    extras.SURVEYOR,
)


def surveyors() -> tuple[Surveyor, ...]:
    """All of them; to be asked when needed rather than kept."""
    return SURVEYORS


def fact_types() -> tuple[type[Facts], ...]:
    """The facts that excess may come with."""
    return tuple(dict.fromkeys(facts for surveyor in SURVEYORS for facts in surveyor.facts))
