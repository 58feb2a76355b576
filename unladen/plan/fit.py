"""How far a plan fits a site: another copy of it than the one it was made for, or another site."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from unladen.capture import Capture
from unladen.capture.addresses import site_path, url_of_site_path
from unladen.errors import Notice
from unladen.plan.document import AnyChange, Plan


@dataclass(frozen=True, slots=True)
class Fit:
    """`plan` is what of a plan can be carried out on a site; a change of which nothing is left is off in it.

    `whole` are the ids of wanted changes that fit as they are, `partly` what is not in the site of those that do in
    part, `gone` the ids of those of which nothing is in the site.
    """

    plan: Plan
    whole: tuple[str, ...]
    partly: Mapping[str, tuple[str, ...]]
    gone: tuple[str, ...]
    missing: tuple[str, ...]

    def notices(self) -> list[Notice]:
        """What is missing, each once."""
        return [Notice(path, "the plan names this file; the site does not have it") for path in self.missing]


def fit(plan: Plan, capture: Capture) -> Fit:
    """Hold a plan against a site. Files of other hosts are known by their addresses."""
    pages = {site_path(capture.base_url, page.url) for page in capture.pages()}
    known: dict[str, bool] = {}

    def there(path: str) -> bool:
        if path not in known:
            url = url_of_site_path(capture.base_url, path)
            known[path] = path in pages or capture.lookup(url) is not None
        return known[path]

    whole, gone = [], []
    partly: dict[str, tuple[str, ...]] = {}

    def fitted(change: AnyChange) -> AnyChange:
        if not change.on:
            return change
        lost = tuple(path for path in dict.fromkeys((*change.targets, *change.pages)) if not there(path))
        if not lost:
            whole.append(change.id)
            return change
        targets, scope = (tuple(p for p in some if there(p)) for some in (change.targets, change.pages))
        if targets and scope:
            partly[change.id] = lost
        else:
            gone.append(change.id)
        return replace(change, targets=targets, pages=scope, on=bool(targets and scope))

    new = plan.changed(fitted)
    return Fit(
        new, tuple(whole), partly, tuple(gone), tuple(path for path, is_there in known.items() if not is_there)
    )
