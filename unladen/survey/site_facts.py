"""What the weigh-ins tell about every image, over all pages and devices."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from copy import copy
from dataclasses import dataclass, field, replace

from unladen.capture import Capture, Exchange
from unladen.capture.addresses import site_path, url_of_site_path
from unladen.markup.site import texts_of
from unladen.survey.inferred_facts import standing_in, walked_for
from unladen.weigh.records.conditions import Device
from unladen.weigh.records.model import Frame, ShownImage, WeighIn
from unladen.weigh.records.parties import Causes, Rule
from unladen.weigh.visits.walk import Walk


@dataclass(frozen=True, slots=True)
class Showing:
    """An image shown at one place of one page on one device."""

    page: str
    device: Device
    image: ShownImage


@dataclass(slots=True)
class ImageUse:
    """An image file of the capture and all its showings; `pages` are those that loaded it."""

    exchange: Exchange
    path: str
    showings: list[Showing] = field(default_factory=list)
    pages: list[str] = field(default_factory=list)

    @property
    def name(self) -> str:
        """The file's name."""
        return self.path.rsplit("/", 1)[-1]

    def loaded_by(self, page: str) -> None:
        """Remember a page that loaded it."""
        if page not in self.pages:
            self.pages.append(page)

    def places(self) -> dict[tuple[str, str], list[Showing]]:
        """Showings by page and element, over the devices.

        What is open on one device and has no box on another is hidden there, and nothing opens it: only the open ones
        count.
        """
        table: dict[tuple[str, str], list[Showing]] = {}
        for showing in self.showings:
            table.setdefault((showing.page, showing.image.selector), []).append(showing)
        for key, showings in table.items():
            table[key] = [showing for showing in showings if not showing.image.closed] or showings
        return table

    def sized(self) -> list[Showing]:
        """The showings that say how large it must be."""
        return [showing for showings in self.places().values() for showing in showings]


@dataclass(frozen=True, slots=True)
class SurveyInputs:
    """All that was seen of a site.

    Weigh-ins, and if there were any, repeat visits, walks, and whose hosts are whose. `kin` gives pages that nobody
    weighed, by path, each with the weighed one that stands for it.
    """

    weigh_ins: Sequence[WeighIn]
    repeats: Sequence[WeighIn] = ()
    walks: Sequence[Walk] = ()
    rules: Sequence[Rule] = ()
    kin: Mapping[str, str] = field(default_factory=dict)


