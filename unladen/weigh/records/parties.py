"""Who caused a file, by the chain of requests from the page to it and not by its host alone."""

from __future__ import annotations

import fnmatch
import re
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from urllib.parse import urlsplit

from unladen.errors import BadInput
from unladen.weigh.records.model import Request

SITE, PLATFORM, THIRD_PARTY, EMBED = "site", "platform", "third party", "embed"
OWNERS = (SITE, PLATFORM, THIRD_PARTY, EMBED)
_MOST_RULES = 200
# Folders where platforms, themes and package managers put what the site's author did not write (common practice).
_PLATFORM_PATH = re.compile(
    r"/(themes?|templates?|plugins?|vendors?|libs?|lib|node_modules|bower_components|wp-content|wp-includes|modules|"
    r"frameworks?|dist/vendor)/",
    re.I,
)


@dataclass(frozen=True, slots=True)
class Party:
    """`kind` is one of `OWNERS`; `name` the host or what the user called it, "" for the site itself."""

    kind: str
    name: str = ""

    def as_json(self) -> dict[str, str]:
        """Plain values."""
        return {"kind": self.kind, "name": self.name}


@dataclass(frozen=True, slots=True)
class Rule:
    """Whose a host or path is: `pattern` is `host` or `host/path`, with `*` for any characters."""

    pattern: str
    kind: str
    name: str = ""

    def __post_init__(self) -> None:
        if self.kind not in OWNERS:
            raise BadInput(self.pattern, f"belongs to “{self.kind}”; use {', '.join(OWNERS)}")
        if not self.pattern.strip() or "://" in self.pattern or len(self.pattern) > 300:
            raise BadInput(self.pattern or "(empty)", "is not a pattern; use host or host/path, with * for the rest")

    def holds(self, url: str) -> bool:
        """Whether an address is meant."""
        parts = urlsplit(url)
        host = parts.hostname or ""
        text = host + parts.path if "/" in self.pattern else host
        return fnmatch.fnmatchcase(text, self.pattern.lower() if "/" not in self.pattern else self.pattern)


def rules_from(rows: Sequence[dict[str, str]]) -> list[Rule]:
    """Rules from plain values; raises `BadInput`."""
    if len(rows) > _MOST_RULES:
        raise BadInput("rules", f"are more than {_MOST_RULES}")
    return [Rule(row["pattern"].strip(), row["kind"], row.get("name", "").strip()[:100]) for row in rows]


class Causes:
    """Chains and bringers of the requests of one visit; the first request is the page."""

    def __init__(self, requests: Sequence[Request], base_url: str, rules: Sequence[Rule] = ()) -> None:
        self.requests = requests
        self.rules = rules
        self._home = (urlsplit(base_url).hostname or "").removeprefix("www.")
        self._first: dict[str, int] = {}
        self._redirects: dict[str, int] = {}
        self.parents: list[int] = []
        self.bringers: list[Party] = []
        for i, request in enumerate(requests):
            self.parents.append(self._parent(i))
            self._first.setdefault(request.url, i)
            if request.redirect:
                self._redirects[request.redirect] = i
        for i in range(len(requests)):
            self.bringers.append(self._bringer(i))

    def chain(self, i: int) -> list[int]:
        """The requests from the page to this one, both included."""
        result = [i]
        while self.parents[result[-1]] >= 0:
            result.append(self.parents[result[-1]])
        return result[::-1]

    def is_own(self, url: str) -> bool:
        """Whether an address is the site's or its platform's: by the user's rules, else by its host.

        A document that stands in the page itself (`about:srcdoc`) is the page's.
        """
        if url.startswith("about:"):
            return True
        if rule := self._rule(url):
            return rule.kind in (SITE, PLATFORM)
        host = urlsplit(url).hostname or ""
        return host == self._home or host.endswith("." + self._home)

    def _rule(self, url: str) -> Rule | None:
        return next((rule for rule in self.rules if rule.holds(url)), None)

    def _parent(self, i: int) -> int:
        if i == 0:
            return -1
        request = self.requests[i]
        if request.url in self._redirects and self._redirects[request.url] < i:
            return self._redirects[request.url]
        # A third party that calls a library of the site's is the cause, not the library.
        scripts = sorted(request.stack, key=self.is_own)
        for url in (*scripts, request.initiator, request.frame):
            result = self._first.get(url)
            if result is not None and url != request.url:
                return result
        return 0

    def _bringer(self, i: int) -> Party:
        request = self.requests[i]
        if i == 0:
            return Party(SITE)
        if rule := self._rule(request.url):
            return Party(rule.kind, rule.name or (urlsplit(request.url).hostname or "") * (rule.kind != SITE))
        above = self.bringers[self.parents[i]]
        if above.kind in (THIRD_PARTY, EMBED):
            return above
        if not self.is_own(request.frame) and request.frame:
            return Party(EMBED, urlsplit(request.frame).hostname or request.frame)
        host = urlsplit(request.url).hostname or ""
        if not self.is_own(request.url):
            return Party(THIRD_PARTY, host)
        by_theme = self.requests[self.parents[i]].kind == "styles" and above.kind == PLATFORM
        if by_theme or _PLATFORM_PATH.search(urlsplit(request.url).path):
            return Party(PLATFORM, above.name if by_theme else "")
        return Party(SITE)


@dataclass(frozen=True, slots=True)
class Brought:
    """What one bringer brought: requests, bytes transferred, and the hosts that it came from."""

    kind: str
    name: str
    requests: int
    transferred: int
    hosts: list[str]


def brought_by(causes: Causes, count: int) -> list[Brought]:
    """A row for each bringer of the first so many requests, the site itself first and then the heaviest."""
    table: dict[tuple[str, str], list[Request]] = defaultdict(list)
    for request, bringer in zip(causes.requests[:count], causes.bringers, strict=False):
        if not request.cached:
            table[(bringer.kind, bringer.name)].append(request)
    rows = [
        Brought(
            kind,
            name,
            len(requests),
            sum(request.transferred for request in requests),
            sorted({urlsplit(request.url).netloc for request in requests}),
        )
        for (kind, name), requests in table.items()
    ]
    return sorted(rows, key=lambda row: (row.kind != SITE, -row.transferred))
