"""A capture in the course of being changed. Remedies see and change the site through it alone."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass, field
from typing import Any

from unladen.remedies.draft.edits import TextEdits
from unladen.remedies.draft.site import SiteView
from unladen.remedies.draft.versions import FileVersions
from unladen.remedies.settings import Delivery, ImageSettings
from unladen.work_cache import WorkCache


@dataclass(slots=True)
class Draft(SiteView):
    """A site and what changes want of it: `edits` of texts, `files` that are new. The build makes a capture of them.

    `kept` gives the selectors of elements that a remedy must not edit, by its name. `notes` is room for what remedies
    know of one place in a text, by its URL and position. `packed` are the URLs of texts to be packed ahead of time,
    each with the change that wants it. `lifetimes`: for how many s browsers may keep files, by URL. `trial`: the result
    is only looked at.
    """

    work_cache: WorkCache
    images: ImageSettings = field(default_factory=ImageSettings)
    delivery: Delivery = field(default_factory=Delivery)
    kept: Callable[[str], Collection[str]] = lambda _: ()
    trial: bool = False
    packed: dict[str, str] = field(default_factory=dict)
    lifetimes: dict[str, int] = field(default_factory=dict)
    notes: dict[tuple[str, int], Any] = field(default_factory=dict)
    edits: TextEdits = field(init=False)
    files: FileVersions = field(init=False)

    def __post_init__(self) -> None:
        SiteView.__post_init__(self)
        self.edits = TextEdits(self, self.delivery, self.kept)
        self.files = FileVersions(self, self.edits, self.work_cache)
