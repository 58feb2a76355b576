"""What to put into a site by hand, in the order of worth: files to load up, snippets to copy, what to look at
afterwards.

For those who cannot hand over files as they are, but swap pictures and paste into the pages of a builder.
"""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from unladen.capture import Capture
from unladen.capture.addresses import site_path, url_of_site_path
from unladen.capture.mediatypes import is_page
from unladen.capture.paths import written_paths
from unladen.ledger.differences import changed_files, opcodes
from unladen.ledger.topics import Topic, topics_by_file
from unladen.markup.site import texts_of

# Comments, tags, and what stands between them; the text of scripts and styles is one piece.
_PIECES = re.compile(
    r"<!--.*?-->|<(?P<raw>script|style|textarea|title)\b[^>]*>.*?</(?P=raw)\s*>|<[^>]*>|[^<]+|<", re.S | re.I
)
_MOST_PIECES = 20_000
_BETWEEN = 3  # pieces between two places that make them one
_AROUND = 160  # characters of what stands before a place where nothing stood
_LONGEST = 20_000  # characters of a snippet


@dataclass(frozen=True, slots=True)
class Snippet:
    """On a page, `old` gives way to `new`; where `old` is empty, `new` comes right behind `after`."""

    page: str
    old: str
    new: str
    after: str = ""


@dataclass(frozen=True, slots=True)
class HandStep:
    """Something to do: files to load up (paths in the archive), and snippets.

    `key` tells it from others over runs; `bytes` are what it saves over all weigh-ins; `where` are pages to look at.
    """

    key: str
    title: str
    why: str
    bytes: int
    files: tuple[str, ...] = ()
    snippets: tuple[Snippet, ...] = ()
    pages: tuple[str, ...] = ()
    shows: str = ""


@dataclass(slots=True)
class _Gathered:
    files: dict[str, None] = field(default_factory=dict)
    snippets: list[Snippet] = field(default_factory=list)


def hand_steps(
    found: Capture, lighter: Capture, ledger: Mapping[str, Any], excess: Iterable[Mapping[str, Any]]
) -> list[HandStep]:
    """All that differs, as steps, those that save most first.

    A snippet belongs to the change whose file it names; what belongs to none is told page by page at the end.
    """
    topics = topics_by_file(ledger, excess)
    changed, new = changed_files(found, lighter)
    _, paths, _ = written_paths(lighter)
    gathered: dict[str, _Gathered] = {topic.id: _Gathered() for topic in topics}
    by_target = {target.rsplit("/", 1)[-1]: topic.id for topic in reversed(topics) for target in topic.targets}
    rest: dict[str, list[Snippet]] = {}
    whole: list[str] = []
    owners: dict[str, str] = {}
    for file in [*new, *changed]:
        if is_page(file.media_type):
            continue
        path = "/" + paths[file.url]
        owner = _owner(path, topics) or ""
        owners[path.rsplit("/", 1)[-1]] = owner
        if owner:
            gathered[owner].files[path] = None
    for page in (file for file in changed if is_page(file.media_type)):
        name = texts_of(lighter).path(page)
        before, after = (texts_of(c).text(c.exchanges[page.url]) for c in (found, lighter))
        snippets = snippets_of(name, before.chars, after.chars) if before and after else []
        if not snippets:  # too long to be told in pieces, or not to be read
            whole.append("/" + paths[page.url])
        for snippet in snippets:
            both = f"{snippet.old} {snippet.new}"
            owner = next((o for f, o in owners.items() if o and _is_named(f, snippet.new)), "")
            owner = owner or next((o for f, o in by_target.items() if _is_named(f, both)), "")
            (gathered[owner].snippets if owner else rest.setdefault(name, [])).append(snippet)
    steps = [
        HandStep(
            key=_key(topic.id),
            title=topic.title,
            why=topic.why,
            bytes=topic.bytes,
            files=tuple(gathered[topic.id].files),
            snippets=tuple(gathered[topic.id].snippets),
            pages=topic.pages,
            shows=topic.targets[0] if len(topic.targets) == 1 else "",
        )
        for topic in topics
        if gathered[topic.id].files or gathered[topic.id].snippets
    ]
    listed = {file for step in steps for file in step.files}
    others = (
        *whole,
        *(
            p
            for file in [*new, *changed]
            if (p := "/" + paths[file.url]) not in listed and not is_page(file.media_type)
        ),
    )
    if others:
        why = "Several changes have a part in them, or pages name them in another way."
        steps.append(HandStep(_key("files"), "The other files", why, 0, others))
    for name, snippets in rest.items():
        why = "What changes together have made of it; the page as a whole lies in the archive."
        steps.append(HandStep(_key(name), f"The rest of {name}", why, 0, (), tuple(snippets), (name,)))
    return steps


