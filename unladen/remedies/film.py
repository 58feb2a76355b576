"""A film coded again. Parameters: `formats` (AV1, H264), `width` in px (0: as it is), `similarity`, `mute`."""

from __future__ import annotations

from unladen.film.encode import FilmRecipe
from unladen.plan import Change
from unladen.remedies.draft import Draft
from unladen.remedies.filming import put, sources_of, tags_of


def apply(change: Change, draft: Draft) -> None:
    """Offer the smaller files before the one as found, or in its place where the older format got smaller too."""
    width, similarity = int(change.params.get("width", 0)), float(change.params.get("similarity", 0.95))
    for path, film in draft.targets(change):
        made = {}
        for format in change.params.get("formats", ["AV1", "H264"]):
            outcome = draft.memo.recode(
                film.digest, FilmRecipe(format, width, similarity, bool(change.params.get("mute")))
            )
            if outcome.refused:
                draft.notice(path, outcome.refused)
            else:
                made[format] = draft.new_file(film, outcome, outcome.width)
        tags = list(tags_of(draft, change, film)) if made else []
        if made and not tags:
            draft.notice(path, "is shown by no video element of the markup")
        for tag in tags:
            sources = sources_of(draft, tag)
            sources.made = [(format, file.url) for format, file in made.items()]
            sources.keeps_own = "H264" not in made
            if put(change, draft, tag):
                pages = frozenset({draft.path(tag.page)})
                for file in made.values():
                    draft.offer(change, film, file, pages, measured=True)
                draft.journal.withheld[(film.url, draft.path(tag.page))] = change.id
