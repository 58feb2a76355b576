"""Animated GIFs that play for ever and weigh many times what a film of the same pictures does."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from unladen.raster.animation import plays_for_ever
from unladen.raster.probe import ImageRefused
from unladen.remedies import Change
from unladen.remedies.films.animations_as_films import AnimationParams
from unladen.survey.films.heavy import LEAST_SIMILARITY, density_of_films
from unladen.survey.findings import Facts, Finding
from unladen.survey.site_facts import ImageUse, SiteFacts, places_of
from unladen.survey.spec import Context, Found, Surveyor
from unladen.video.encode import VideoRecipe
from unladen.work_cache import Job

_WORTH = 50_000  # bytes of the file
_SMALLER = 0.8  # of what the picture would be left with otherwise
_FORMATS = ("AV1", "H264")


@dataclass(frozen=True, slots=True, kw_only=True)
class AnimationFacts(Facts):
    """The codings that it becomes."""

    about: Literal["animation"] = "animation"
    becomes: str


def find(context: Context) -> Found:
    """One excess for each; only bold effort carries it out, since one sort of element becomes another."""
    evidence, left = context.evidence, context.left("heavy images")
    uses = [u for u in evidence.images.values() if _plays_for_ever(evidence, u)] if context.effort.resizes else []
    recipes = {
        use.path: [VideoRecipe(format, _width(use), LEAST_SIMILARITY, mute=True) for format in _FORMATS]
        for use in uses
    }
    jobs: list[Job] = [(u.exchange.digest, r) for u in uses for r in recipes[u.path]]
    outcomes = context.work_cache.outcomes(jobs, context.progress, "survey")
    findings = []
    for use in uses:
        made = {r.format: o for r in recipes[use.path] if not (o := outcomes[(use.exchange.digest, r)]).refused}
        otherwise = left.get(use.exchange.url, use.exchange.size)
        smallest = min((outcome.size for outcome in made.values()), default=otherwise)
        if "H264" not in made or smallest > otherwise * _SMALLER:
            continue
        pages = tuple(dict.fromkeys(s.page for s in use.showings))
        params = AnimationParams(formats=tuple(made), width=_width(use), similarity=LEAST_SIMILARITY)
        change = Change(f"animations-as-films:{use.path}", "animations-as-films", (use.path,), pages, params)
        findings.append(
            Finding(
                id=change.id,
                excess="animated-picture",
                kind="images",
                title=f"An animated picture of {use.exchange.size / 1000:,.0f} kB is {smallest / 1000:,.0f} kB as "
                "a film",
                why="The video plays by itself, without sound and controls, as the picture does.",
                pages=pages,
                bytes=otherwise - smallest,
                of_bytes=otherwise,
                requests=0,
                tried=True,
                facts=AnimationFacts(where=places_of([use], pages), becomes="AV1 and H.264"),
                changes=(change,),
            )
        )
    return Found(tuple(findings))


def _plays_for_ever(evidence: SiteFacts, use: ImageUse) -> bool:
    if use.exchange.size < _WORTH or not use.showings:
        return False
    if any(s.image.via != "img" or s.image.by_srcset or not s.image.visible for s in use.showings):
        return False
    try:
        return plays_for_ever(evidence.capture.body(use.exchange))
    except ImageRefused:
        return False


def _width(use: ImageUse) -> int:
    shown = max(s.image.paint_width * density_of_films(s.device) for s in use.showings)
    natural = max(s.image.natural_width for s in use.showings)
    width = math.ceil(shown / 2) * 2
    return width if 0 < width < natural else 0


SURVEYOR = Surveyor("animations", find, (AnimationFacts,), needs=("heavy images",), remedies=("animations-as-films",))
