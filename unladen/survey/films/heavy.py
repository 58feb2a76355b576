"""Films of the site's own.

Coded too well, larger than shown, loaded though nobody asked, sent to phones as decoration.
"""

from __future__ import annotations

import math
from collections import defaultdict
from dataclasses import dataclass, field
from typing import Any, Literal

from unladen.capture import Exchange
from unladen.errors import Notice
from unladen.remedies import Change
from unladen.remedies.films.film import FORMATS, FilmParams
from unladen.remedies.films.lazy_films import LazyFilmParams
from unladen.remedies.films.poster import PosterParams
from unladen.remedies.loader import MARGIN
from unladen.survey.findings import Facts, Finding, PlaceFacts
from unladen.survey.site_facts import SiteFacts
from unladen.survey.spec import Context, Found, Surveyor
from unladen.video.encode import VideoRecipe
from unladen.video.probe import VideoInfo, VideoRefused, probe_film
from unladen.weigh.page.films import ShownFilm
from unladen.weigh.records.conditions import Device
from unladen.work_cache import Job, Outcome

# Moving pictures hide what more px would show (common practice, no source).
_DENSITY = 1.5
_WORTH = 20_000  # bytes
_NARROW = 700  # CSS px; phones are narrower, tablets are not
LEAST_SIMILARITY = 0.95
_FITS = ("contain", "cover", "fill", "none", "scale-down")


@dataclass(slots=True)
class FilmUse:
    """A film of the site and its showings; `sent` are the bytes of it in the heaviest weigh-in."""

    exchange: Exchange
    path: str
    showings: list[tuple[str, Device, ShownFilm]] = field(default_factory=list)
    sent: int = 0
    info: VideoInfo | None = None
    refused: str = ""

    @property
    def pages(self) -> tuple[str, ...]:
        """The pages that show it."""
        return tuple(dict.fromkeys(page for page, _, _ in self.showings))

    @property
    def background(self) -> bool:
        """Whether it only moves behind the page, everywhere."""
        return all(film.background for _, _, film in self.showings)


def density_of_films(device: Device) -> float:
    """Px of a film kept per CSS px."""
    return min(device.density, _DENSITY)


def uses(evidence: SiteFacts) -> list[FilmUse]:
    """The films that the pages show, by path."""
    uses: dict[str, FilmUse] = {}
    for weigh_in in evidence.weigh_ins:
        for film in weigh_in.facts.films:
            exchange = evidence.capture.lookup(film.url) if film.url.startswith("http") else None
            if exchange is None or exchange.status != 200 or not evidence.capture.owns(exchange.url):
                continue
            use = uses.setdefault(exchange.url, FilmUse(exchange, evidence.path(exchange.url)))
            use.showings.append((weigh_in.page, weigh_in.conditions.device, film))
            sent = sum(r.transferred for r in weigh_in.visit.requests if r.url == exchange.url and not r.cached)
            use.sent = max(use.sent, sent)
    for use in uses.values():
        try:
            use.info = probe_film(evidence.capture.body(use.exchange))
        except VideoRefused as refused:
            use.refused = str(refused)
    return sorted(uses.values(), key=lambda use: use.path)


@dataclass(frozen=True, slots=True, kw_only=True)
class FilmFacts(Facts):
    """A film as it is, and what it becomes."""

    about: Literal["film"] = "film"
    codec: str
    natural: list[int]
    seconds: float
    sound: str
    becomes: str
    likeness: float


def _places(use: FilmUse) -> list[str]:
    return sorted({film.selector for _, _, film in use.showings})


