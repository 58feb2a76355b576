"""What a run did to a site as a unified diff, and the way back from it."""

from __future__ import annotations

import difflib
import re
from collections.abc import Sequence
from typing import Literal

from unladen.capture import Capture, Exchange
from unladen.capture.mediatypes import is_compressible
from unladen.capture.paths import written_paths

_MOST_LINES = 6_000  # of a file; a longer one is replaced from its first line that differs to its last
_THOUSANDS = 2_000  # entries
_CONTEXT = 3
Opcode = tuple[Literal["replace", "delete", "insert", "equal"], int, int, int, int]
_QUOTED = re.compile(r'["\\\x00-\x1f\x7f]')


def changed_files(found: Capture, lighter: Capture) -> tuple[list[Exchange], list[Exchange]]:
    """The files of the lighter site that differ from those of the same address, and those that are new."""
    files = lighter.files()
    old = {file.url: file.digest for file in found.files()}
    changed = [file for file in files if file.url in old and old[file.url] != file.digest]
    return changed, [file for file in files if file.url not in old]


def site_diff(found: Capture, lighter: Capture) -> tuple[bytes, list[Exchange]]:
    """A diff of all texts that differ, which `patch -p1` and `git apply` take, and the files that go beside it.

    Beside it go new files and changed ones that are no texts. Bytes are kept whatever their encoding.
    """
    changed, new = changed_files(found, lighter)
    _, paths, _ = written_paths(lighter)
    parts, beside = [], list(new)
    for file in sorted(changed, key=lambda file: paths[file.url]):
        before, after = found.body(found.exchanges[file.url]), lighter.body(file)
        if not is_compressible(file.media_type) or b"\0" in before or b"\0" in after:
            beside.append(file)
            continue
        parts.append(file_diff(paths[file.url], before, after))
    return b"".join(parts), beside


def file_diff(path: str, before: bytes, after: bytes) -> bytes:
    """The unified diff of one file (the format of POSIX diff -u, with git's first line); empty where nothing
    differs.
    """
    # A byte a character, so that any encoding comes out as it went in; lines end at line feeds alone.
    old, new = (_lines(body.decode("latin-1")) for body in (before, after))
    hunks = _hunks(old, new)
    if not hunks:
        return b""
    names = [_name(f"{side}/{path}") for side in "ab"]
    # A name with spaces ends at a tab, for programs that would take it for shorter.
    ends = ["\t" if " " in name else "" for name in names]
    head = f"diff --git {names[0]} {names[1]}\n--- {names[0]}{ends[0]}\n+++ {names[1]}{ends[1]}\n"
    return head.encode("utf-8", "surrogatepass") + "".join(hunks).encode("latin-1")


def _lines(text: str) -> list[str]:
    lines = text.split("\n")
    return [f"{line}\n" for line in lines[:-1]] + ([lines[-1]] if lines[-1] else [])


def _name(path: str) -> str:
    """As git quotes names that hold a quotation mark, a backslash or a control character."""
    if not _QUOTED.search(path):
        return path
    return '"' + _QUOTED.sub(lambda m: f"\\{m[0]}" if m[0] in '"\\' else f"\\{ord(m[0]):03o}", path) + '"'


def opcodes(old: Sequence[str], new: Sequence[str], most: int) -> list[Opcode]:
    """What makes `new` of `old`, as difflib tells it. What both have in common at their ends is found first.

    What lies between is one replacement where it has more than `most` entries; where it has thousands, entries that
    stand everywhere are no places to go by.
    """
    start, end = _common_ends(old, new)
    stop, new_stop = len(old) - end, len(new) - end
    long = max(stop, new_stop) - start
    result: list[Opcode] = [("equal", 0, start, 0, start)] if start else []
    if long > most:
        result.append(("replace", start, stop, start, new_stop))
    elif long:
        matcher = difflib.SequenceMatcher(None, old[start:stop], new[start:new_stop], autojunk=long > _THOUSANDS)
        result += [(tag, start + a, start + b, start + c, start + d) for tag, a, b, c, d in matcher.get_opcodes()]
    return result + ([("equal", stop, len(old), new_stop, len(new))] if end else [])


def _common_ends(old: Sequence[str], new: Sequence[str]) -> tuple[int, int]:
    start = 0
    while start < min(len(old), len(new)) and old[start] == new[start]:
        start += 1
    end = 0
    while end < min(len(old), len(new)) - start and old[-1 - end] == new[-1 - end]:
        end += 1
    return start, end


class _Told(difflib.SequenceMatcher[str]):
    """What was found already, to be grouped."""

    def __init__(self, told: list[Opcode]) -> None:
        super().__init__(None, "", "")
        self.told = told

    def get_opcodes(self) -> list[Opcode]:
        return self.told


def _hunks(old: Sequence[str], new: Sequence[str]) -> list[str]:
    hunks = []
    for group in _Told(opcodes(old, new, _MOST_LINES)).get_grouped_opcodes(_CONTEXT) if old != new else ():
        rows = []
        for tag, a, b, c, d in group:
            if tag == "equal":
                rows += [(" ", line) for line in old[a:b]]
            else:
                rows += [("-", line) for line in old[a:b]] + [("+", line) for line in new[c:d]]
        first, last = group[0], group[-1]
        hunks.append(_hunk(rows, (first[1], last[2]), (first[3], last[4])))
    return hunks


def _hunk(rows: Sequence[tuple[str, str]], before: tuple[int, int], after: tuple[int, int]) -> str:
    def span(start: int, end: int) -> str:
        length = end - start
        return f"{start + 1 if length else start},{length}"

    text = "".join(
        f"{mark}{line}" if line.endswith("\n") else f"{mark}{line}\n\\ No newline at end of file\n"
        for mark, line in rows
    )
    return f"@@ -{span(*before)} +{span(*after)} @@\n{text}"


def way_back(found: Capture, lighter: Capture) -> tuple[list[Exchange], list[str]]:
    """The originals of all files that were replaced, and the paths of new files that can go then."""
    changed, new = changed_files(found, lighter)
    _, paths, _ = written_paths(lighter)
    return [found.exchanges[file.url] for file in changed], sorted(paths[file.url] for file in new)
