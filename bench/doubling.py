"""Every reader with hostile input of one size and of twice that: time in proportion doubles."""

from __future__ import annotations

import contextlib
import io
import json
import tempfile
import time
import zipfile
from collections.abc import Callable
from pathlib import Path

from tests.fuzz.targets import ALLOWED, targets
from tests.sites import page

RATIO = 3.0  # of times, where the size is doubled; noise is allowed for
_COUNT = 4000


def _warc(count: int) -> bytes:
    head = b"WARC/1.0\r\nWARC-Type: response\r\nWARC-Target-URI: https://a.example/%d\r\nContent-Length: 21\r\n\r\n"
    record = head + b"HTTP/1.1 200 OK\r\n\r\nxx\r\n\r\n"
    return b"".join(record % number for number in range(count))


def _har(count: int) -> bytes:
    entry = {
        "request": {"method": "GET", "url": "https://a.example/%d"},
        "response": {"status": 200, "headers": [], "content": {"mimeType": "text/html", "text": "<p>x"}},
    }
    text = json.dumps(entry)
    entries = ",".join(text.replace("%d", str(number)) for number in range(count))
    return f'{{"log": {{"version": "1.2", "entries": [{entries}]}}}}'.encode()


def _zip(count: int) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("index.html", page("x"))
        for number in range(count):
            archive.writestr(f"{number}.txt", b"x")
    return out.getvalue()


# By target of the damaged files, what is hard in so many pieces.
_HARD: tuple[tuple[str, str, Callable[[int], bytes]], ...] = (
    ("zip", "members", _zip),
    ("warc", "records", _warc),
    ("har", "entries", _har),
    ("css", "urls that never end", lambda n: b"a{b:url(" * (n * 20)),
    ("css", "open blocks", lambda n: b"@media x{" * (n * 20)),
    ("css", "comments that never end", lambda n: b"a{}/*" * (n * 20)),
    ("css", "backslashes", lambda n: b"\\" * (n * 100)),
    ("sheet", "open rules", lambda n: b"a{" * n),
    ("sheet", "open groups", lambda n: b"@media x{" * n),
    ("sheet", "states alone", lambda n: b":a " * (n * 5) + b"{b:c}"),
    ("sheet", "selectors of a list", lambda n: b".z," * (n * 5) + b"a{b:c}"),
    ("sheet", "rules in one group", lambda n: b"@media x{" + b".z{a:b}" * n + b"}"),
    ("sheet", "properties", lambda n: b"a{" + b"--x:var(--y);" * n + b"}"),
    ("sheet", "arguments", lambda n: b"a:is(" * n + b"{b:c}"),
    ("page", "comments", lambda n: b"<!-- x -->  " * (n * 5)),
    ("page", "open attributes", lambda n: b'<p a="' * (n * 5)),
    ("html", "open tags", lambda n: b"<p " * (n * 20)),
    ("html", "comments", lambda n: b"<!--" * (n * 20)),
    ("html", "candidates", lambda n: b"<img srcset='" + b"a 1x," * (n * 20) + b"'>"),
    ("html", "deep elements", lambda n: b"<div>" * n),
    ("html", "style attributes", lambda n: b"<p style='b:url(a'>" * n),
    ("svg", "elements", lambda n: b"<svg xmlns='http://www.w3.org/2000/svg'>" + b"<g>" * n + b"</g>" * n + b"</svg>"),
    (
        "document",
        "changes",
        lambda n: json.dumps({"format": "unladen/plan/2", "changes": [{"id": "x"}] * n}).encode(),
    ),
)


def measure() -> tuple[str, str, bool]:
    """The worst ratio."""
    worst, called = 0.0, ""
    for name, what, made in _HARD:
        feed = targets()[name].feed
        once, twice = (min(_time(feed, made(count)) for _ in range(2)) for count in (_COUNT, 2 * _COUNT))
        ratio = twice / max(once, 0.02)  # what takes no time at all has no ratio
        print(f"  {name} of {what}: {once:.2f} s, then {twice:.2f} s", flush=True)
        if ratio > worst:
            worst, called = ratio, f"{name} of {what}"
    return f"{worst:.1f} times the time for twice the size, for {called}", f"{RATIO}", worst <= RATIO


def _time(feed: Callable[[bytes, Path], None], data: bytes) -> float:
    with tempfile.TemporaryDirectory() as folder:
        begin = time.perf_counter()
        with contextlib.suppress(*ALLOWED):
            feed(data, Path(folder))
        return time.perf_counter() - begin
