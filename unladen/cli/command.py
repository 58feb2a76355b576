"""What all commands share: declaring arguments, reading files, progress, figures."""

from __future__ import annotations

import argparse
import shutil
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from unladen.capture import BodyStore, Capture, Exchange, read_site
from unladen.capture.addresses import site_path
from unladen.capture.choosing import chosen_pages
from unladen.check.group_members import kin_notices
from unladen.documents import read_json
from unladen.errors import BadInput
from unladen.markup.page_groups import standing_for_all
from unladen.progress import Progress, time_left

PROGRAM = "mule"
_PAGE = "a path like /index.html, a pattern like /blog/*, or the word sitemap; repeatable"
_MOST_READ = 10_000_000  # bytes of a logo or text


class Parser(argparse.ArgumentParser):
    """A parser that tells an error in one line."""

    def error(self, message: str) -> Any:
        """One line and exit code 2, without the usage before it."""
        self.exit(2, f"{PROGRAM}: {message}\n")


@dataclass(frozen=True, slots=True)
class Command:
    """A command: `usage` names its main arguments, `declare_arguments` adds all of them, `run` returns the exit code.

    `./mule` reads name, usage and help from the source before anything is installed, so they are plain texts.
    """

    name: str
    usage: str
    help: str
    example: str
    declare_arguments: Callable[[argparse.ArgumentParser], None]
    run: Callable[[argparse.Namespace], int]

    def declare(self, commands: Any) -> None:
        """Add a parser for the command to those of a program (`add_subparsers`)."""
        parser = commands.add_parser(
            self.name,
            help=self.help,
            description=f"{self.help[0].upper()}{self.help[1:]}.",
            epilog=f"Example: ./mule {self.example}",
        )
        self.declare_arguments(parser)


def add_site(parser: argparse.ArgumentParser) -> None:
    """The arguments of a command that weighs the pages of a site."""
    parser.add_argument("site", metavar="SITE", help="a folder or a ZIP file of static files, a HAR or a WARC file")
    add_pages(parser)
    parser.add_argument(
        "--kinds",
        type=int,
        default=0,
        metavar="N",
        help="weigh at most N pages, representatives of their page groups",
    )
    add_json(parser)


def add_pages(parser: argparse.ArgumentParser) -> None:
    """Which pages on which devices."""
    parser.add_argument("--page", action="append", default=[], metavar="P", help=_PAGE)
    parser.add_argument(
        "--device", action="append", default=[], metavar="D", help="phone, tablet, desktop or 1440x900@1; repeatable"
    )


def add_json(parser: argparse.ArgumentParser) -> None:
    """The published document instead of a text."""
    parser.add_argument("--json", action="store_true", help="print the published JSON document and nothing else")


def warn(text: str) -> None:
    """A line on standard error."""
    print(f"{PROGRAM}: {text}", file=sys.stderr)


@contextmanager
def site_of(options: argparse.Namespace) -> Iterator[Capture]:
    """The site of a command, kept in a folder that goes afterwards; notices are printed. Raises `BadInput`."""
    with tempfile.TemporaryDirectory(prefix="mule-") as folder:
        capture = read_site(Path(options.site), BodyStore(Path(folder) / "bodies"))
        for notice in capture.notices:
            warn(str(notice))
        yield capture


def pages_of(capture: Capture, options: argparse.Namespace) -> list[Exchange]:
    """The pages to weigh; which others they represent is printed."""
    pages = chosen_pages(capture, options.page)
    if options.kinds < 0:
        raise BadInput("--kinds", "must be at least 1")
    if not options.kinds:
        return pages
    chosen, members = standing_for_all(capture, options.kinds, pages)
    for notice in kin_notices(capture, [site_path(capture.base_url, page.url) for page in chosen], members):
        warn(str(notice))
    return chosen


def expect_folders(*targets: Path | None) -> None:
    """Refuse targets whose folder is missing before work begins; raises `BadInput`."""
    for target in targets:
        if target and not target.absolute().parent.is_dir():
            raise BadInput(str(target), "its folder does not exist")


def document_at(path: Path) -> Any:
    """A JSON document; raises `BadInput`."""
    try:
        return read_json(path.read_bytes(), str(path))
    except OSError as error:
        raise BadInput(str(path), f"cannot be read: {error.strerror}") from error


def bytes_at(path: Path) -> bytes:
    """The beginning of a file, at most 10 MB and a byte; raises `BadInput`."""
    try:
        with path.open("rb") as file:
            return file.read(_MOST_READ + 1)
    except OSError as error:
        raise BadInput(str(path), f"cannot be read: {error.strerror}") from error


def kilobytes(count: int) -> str:
    """1 kB is 1,000 bytes."""
    return f"{count / 1000:,.1f} kB"


def progress() -> Progress:
    """Progress on one line of a terminal, or none."""
    if not sys.stderr.isatty():
        return Progress()

    began: dict[str, float] = {}

    def report(stage: str, done: int, total: int, note: str) -> None:
        now = time.monotonic()
        began.setdefault(stage, now)
        remaining = time_left(now - began[stage], done, total)
        to_go = f", about {_duration(remaining)} to go" if remaining is not None else ""
        width = shutil.get_terminal_size().columns - 1
        line = f"{stage}: {done} of {total} ({_duration(now - began[stage])} so far{to_go}) {note}"
        sys.stderr.write(f"\r\x1b[K{line[:width]}")
        if done == total:
            began.pop(stage)
            sys.stderr.write("\r\x1b[K")
        sys.stderr.flush()

    return Progress(report)


def _duration(seconds: float) -> str:
    """In words: "40 s", "3 min"."""
    return f"{seconds:.0f} s" if seconds < 100 else f"{seconds / 60:.0f} min"