class FilmSurvey:
    """Tries out smaller films and makes the excess of them; `notices` tell what was left alone and why."""

    def __init__(self, context: Context) -> None:
        self.effort, self.work_cache, self.progress = context.effort, context.work_cache, context.progress
        self.uses = uses(context.evidence)
        self.refused: dict[str, str] = {}

    def find(self) -> list[Finding]:
        """All excess of films; raises `Cancelled`."""
        findings: list[Finding] = []
        recipes = {use.path: self._recipes(use) for use in self.uses if use.info and self.effort.resizes}
        jobs: list[Job] = [(use.exchange.digest, recipe) for use in self.uses for recipe in recipes.get(use.path, ())]
        outcomes = self.work_cache.outcomes(jobs, self.progress, "survey")
        remaining: dict[str, int] = {}
        for use in self.uses:
            if use.refused:
                self.refused[use.path] = use.refused
                continue
            tried = {r.format: outcomes[(use.exchange.digest, r)] for r in recipes.get(use.path, ())}
            if heavy := self._heavy(use, tried):
                findings.append(heavy)
                remaining[use.path] = heavy.of_bytes - heavy.bytes
            elif tried:
                self.refused[use.path] = next(iter(tried.values())).refused or "would not become smaller"
        return [*findings, *self._unasked(remaining), *self._on_phones(remaining)]

    def _recipes(self, use: FilmUse) -> list[VideoRecipe]:
        return [VideoRecipe(**self._params(use), format=format) for format in FORMATS]

    def _params(self, use: FilmUse) -> dict[str, Any]:
        assert use.info is not None
        shown = max((film.paint_width * density_of_films(device) for _, device, film in use.showings), default=0)
        width = math.ceil(shown / 2) * 2
        similarity = max(LEAST_SIMILARITY, round(self.effort.similarity - 0.01, 3))
        mute = bool(use.info.sound) and use.background
        return {"width": width if 0 < width < use.info.width else 0, "similarity": similarity, "mute": mute}

    def _heavy(self, use: FilmUse, tried: dict[str, Outcome]) -> Finding | None:
        made = {format: outcome for format, outcome in tried.items() if not outcome.refused}
        size = use.exchange.size
        smallest = min((outcome.size for outcome in made.values()), default=size)
        if size - smallest < _WORTH or use.info is None:
            return None
        formats = [format for format in FORMATS if format in made]
        params = FilmParams(**self._params(use), formats=tuple(formats))
        best = min(made.values(), key=lambda outcome: outcome.size)
        return Finding(
            id=f"film:{use.path}",
            excess="heavy-film",
            kind="media",
            title=f"A video of {size / 1000:,.0f} kB needs only {smallest / 1000:,.0f} kB",
            why=f"{use.info.width}x{use.info.height} px, {use.info.seconds:.0f} s. It was encoded again and "
            "compared frame by frame.",
            pages=use.pages,
            bytes=size - smallest,
            of_bytes=size,
            requests=0,
            tried=True,
            facts=FilmFacts(
                where=_places(use),
                codec=use.info.codec,
                natural=[use.info.width, use.info.height],
                seconds=round(use.info.seconds, 1),
                sound="left out" if params.mute else use.info.sound or "none",
                becomes=f"{best.format} {best.width}x{best.height}",
                likeness=best.likeness,
            ),
            changes=(Change(f"film:{use.path}", "film", (use.path,), use.pages, params),),
        )

    def _unasked(self, left: dict[str, int]) -> list[Finding]:
        """Films that load before a visitor asks for them."""
        findings = []
        for use in self.uses:
            films = [(device, film) for _, device, film in use.showings]
            asked = [f for _, f in films if f.autoplay]
            far = all(f.visible and f.y >= d.height + MARGIN for d, f in films)
            if use.refused or (asked and not (far and len(asked) == len(films) and use.background)):
                continue
            if not use.sent or all(f.preload == "none" for _, f in films):
                continue
            size = min(left.get(use.path, use.sent), use.sent)
            why = "It plays far below the first view" if asked else "Nobody has pressed play yet"
            params = LazyFilmParams(width=_poster_width(use))
            change = Change(f"lazy-films:{use.path}", "lazy-films", (use.path,), use.pages, params)
            findings.append(
                Finding(
                    id=change.id,
                    excess="loaded-early",
                    kind="media",
                    title="A video loads before it is in view" if asked else "A video loads before anyone plays it",
                    why=f"{why}; its first frame can show until then.",
                    pages=use.pages,
                    bytes=size,
                    of_bytes=use.sent,
                    requests=1,
                    tried=False,
                    facts=PlaceFacts(where=_places(use)),
                    changes=(change,),
                )
            )
        return findings

    def _on_phones(self, left: dict[str, int]) -> list[Finding]:
        """Films behind a page that phones load too."""
        findings = []
        for use in self.uses:
            narrow = [d for _, d, _ in use.showings if d.width <= _NARROW]
            if use.refused or not use.background or not narrow or not self.effort.resizes:
                continue
            size = left.get(use.path, use.sent)
            fit = next(f.fit for _, d, f in use.showings if d.width <= _NARROW)
            params = PosterParams(below=_NARROW, width=_poster_width(use, _NARROW), fit=fit if fit in _FITS else "")
            findings.append(
                Finding(
                    id=f"poster:{use.path}",
                    excess="film-on-phones",
                    kind="media",
                    title="Phones load a video that only moves behind the page",
                    why="Its first frame is enough there; wider windows play it as before.",
                    pages=use.pages,
                    bytes=size,
                    of_bytes=use.sent,
                    requests=1,
                    tried=False,
                    facts=PlaceFacts(where=_places(use)),
                    changes=(Change(f"poster:{use.path}", "poster", (use.path,), use.pages, params),),
                )
            )
        return findings


def _poster_width(use: FilmUse, below: float = math.inf) -> int:
    """Px of a picture that is sharp wherever windows no wider than this show the film; 0 for as it is."""
    shown: dict[str, float] = defaultdict(float)
    for device, film in ((d, f) for _, d, f in use.showings if d.width <= below):
        shown[device.name] = max(shown[device.name], film.paint_width * min(device.density, 2))
    width = math.ceil(max(shown.values(), default=0))
    return width if use.info and 0 < width < use.info.width else 0


def find(context: Context) -> Found:
    """All excess of films, and why the others are left alone."""
    films = FilmSurvey(context)
    excess = films.find()
    return Found(tuple(excess), tuple(Notice(path, reason) for path, reason in films.refused.items()))


SURVEYOR = Surveyor("heavy films", find, (FilmFacts, PlaceFacts), remedies=("film", "lazy-films", "poster"))
