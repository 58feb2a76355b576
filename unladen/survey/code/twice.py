"""Scripts and style sheets that a page loads twice: the same file under two names, or a library in two versions."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from unladen.capture import Exchange
from unladen.markup.css import css_urls
from unladen.remedies import Change
from unladen.remedies.change import Params
from unladen.remedies.images.merge import MergeParams
from unladen.survey.findings import Facts, FilesFacts, Finding
from unladen.survey.site_facts import SiteFacts
from unladen.survey.spec import Context, Found, Surveyor

_HEAD = 600  # characters in which a library says what it is
_VERSION = r"v?(\d+\.\d+(?:\.\d+)?)"
_SAYS = re.compile(
    r"([A-Za-z][\w.-]{1,40})(?: JavaScript Library| for Bootstrap)?,? (?:v(?:ersion)?:? ?)?" + _VERSION
)
_CALLED = re.compile(r"^([A-Za-z][\w.-]*?)[-@.]" + _VERSION + r"(?:[.-](?:slim|bundle|min|prod))*\.(?:js|css)$")
_LEADING = re.compile(r"\s*(?:/\*(.*?)\*/|//([^\n]*(?:\n//[^\n]*)*))", re.S)
_ENDING = re.compile(r"(?:[.-](?:js|min|slim|bundle|core|umd))+$")
# What a script must not ask for that is to be fetched under another name.
_OWN_ADDRESS = re.compile(r"currentScript|document\.scripts|getElementsByTagName\(\s*[\"']script|import\.meta")


@dataclass(frozen=True, slots=True, kw_only=True)
class LibraryFacts(Facts):
    """The versions of a library by file."""

    about: Literal["library"] = "library"
    versions: dict[str, str]


def find(context: Context) -> Found:
    """One excess for each file that comes under several names, and one for each library that is there twice."""
    evidence = context.evidence
    asked = {kind: evidence.asked_for(kind) for kind in ("scripts", "styles")}
    findings = [excess for kind, files in asked.items() for excess in _same(context, kind, files)]
    return Found((*findings, *_versions(evidence, asked["scripts"])))


def _same(context: Context, kind: str, files: dict[str, list[str]]) -> Iterator[Finding]:
    evidence = context.evidence
    by_digest: dict[str, list[Exchange]] = defaultdict(list)
    for url in files:
        by_digest[evidence.capture.exchanges[url].digest].append(evidence.capture.exchanges[url])
    for alike in by_digest.values():
        if len(alike) < 2 or evidence.texts.pinned() & {e.url for e in alike}:
            continue
        kept, *others = sorted(alike, key=lambda e: (len(e.url), e.url))
        others = [other for other in others if _may_stand_for(evidence, kind, kept, other, context.scope)]
        twice = [page for page in files[kept.url] if any(page in files[other.url] for other in others)]
        if not others or not twice:
            continue
        into = evidence.path(kept.url)
        change = Change(
            f"merge:{into}",
            "merge",
            tuple(evidence.path(other.url) for other in others),
            context.scope,
            MergeParams(into=into),
        )
        size = evidence.capture.sent_size(kept)
        yield Finding(
            id=change.id,
            excess="same-file-twice",
            kind=kind,
            title=f"{into.rsplit('/', 1)[-1]} exists under {len(others) + 1} names",
            why="The files are the same, byte for byte: a browser that knows them by one name fetches them once, "
            "and does the same.",
            pages=tuple(twice),
            bytes=size * len(others),
            of_bytes=size * (len(others) + 1),
            requests=len(others),
            tried=True,
            facts=FilesFacts(files={evidence.path(e.url): 0 for e in (kept, *others)}),
            changes=(change,),
        )


def _may_stand_for(evidence: SiteFacts, kind: str, kept: Exchange, other: Exchange, scope: Sequence[str]) -> bool:
    """Whether a file does the same under another's address, and the pages that name it may be changed."""
    text = evidence.texts.text(other)
    if text is None or not evidence.texts.within(evidence.texts.all_uses().get(other.url, []), scope):
        return False
    if kind == "styles":
        here, there = (evidence.texts.base(e).rpartition("/")[0] for e in (kept, other))
        return here == there or not any(True for _ in css_urls(text.chars))
    return not _OWN_ADDRESS.search(text.chars)


def _versions(evidence: SiteFacts, files: dict[str, list[str]]) -> Iterator[Finding]:
    by_name: dict[str, dict[str, str]] = defaultdict(dict)  # version by URL
    for url in files:
        exchange = evidence.capture.exchanges[url]
        text = evidence.texts.text(exchange)
        known = library_of(text.chars if text else "", url.rsplit("/", 1)[-1])
        if known:
            by_name[known[0]][url] = known[1]
    for name, versions in sorted(by_name.items()):
        pages = [p for p in evidence.pages if sum(p in files[url] for url in versions) > 1]
        alike = {evidence.capture.exchanges[url].digest for url in versions}
        if not pages or len(alike) < len(versions):
            continue
        sizes = {url: evidence.capture.sent_size(evidence.capture.exchanges[url]) for url in versions}
        by_path = {evidence.path(url): version for url, version in versions.items()}
        yield Finding(
            id=f"library:{name}",
            excess="library-twice",
            kind="scripts",
            title=f"{name} is there {len(versions)} times: {', '.join(dict.fromkeys(versions.values()))}",
            why=(
                "Each is fetched and run. What was written for one may not work with the other, so the choice is "
                "yours; "
                "the check looks at it."
            ),
            pages=tuple(pages),
            bytes=min(sizes.values()),
            of_bytes=sum(sizes.values()),
            requests=1,
            tried=False,
            facts=LibraryFacts(versions=by_path),
            # Off until somebody chooses: a check sees what visitors see, and no more.
            changes=tuple(
                Change(f"leave-out:{path}", "leave-out", (path,), tuple(pages), Params(), on=False)
                for path in by_path
            ),
        )


def library_of(chars: str, name: str) -> tuple[str, str] | None:
    """What a script is, by its leading comment and the name of its file: the library's name and version.

    A comment counts only where it speaks of what the file is called: parts and plugins speak of other libraries.
    """
    if called := _CALLED.match(name):
        return _ENDING.sub("", called[1].lower()), called[2]
    comment = _LEADING.match(chars[: _HEAD * 4])
    stem = _ENDING.sub("", name.lower().removesuffix(".js"))
    for said in _SAYS.finditer((comment[1] or comment[2] or "")[:_HEAD] if comment else ""):
        known = _ENDING.sub("", said[1].lower())
        if known == stem or stem.endswith("." + known):
            return known, said[2]
    return None


SURVEYOR = Surveyor("loaded twice", find, (FilesFacts, LibraryFacts), remedies=("merge", "leave-out"))
