"""What is known of pages that nobody weighed from the one of their kind that was.

A page of the same structure, with the same style sheets and scripts, shows at each place as wide a picture as its
kind does; which file that is, its own markup says. Where the two do not tell alike, nothing is claimed: a picture of
which nobody knows how large it is shown is not made smaller.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TypeVar
from urllib.parse import urljoin

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import site_path
from unladen.markup.html import Document, Element
from unladen.markup.references import resolve
from unladen.markup.site import SiteTexts, texts_of
from unladen.raster.probe import ImageRefused, probe
from unladen.raster.svg import check_svg
from unladen.weigh.page.embeds import Embed
from unladen.weigh.page.films import ShownFilm
from unladen.weigh.records.model import Frame, Layout, PageFacts, Request, ShownImage, Structure, Visit, WeighIn
from unladen.weigh.visits.walk import Walk

_ALIKE = 0.01  # by which the shapes of two pictures may differ to be as good as the same
_SIZED = ("cover", "contain", "scale-down", "none")
# What decides how large a picture is shown: attributes that both must have or lack, and those that must say the same.
_SHAPING, _STYLING = ("width", "height", "sizes", "srcset"), ("class", "style")
_HOLDERS = ("img", "iframe", "video")
T = TypeVar("T")


def standing_in(capture: Capture, weigh_ins: Sequence[WeighIn], kin: Mapping[str, str]) -> Iterator[WeighIn]:
    """For each page of `kin` what its own page's weigh-ins let expect of it, under the same conditions.

    Timings are those of the other page, so that these are no measurements and stand in no sum.
    """
    texts = texts_of(capture)
    shapes = _Shapes(capture)
    by_page: dict[str, list[WeighIn]] = {}
    for weigh_in in weigh_ins:
        by_page.setdefault(weigh_in.page, []).append(weigh_in)
    for first, mine in by_page.items():
        siblings = [path for path, other in kin.items() if other == first]
        model = _Model.of(texts, capture.page(first)) if siblings else None
        for path in siblings if model else ():
            other = _Model.of(texts, capture.page(path))
            if model and other:
                pair = _Pair(capture, texts, model, other, shapes)
                yield from (pair.expected(weigh_in) for weigh_in in mine)


def walked_for(walks: Sequence[Walk], kin: Mapping[str, str]) -> Iterator[Walk]:
    """Walks that stand for those over the pages of `kin`: what is used there is used here."""
    for path, first in kin.items():
        yield from (replace(walk, page=path, came=[]) for walk in walks if walk.page == first)


class _Shapes:
    """Width and height in px of images by URL, each read once; (0, 0) for what cannot be read."""

    def __init__(self, capture: Capture) -> None:
        self.capture = capture
        self._known: dict[str, tuple[int, int]] = {}

    def of(self, url: str) -> tuple[int, int]:
        if url not in self._known:
            self._known[url] = self._read(url)
        return self._known[url]

    def _read(self, url: str) -> tuple[int, int]:
        exchange = self.capture.lookup(url)
        if exchange is None or exchange.status != 200:
            return 0, 0
        body = self.capture.body(exchange)
        try:
            if exchange.media_type == "image/svg+xml":
                width, height = check_svg(body)
                return round(width), round(height)
            info = probe(body)
        except ImageRefused:
            return 0, 0
        return info.width, info.height


@dataclass(slots=True)
class _Model:
    """A page's markup: its images, frames and films by place, and all images that it names."""

    page: Exchange
    document: Document
    base: str
    places: dict[str, Element]
    named: set[str]
    names: frozenset[str]

    @classmethod
    def of(cls, texts: SiteTexts, page: Exchange) -> _Model | None:
        document = texts.document(page)
        if document is None:
            return None
        named = {
            exchange.url
            for reference in texts.references(page)
            if reference.via not in ("stylesheet", "script", "import")
            and (exchange := texts.capture.lookup(reference.url))
            and exchange.media_type.startswith("image/")
        }
        names = {name for element in document.elements for name in _names(element)}
        base = urljoin(page.url, document.base)
        return cls(page, document, base, document.places(_HOLDERS), named, frozenset(names))


