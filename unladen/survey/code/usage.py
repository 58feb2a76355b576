"""The use of styles and scripts over pages and devices: what the use map shows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from unladen.capture import Capture
from unladen.markup.spans import Span, union
from unladen.markup.text import Undecodable, decode
from unladen.weigh.page.coverage import FileUse, used_bytes
from unladen.weigh.visits.walk import Walk


@dataclass(slots=True)
class UsedFile:
    """One file over all walks. `size` and `used` are decoded bytes, `transferred` bytes as sent.

    `pages` gives for every page that loaded it the bytes used there, on any device.
    """

    url: str
    kind: str
    size: int
    used: int
    transferred: int
    spans: list[Span]
    pages: dict[str, int] = field(default_factory=dict)

    @property
    def transferred_unused(self) -> int:
        """What of the bytes as sent was used nowhere: an estimate, in proportion to the decoded bytes."""
        return round(self.transferred * (self.size - self.used) / self.size) if self.size else 0


def use_of_files(capture: Capture, walks: Sequence[Walk]) -> list[UsedFile]:
    """Every file of styles or scripts that walks met, the one with most unused bytes first."""
    by_file: dict[str, dict[str, list[FileUse]]] = {}
    for walk in walks:
        for use in walk.files:
            by_file.setdefault(use.url, {}).setdefault(walk.page, []).append(use)
    use_of_files = []
    for url, pages in by_file.items():
        exchange = capture.lookup(url)
        if exchange is None:
            continue
        text = text_of(capture, url)
        uses = [use for entries in pages.values() for use in entries]
        spans = union(span for use in uses for span in use.used)
        kind, length = uses[0].kind, max(use.length for use in uses)
        use_of_files.append(
            UsedFile(
                url,
                kind,
                exchange.size,
                used_bytes(text, FileUse(url, kind, length, spans)),
                capture.sent_size(exchange),
                spans,
                {
                    page: used_bytes(text, FileUse(url, kind, length, union(s for use in entries for s in use.used)))
                    for page, entries in pages.items()
                },
            )
        )
    return sorted(use_of_files, key=lambda use: (-use.transferred_unused, use.url))


def text_of(capture: Capture, url: str) -> str:
    """The text of a file as a browser reads it, without a byte order mark; "" when it is not in the capture."""
    exchange = capture.lookup(url)
    if exchange is None:
        return ""
    body = capture.body(exchange)
    try:
        return decode(body).chars
    except Undecodable:
        return body.decode("utf-8", "replace")