def _owner(path: str, topics: Sequence[Topic]) -> str:
    """The topic that made a file: one of its targets, or a file named after one (`photo-650.webp` of `photo.jpg`)."""
    for topic in topics:
        if path in topic.targets:
            return topic.id
    folder, _, name = path.rpartition("/")
    for topic in topics:
        for target in topic.targets:
            place, _, own = target.rpartition("/")
            stem = own.rpartition(".")[0]
            if stem and place == folder and re.match(re.escape(stem) + r"(?=[.-])", name):
                return topic.id
    return ""


def _is_named(file: str, text: str) -> bool:
    """Whether a text holds the name of a file, and not just the end or start of another one's."""
    return bool(file) and re.search(rf"(?<![\w.-]){re.escape(file)}(?![\w.-])", text) is not None


def _key(id: str) -> str:
    return hashlib.sha256(id.encode("utf-8", "backslashreplace")).hexdigest()[:16]


def snippets_of(page: str, before: str, after: str) -> list[Snippet]:
    """The places in which two versions of a page differ, by whole tags; none where it has too many of them."""
    old, new = ([match[0] for match in _PIECES.finditer(text)] for text in (before, after))
    told = opcodes(old, new, _MOST_PIECES)
    if any(tag == "replace" and max(b - a, d - c) > _MOST_PIECES for tag, a, b, c, d in told):
        return []
    places: list[tuple[int, int, int, int]] = []
    for tag, a, b, c, d in told:
        if tag == "equal":
            continue
        # What is put around something is one place, not two.
        if places and a - places[-1][1] <= _BETWEEN:
            a, c = places[-1][0], places[-1][2]
            places.pop()
        places.append((a, b, c, d))
    snippets = []
    for a, b, c, d in places:
        was, now = ("".join(pieces).strip() for pieces in (old[a:b], new[c:d]))
        around = "" if was else "".join(old[max(0, a - 4) : a]).strip()[-_AROUND:]
        snippets.append(Snippet(page, was[:_LONGEST], now[:_LONGEST], around))
    return [snippet for snippet in snippets if snippet.old or snippet.new]


def put_in(step: HandStep, lighter: Capture, live: Capture) -> tuple[bool, str]:
    """Whether a step is done on the live site, and what is missing of it, in words.

    A file counts if the live site has the same bytes under its address; one that no browser asked for there, such as
    the older format behind a newer one, does if others of the step do. A snippet counts if the page holds what is
    new.
    """
    paths = {"/" + path: url for url, path in written_paths(lighter)[1].items()}
    seen = {path: _is_there(paths.get(path, ""), lighter, live) for path in step.files}
    lost = [path for path, there in seen.items() if there is False]
    if not lost and seen and not any(seen.values()):
        lost = list(seen)
    texts = texts_of(live)
    for snippet in step.snippets:
        page = next((p for p in live.pages() if texts.path(p) == snippet.page), None)
        text = texts.text(page) if page else None
        if text is None:
            return False, f"{snippet.page} was not reached"
        if _bare(snippet.new) not in _bare(text.chars) or (
            snippet.old and not snippet.new and snippet.old in text.chars
        ):
            return False, f"{snippet.page} does not hold the new text"
    if lost:
        return False, f"{lost[0]} is not there, or is another file" + (
            f" ({len(lost)} in all)" if len(lost) > 1 else ""
        )
    return True, ""


def _is_there(url: str, lighter: Capture, live: Capture) -> bool | None:
    """None where nobody asked for it."""
    # The live site may have another address than the files were given.
    address = url_of_site_path(live.base_url, site_path(lighter.base_url, url)) if url else ""
    wanted, result = lighter.exchanges.get(url), live.lookup(address)
    if wanted is None or result is None:
        return None
    return result.status == 200 and wanted.digest == result.digest


def _bare(text: str) -> str:
    return re.sub(r"\s+", "", text)