def _names(element: Element) -> Iterator[str]:
    """Its tag, classes and id, as selectors have them."""
    yield element.tag
    yield from ("." + name for name in element.attrs.get("class", "").split())
    if element.attrs.get("id"):
        yield "#" + element.attrs["id"]


@dataclass(slots=True)
class _Pair:
    """A page that was weighed, and one of its kind that was not."""

    capture: Capture
    texts: SiteTexts
    model: _Model
    other: _Model
    shapes: _Shapes
    # How many times as wide as its kind's picture the one in its place is shown, by its own address.
    wider: dict[str, float] = field(default_factory=dict)

    def expected(self, weigh_in: WeighIn) -> WeighIn:
        """What a weigh-in of the other page would tell, as far as its markup bears it out."""
        facts = weigh_in.facts
        same: dict[str, set[str]] = {}  # by the address of the model's picture, those at the same places
        images = [shown for image in facts.images if (shown := self._image(image, same)) is not None]
        known = {exchange.url for image in images if (exchange := self.capture.lookup(image.url))}
        images += [_unknown(url) for url in sorted(self.other.named - known)]
        one = {url: next(iter(others)) for url, others in same.items() if len(others) == 1}
        only_here = self.model.named - self.other.named
        lost = {url for url in only_here if url not in one}
        visit = weigh_in.visit
        largest = replace(visit.largest, url=one.get(self._found(visit.largest.url), visit.largest.url))
        return WeighIn(
            page=site_path(self.capture.base_url, self.other.page.url),
            conditions=weigh_in.conditions,
            visit=Visit(self._requests(visit.requests, one, lost, whole=True), [], visit.timings, largest),
            facts=PageFacts(
                images=images,
                films=[film for film in facts.films if self._stays(film)],
                embeds=[embed for embed in facts.embeds if self._stays(embed)],
                structure=Structure(nodes=0, depth=0, fonts=facts.structure.fonts),
                layout=self._layout(facts.layout, one, lost),
                scrolled=self._requests(facts.scrolled, one, lost),
                matched=facts.matched,
                names=facts.names,
                # What its first view holds beyond that of its kind nobody knows.
                first=facts.first if self._is_built_of_the_same() else [],
                page_height=facts.page_height,
                view_width=facts.view_width,
            ),
            browser=weigh_in.browser,
            taken=weigh_in.taken,
        )

    def _is_built_of_the_same(self) -> bool:
        """Whether no style sheet asks for anything that it has and the other page has not."""
        new = self.other.names - self.model.names
        path = site_path(self.capture.base_url, self.other.page.url)
        used = [self.capture.exchanges[url] for url, pages in self.texts.users().items() if path in pages]
        sheets = [text.chars for e in used if e.media_type == "text/css" and (text := self.texts.text(e))]
        return not any(name[0] not in ".#" or any(name in chars for chars in sheets) for name in new)

    def _found(self, url: str) -> str:
        exchange = self.capture.lookup(url) if url else None
        return exchange.url if exchange else url

    def _image(self, image: ShownImage, same: dict[str, set[str]]) -> ShownImage | None:
        """What stands at the same place, shown as its kind shows it; None where nothing does."""
        url = self._found(image.url)
        if image.via not in ("img", "picture"):
            # What style sheets bring is the same; what the markup names is not.
            return image if url not in self.model.named or url in self.other.named else None
        element, counterpart = self.model.places.get(image.selector), self.other.places.get(image.selector)
        if element is None or element.tag != "img":
            return image if url not in self.model.named else None
        if counterpart is None:
            return None
        name = next((n for n in element.attrs if self._named(self.model, element, n) == url), None)
        there = self._named(self.other, counterpart, name) if name else None
        if there is None:
            return None
        same.setdefault(url, set()).add(there)
        if there == url:
            return image
        return self._resized(image, there, element, counterpart)

    def _named(self, model: _Model, element: Element, name: str) -> str | None:
        url = resolve(model.base, element.attrs[name]) if name in element.attrs else None
        return self._found(url) if url else None

    def _resized(self, image: ShownImage, url: str, was_on: Element, element: Element) -> ShownImage:
        width, height = self.shapes.of(url)
        if not width or not height or not image.natural_width or not image.paint_width:
            return _unknown(url, image)
        new = replace(image, url=url, natural_width=width, natural_height=height)
        new.by_srcset = image.by_srcset or "srcset" in element.attrs
        new.loading = element.attrs.get("loading", "").lower()
        shape, was = height / width, image.natural_height / image.natural_width
        if any((name in element.attrs) != (name in was_on.attrs) for name in _SHAPING) or any(
            element.attrs.get(name) != was_on.attrs.get(name) for name in _STYLING
        ):
            return _unknown(url, image)
        if abs(shape / was - 1) < _ALIKE:
            return new
        if image.boxed and image.fit in _SIZED:
            across, down = image.width / width, image.height / height
            scales = {"cover": max(across, down), "contain": min(across, down), "scale-down": min(1, across, down)}
            scale = scales.get(image.fit, 1.0)
            new.paint_width, new.paint_height = width * scale, height * scale
            self.wider[url] = new.paint_width / image.paint_width
            return new
        if image.boxed:
            return new
        if image.free and image.fit not in _SIZED:
            # Which of its sides is given nobody knows: at least as wide, and at least as high.
            new.paint_width = max(image.paint_width, image.paint_height / shape)
            new.paint_height = new.paint_width * shape
            self.wider[url] = new.paint_width / image.paint_width
            new.width, new.height = (
                image.width + new.paint_width - image.paint_width,
                image.height + new.paint_height - image.paint_height,
            )
            return new
        return _unknown(url, image)

    def _stays(self, shown: Embed | ShownFilm) -> bool:
        """Whether the very same frame or film stands at the same place."""
        element, counterpart = self.model.places.get(shown.selector), self.other.places.get(shown.selector)
        return element is not None and counterpart is not None and element.attrs == counterpart.attrs

    def _requests(
        self, requests: Sequence[Request], one: Mapping[str, str], lost: set[str], *, whole: bool = False
    ) -> list[Request]:
        """Its requests: its own page and pictures in the place of the other's, and what both have."""
        page, other = self.model.page.url, self.other.page.url
        result = []
        for request in requests:
            url = self._found(request.url)
            if url in lost:
                continue
            moved = other if url == page else one.get(url, url)
            new = self._as(request, moved) if moved != url else request
            if page in (request.initiator, request.frame):
                initiator, frame = (other if url == page else url for url in (request.initiator, request.frame))
                new = replace(new, initiator=initiator, frame=frame)
            result.append(new)
        if whole:
            asked = {self._found(request.url) for request in result}
            result += [
                self._as(Request(url, "images", 200, frame=other, initiator=other), url)
                for url in sorted(self.other.named - asked)
                if self._comes_by_itself(url)
            ]
        return result

    def _comes_by_itself(self, url: str) -> bool:
        """Whether the markup asks for a picture as the page loads."""
        return any(
            self._found(reference.url) == url
            and reference.via == "img"
            and reference.element is not None
            and reference.element.attrs.get("loading", "").lower() != "lazy"
            for reference in self.texts.references(self.other.page)
        )

    def _as(self, request: Request, url: str) -> Request:
        exchange = self.capture.lookup(url)
        if exchange is None:
            return replace(request, url=url)
        size = self.capture.sent_size(exchange)
        return replace(request, url=url, body=size, decoded=exchange.size, media_type=exchange.media_type)

    def _layout(self, layout: Layout, one: Mapping[str, str], lost: set[str]) -> Layout:
        def moved(shown: Mapping[str, T]) -> dict[str, T]:
            pairs = ((self._found(url), url, value) for url, value in shown.items())
            return {one.get(result, url): value for result, url, value in pairs if result not in lost}

        frames: dict[str, Frame] = moved(layout.frames)
        mixed = list(moved(dict.fromkeys(layout.mixed, True)))
        widths = {url: [px * self.wider.get(url, 1.0) for px in shown] for url, shown in moved(layout.widths).items()}
        return Layout(layout.windows, widths, mixed, frames)


def _unknown(url: str, like: ShownImage | None = None) -> ShownImage:
    """A picture that the page has at a size that nobody knows."""
    selector, via = (like.selector, like.via) if like else ("", "img")
    return ShownImage(
        url, via, selector, 0, 0, 0, 0, 0, 0, 0, 0, visible=False, first_view=False, covered=True, free=False
    )
