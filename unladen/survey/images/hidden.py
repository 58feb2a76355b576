"""Images of slides and panels that load before anyone sees them."""

from __future__ import annotations

from unladen.remedies import Change, Params
from unladen.survey.findings import Finding, PlaceFacts
from unladen.survey.site_facts import ImageUse, places_of
from unladen.survey.spec import Context, Found, Surveyor
from unladen.weigh.records.model import ShownImage


def find(context: Context) -> Found:
    """One excess for the images that the same pages hide, so that no file counts twice."""
    evidence, left = context.evidence, context.left("heavy images")
    groups: dict[tuple[str, ...], list[ImageUse]] = {}
    for use in evidence.images.values():
        if pages := tuple(page for page, here in _by_page(use).items() if _hides(use, page, here)):
            groups.setdefault(pages, []).append(use)
    findings = []
    for pages, uses in groups.items():
        cured = tuple(use.path for use in uses if _can_wait(use, pages))
        change = Change(f"lazy-images-hidden:{uses[0].path}", "lazy-images", cured, pages, Params())
        size = sum(left.get(use.exchange.url, use.exchange.size) for use in uses)
        many = f"{len(uses)} pictures load" if len(uses) > 1 else "A picture loads"
        findings.append(
            Finding(
                id=f"hidden:{uses[0].path}",
                excess="loaded-unseen",
                kind="images",
                title=f"{many} before anything shows them" if len(uses) > 1 else f"{many} before anything shows it",
                why="They are in slides, panels or menus that are closed when the page opens, on all weighed devices.",
                pages=pages,
                bytes=size,
                of_bytes=size,
                requests=len(uses),
                tried=False,
                facts=PlaceFacts(where=places_of(uses, pages)),
                changes=(change,) if cured else (),
                advice="Load them when their slide or panel opens: loading=lazy on the images, or the slider's "
                "own setting.",
                files=tuple(use.path for use in uses),
            )
        )
    return Found(tuple(findings))


def _can_wait(use: ImageUse, pages: tuple[str, ...]) -> bool:
    """Whether browsers can put an image off by themselves wherever these pages have it."""
    return all(s.image.via in ("img", "picture") for s in use.showings if s.page in pages) and bool(use.showings)


def _by_page(use: ImageUse) -> dict[str, list[ShownImage]]:
    result: dict[str, list[ShownImage]] = {}
    for showing in use.showings:
        result.setdefault(showing.page, []).append(showing.image)
    return result


def _hides(use: ImageUse, page: str, here: list[ShownImage]) -> bool:
    """Whether a page loads an image at once and shows it nowhere, on any device."""
    return page in use.pages and not any(i.visible or i.covered or i.loading == "lazy" for i in here)


SURVEYOR = Surveyor(
    "hidden images", find, (PlaceFacts,), needs=("heavy images",), remedies=("lazy-images",), advises=True
)
