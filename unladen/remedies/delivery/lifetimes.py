"""How long browsers may keep what seldom changes."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

from unladen.capture import Exchange
from unladen.remedies import fields
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.spec import Remedy, Setting

DAY = 86_400  # s
YEAR = 365 * DAY
# Pictures, fonts and films: who changes one gives it another name as a rule. Not so styles and scripts.
KEPT = ("image/", "font/", "audio/", "video/")
# How files of ours are called by what is in them, for servers too. A letter must be there: eight digits may be a date.
BY_CONTENT = r"-(?=[0-9]*[a-f])[0-9a-f]{8}\.[\w.]+$"
FOR_GOOD = f"public, max-age={YEAR}, immutable"  # RFC 9111, RFC 8246
_FIELDS = ("cache-control", "expires", "pragma")


@dataclass(frozen=True, slots=True, kw_only=True)
class LifetimeParams(Params):
    """`days` for which a browser need not ask again."""

    days: int = fields.whole(1, 365, 7)


def seldom_changes(exchange: Exchange) -> bool:
    """Whether a file is of those that may be kept by its name alone."""
    return exchange.status == 200 and exchange.media_type.startswith(KEPT)


def says_its_content(path: str) -> bool:
    """Whether a file is one of ours that is called by what is in it."""
    return re.search(BY_CONTENT, path) is not None


def lifetime_of(seconds: int) -> str:
    """The field `Cache-Control` of what may be kept for so many seconds."""
    return f"public, max-age={seconds}"


def kept_for(exchange: Exchange, seconds: int) -> Exchange:
    """The same file with a lifetime."""
    lifetime = FOR_GOOD if says_its_content(exchange.path) else lifetime_of(seconds)
    others = tuple((name, value) for name, value in exchange.headers if name.lower() not in _FIELDS)
    return replace(exchange, headers=(*others, ("cache-control", lifetime)))


def seconds_in(changes: Iterable[Change[Any]]) -> int:
    """The longest lifetime that changes give by the name alone, in s; 0 where none does."""
    return max((c.params.days * DAY for c in changes if isinstance(c.params, LifetimeParams)), default=0)


def apply(change: Change[LifetimeParams], draft: Draft) -> None:
    """Give the targets a lifetime, and with them whatever the site gets under a name that says its content."""
    for path, exchange in draft.targets(change):
        if seldom_changes(exchange):
            draft.lifetimes[exchange.url] = change.params.days * DAY
        else:
            draft.notice(path, "changes often, so it gets no lifetime")


REMEDY = Remedy(
    name="lifetimes",
    phase="delivery",
    params=LifetimeParams,
    title="Cache lifetimes",
    what="Images, fonts and videos stay in the browser's cache",
    detail=(
        "Sets a lifetime for images, fonts and videos, so that repeat visits do not request them. New files named by "
        "their content may stay in the cache for good. Styles, scripts and pages are requested as before. Needs the "
        "server rules in the archive."
    ),
    apply=apply,
    steadies=True,
    settings=(Setting("days", "Kept for", unit="days", low=1, high=365),),
)