class SiteFacts:
    """Images by use, from weigh-ins of a capture; beside them repeat visits and walks, if there were any.

    For the pages of `kin` stands what their kind lets expect of them; none of that is a measurement.

    Nobody alters it; who knows more makes another of it.
    """

    def __init__(
        self,
        capture: Capture,
        weigh_ins: Sequence[WeighIn],
        *,
        repeats: Sequence[WeighIn] = (),
        walks: Sequence[Walk] = (),
        rules: Sequence[Rule] = (),
        kin: Mapping[str, str] | None = None,
    ) -> None:
        self.capture = capture
        self.kin = dict(kin or {})
        self.weigh_ins = [*weigh_ins, *standing_in(capture, weigh_ins, self.kin)] if kin else weigh_ins
        self.repeats = repeats
        self.walks = [*walks, *walked_for(walks, self.kin)] if kin else walks
        self.rules = rules
        self._weighed: dict[str, list[WeighIn]] = {}
        self._shown: dict[str, list[tuple[ImageUse, list[Showing]]]] | None = None
        for weigh_in in self.weigh_ins:
            self._weighed.setdefault(weigh_in.page, []).append(weigh_in)
        self.pages = list(self._weighed)
        self.images: dict[str, ImageUse] = {}
        self.merged: dict[str, str] = {}  # files by URL, and the one with the same content that stands for them
        for weigh_in in self.weigh_ins:
            self._take(weigh_in)
        for walk in self.walks:
            self._take_later(walk)
        self.texts = texts_of(capture)

    @classmethod
    def of(cls, capture: Capture, inputs: SurveyInputs) -> SiteFacts:
        """From all that was seen."""
        return cls(
            capture,
            inputs.weigh_ins,
            repeats=inputs.repeats,
            walks=inputs.walks,
            rules=inputs.rules,
            kin=inputs.kin,
        )

    def on(self, page: str) -> list[WeighIn]:
        """The weigh-ins of a page, by path."""
        return self._weighed.get(page, [])

    def shown_on(self, page: str) -> list[tuple[ImageUse, list[Showing]]]:
        """The images that a page shows, in their order, each with its showings there."""
        if self._shown is None:
            self._shown = {}
            for use in self.images.values():
                by_page: dict[str, list[Showing]] = {}
                for showing in use.showings:
                    by_page.setdefault(showing.page, []).append(showing)
                for path, showings in by_page.items():
                    self._shown.setdefault(path, []).append((use, showings))
        return self._shown.get(page, [])

    def merging(self, same: Mapping[str, str]) -> SiteFacts:
        """Another one, in which each of these files (URL) is shown by the one that stands for it."""
        new = copy(self)
        new.merged = self.merged | dict(same)
        new._shown = None
        new.images = {url: use for url, use in self.images.items() if url not in same}
        for url, other in same.items():
            kept, gone = new.images[other], self.images[url]
            pages = list(dict.fromkeys([*kept.pages, *gone.pages]))
            new.images[other] = replace(kept, showings=[*kept.showings, *gone.showings], pages=pages)
        return new

    def asked_for(self, kind: str = "") -> dict[str, list[str]]:
        """The site's own files (of a kind) that loads asked for, by URL, each with the pages that did."""
        asked: dict[str, list[str]] = {}
        for weigh_in in self.weigh_ins:
            for request in weigh_in.visit.requests:
                exchange = self.capture.lookup(request.url) if request.status == 200 else None
                if exchange is None or not self.capture.owns(exchange.url) or kind not in ("", request.kind):
                    continue
                pages = asked.setdefault(exchange.url, [])
                if weigh_in.page not in pages:
                    pages.append(weigh_in.page)
        return asked

    def causes(self, weigh_in: WeighIn) -> Causes:
        """Chains and bringers of a weigh-in's requests."""
        return Causes(weigh_in.visit.requests, self.capture.base_url, self.rules)

    def path(self, url: str) -> str:
        """How an address is shown."""
        return site_path(self.capture.base_url, url)

    def file(self, path: str) -> Exchange | None:
        """The file that is shown so."""
        return self.capture.lookup(url_of_site_path(self.capture.base_url, path))

    def view_width(self, showing: Showing) -> float:
        """The width of the window in CSS px as the styles of a showing's page see it."""
        here = (w for w in self.on(showing.page) if w.conditions.device == showing.device)
        return next((w.facts.view_width for w in here if w.facts.view_width), showing.device.width)

    def widths_on(self, page: str, url: str) -> list[tuple[int, float]]:
        """(window, shown width) in CSS px of an image on a page; empty where one page shows it at several widths."""
        result: list[list[tuple[int, float]]] = []
        for weigh_in in self.on(page):
            layout = weigh_in.facts.layout
            for shown, widths in layout.widths.items():
                file = self._file(shown)
                if self.merged.get(file, file) == url:
                    if shown in layout.mixed:
                        return []
                    result.append(list(zip(layout.windows, widths, strict=True)))
        return result[0] if result and all(other == result[0] for other in result) else []

    def frame_on(self, page: str, url: str) -> Frame | None:
        """The frames that an image covers on a page, over all windows; None where nobody knows them, or not for
        sure.
        """
        result = [
            frame
            for weigh_in in self.on(page)
            for shown, frame in weigh_in.facts.layout.frames.items()
            if self.merged.get(self._file(shown), self._file(shown)) == url
        ]
        return Frame.over(result)

    def _file(self, url: str) -> str:
        exchange = self.capture.lookup(url)
        return exchange.url if exchange else ""

    def _take(self, weigh_in: WeighIn) -> None:
        for request in weigh_in.visit.requests:
            if request.kind == "images" and request.status == 200 and (use := self._use(request.url)):
                use.loaded_by(weigh_in.page)
        for image in weigh_in.facts.images:
            if use := self._use(image.url):
                use.showings.append(Showing(weigh_in.page, weigh_in.conditions.device, image))
                use.loaded_by(weigh_in.page)

    def _take_later(self, walk: Walk) -> None:
        """Pictures that come once a visitor does something; how large they are shown is not known."""
        for url in walk.came if walk.page in self.pages else ():
            exchange = self.capture.lookup(url)
            if exchange is not None and exchange.media_type.startswith("image/") and (use := self._use(url)):
                use.loaded_by(walk.page)

    def _use(self, url: str) -> ImageUse | None:
        exchange = self.capture.lookup(url)
        if exchange is None or exchange.status != 200 or not self.capture.owns(exchange.url):
            return None  # what is another's cannot be handed over
        if exchange.url not in self.images:
            self.images[exchange.url] = ImageUse(exchange, site_path(self.capture.base_url, exchange.url))
        return self.images[exchange.url]


def places_of(uses: Iterable[ImageUse], pages: Collection[str]) -> list[str]:
    """Selectors of the elements that show these on these pages, at most twenty."""
    return sorted({s.image.selector for use in uses for s in use.showings if s.page in pages})[:20]
