"""Edits and transforms of texts that changes want."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass, field
from enum import IntEnum

from unladen.capture import Exchange
from unladen.capture.mediatypes import is_page
from unladen.markup.edits import Edit
from unladen.markup.html import Element
from unladen.markup.references import repoint
from unladen.markup.site import Use
from unladen.remedies.draft.site import AnyChange, SiteView
from unladen.remedies.settings import Delivery

NO_EDITS = "needs a new name or an edited page, but the setting allows files of the same name only"
SHARED = "is also used by a page outside the scope"
PINNED = "is protected by an integrity attribute of a page"


@dataclass(frozen=True, slots=True)
class Pending:
    """An edit that a change wants. `attribute` may differ by it; "*" stands for all that name images, "" for none."""

    change: str
    edit: Edit
    attribute: str


class Stage(IntEnum):
    """When a transform has its turn: what goes, before what is written shorter."""

    IMPORTS = 5
    TRIM = 10
    FACES = 12
    BODIES = 15
    FONTS = 20
    MINIFY = 90


@dataclass(frozen=True, slots=True)
class Transform:
    """What a change makes of a whole text, after all edits by position. Lower stages come first. `names`: addresses
    that a style sheet may name by it and did not before.

    `make` is a pure function of the text that raises `ValueError` with the reason when it cannot do its work; it must
    be hashable, so that the same work on the same text is done once.
    """

    change: str
    stage: Stage
    make: Callable[[str], str]
    names: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Copy:
    """A text that some pages get for themselves, since others that name it stay as they are: `change` came first."""

    change: AnyChange
    pages: frozenset[str]
    transforms: list[Transform] = field(default_factory=list)


@dataclass(slots=True)
class TextEdits:
    """What changes want of the texts of a site.

    `kept` gives the selectors of elements that a remedy (by its name) must not edit. `copies` are of the texts of these
    URLs.
    """

    site: SiteView
    delivery: Delivery
    kept: Callable[[str], Collection[str]]
    pending: dict[str, list[Pending]] = field(default_factory=lambda: defaultdict(list))
    transforms: dict[str, list[Transform]] = field(default_factory=lambda: defaultdict(list))
    copies: dict[str, Copy] = field(default_factory=dict)
    _taken: dict[str, list[tuple[int, int]]] = field(default_factory=lambda: defaultdict(list))
    _moved: dict[str, list[Use]] = field(default_factory=dict)
    _spans: dict[tuple[str, tuple[str, ...]], list[tuple[int, int]]] = field(default_factory=dict)

    def uses_of(self, image: Exchange, pages: Iterable[str], via: Iterable[str] | None = None) -> list[Use]:
        """Where the texts that only these pages use name an image; `via` says how they may."""
        uses = self._moved.get(image.url)
        return self.site.texts.within(
            self.site.texts.all_uses().get(image.url, []) if uses is None else uses, pages, via
        )

    def edit(self, change: AnyChange, exchange: Exchange, edit: Edit, attribute: str = "") -> bool:
        """Plan an edit of a text as found; `attribute` names the HTML attribute that may differ by it.

        Says whether it may be done: not to a page where only files of the same name are wanted.
        """
        if self.delivery.same_names and is_page(exchange.media_type):
            self.site.notice(self.site.path(exchange), NO_EDITS)
            return False
        if any(start < edit.end and edit.start < end for start, end in self._taken[exchange.url]):
            return False  # the tag is another's by now
        if self._is_kept(change, exchange, edit):
            self.site.notice(self.site.path(exchange), "has a part on the keep list")
            return False
        self.pending[exchange.url].append(Pending(change.id, edit, attribute))
        return True

    def _is_kept(self, change: AnyChange, exchange: Exchange, edit: Edit) -> bool:
        """Whether an edit lies within an element that is kept as it is."""
        selectors = self.kept(change.remedy)
        if not selectors or not is_page(exchange.media_type):
            return False
        key = (exchange.url, tuple(selectors))
        if key not in self._spans:
            document = self.site.texts.document(exchange)
            result = [e for selector in selectors for e in document.matching(selector)] if document else []
            self._spans[key] = [(e.start, max(e.end, e.inner_end)) for e in result]
        return any(start <= edit.start and edit.end <= end for start, end in self._spans[key])

    def transform(
        self,
        change: AnyChange,
        exchange: Exchange,
        stage: Stage,
        make: Callable[[str], str],
        names: tuple[str, ...] = (),
    ) -> bool:
        """Plan a transform of a whole text (see `Transform`); whether it may be done, as for an edit.

        Where pages that stay as they are use the text too, those in scope get a copy of their own.
        """
        if self.delivery.same_names and is_page(exchange.media_type):
            self.site.notice(self.site.path(exchange), NO_EDITS)
            return False
        if exchange.url in self.site.texts.pinned():
            self.site.notice(self.site.path(exchange), PINNED)
            return False
        transform = Transform(change.id, stage, make, names)
        users = self.site.texts.users().get(exchange.url, set())
        if users <= set(change.pages):
            self.transforms[exchange.url].append(transform)
            return True
        copy = self._copy_for(change, exchange, frozenset(users.intersection(change.pages)))
        if copy is None:
            self.site.notice(self.site.path(exchange), SHARED)
            return False
        copy.transforms.append(transform)
        return True

    def _copy_for(self, change: AnyChange, exchange: Exchange, pages: frozenset[str]) -> Copy | None:
        """The copy of a text for these pages; None where they do not name it by themselves, or have none of their
        own.
        """
        known = self.copies.get(exchange.url)
        if known is not None:
            return known if known.pages == pages else None
        named = {self.site.path(use.text) for use in self.naming(exchange, pages) if is_page(use.text.media_type)}
        if self.delivery.same_names or not pages or named != pages:
            return None
        return self.copies.setdefault(exchange.url, Copy(change, pages))

    def naming(self, exchange: Exchange, pages: Iterable[str]) -> list[Use]:
        """Where texts that only these pages use ask for a style sheet or script."""
        return self.uses_of(exchange, pages, ("stylesheet", "import", "script"))

    def take(self, change: AnyChange, exchange: Exchange, element: Element, edit: Edit) -> bool:
        """Plan an edit that exchanges a whole tag; from then on no other change may edit it. Whether it may be done."""
        if any(p.edit.start < element.end and p.edit.end > element.start for p in self.pending[exchange.url]):
            self.site.notice(self.site.path(exchange), f"has a <{element.tag}> that two changes want to exchange")
            return False
        if not self.edit(change, exchange, edit):
            return False
        self._taken[exchange.url].append((element.start, element.end))
        return True

    def is_held(self, exchange: Exchange, element: Element) -> bool:
        """Whether a change before this one has seen to it that a script of a page does not run by itself."""
        return any(
            p.attribute == "type" and element.start < p.edit.end <= element.end for p in self.pending[exchange.url]
        )

    def point(self, change: AnyChange, use: Use, url: str) -> bool:
        """Let a reference name another file; whether it may be done."""
        text = self.site.texts.text(use.text)
        assert text is not None
        element = use.reference.element
        # A reference within the text of a script or style is guarded by the text around it, not by an attribute.
        attribute = "*" if element is not None and use.reference.via != "data" else ""
        if use.reference.via == "data" and element is not None:
            attribute = next(n for n, (start, end) in element.spans.items() if start <= use.reference.start < end)
        edit = repoint(text.chars, use.reference, url, self.site.texts.base(use.text))
        return self.edit(change, use.text, edit, attribute)

    def move_uses(self, kept: Exchange, other: Exchange, uses: list[Use]) -> None:
        """References to one file name another one from now on."""
        known = self.site.texts.all_uses()
        self._moved[kept.url] = [*self._moved.get(kept.url, known.get(kept.url, [])), *uses]
        self._moved[other.url] = [use for use in known[other.url] if use not in uses]
