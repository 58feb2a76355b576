"""A film coded again."""

from __future__ import annotations

from dataclasses import dataclass

from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.films.elements import put, sources_of, tags_of
from unladen.remedies.images.replacing import width
from unladen.remedies.journal import Withheld
from unladen.remedies.spec import Remedy
from unladen.video.encode import VideoRecipe

FORMATS = ("AV1", "H264")


@dataclass(frozen=True, slots=True, kw_only=True)
class FilmParams(Params):
    """`formats`, `width` in px (0: as it is), `similarity` to hold, `mute`: without sound."""

    formats: tuple[str, ...] = fields.words(*FORMATS, default=FORMATS)
    width: int = width()
    similarity: float = fields.share(0.95)
    mute: bool = fields.flag()


def apply(change: Change[FilmParams], draft: Draft) -> None:
    """Offer the smaller files before the one as found, or in its place where the older format got smaller too."""
    params = change.params
    for path, film in draft.targets(change):
        made = {}
        for format in params.formats:
            outcome = draft.work_cache.outcome(
                film.digest, VideoRecipe(format, params.width, params.similarity, params.mute)
            )
            if outcome.refused:
                draft.notice(path, outcome.refused)
            else:
                made[format] = draft.files.new_file(film, outcome, outcome.width)
        tags = list(tags_of(draft, change, film)) if made else []
        if made and not tags:
            draft.notice(path, "is not shown by a video element")
        for tag in tags:
            sources = sources_of(draft, tag)
            sources.made = [(format, file.url) for format, file in made.items()]
            sources.keeps_own = "H264" not in made
            if put(change, draft, tag):
                pages = frozenset({draft.path(tag.page)})
                for file in made.values():
                    draft.files.offer(change, film, file, pages, measured=True)
                draft.journal.write(Withheld(change.id, film.url, draft.path(tag.page)))


REMEDY = Remedy(
    name="film",
    phase="media",
    params=FilmParams,
    title="Compress videos",
    what="Encoded again and compared frame by frame",
    detail=(
        "Encodes videos as AV1 and H.264, at most 1.5 px per CSS px wide, without sound behind a page. Takes the "
        "coarsest encoding whose mean SSIM reaches the target."
    ),
    apply=apply,
    least_effort="steady",
    may_edit_pages=True,
    needs_new_names=True,
)
