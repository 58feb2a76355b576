"""`mule memo`: cached work by type."""

from __future__ import annotations

import argparse
from pathlib import Path

from unladen.capture import BodyStore
from unladen.cli.command import Command, kilobytes
from unladen.errors import BadInput
from unladen.work_cache import WorkCache


def _arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("folder", type=Path, metavar="FOLDER", help="the data folder, or one of a site")


def _run(options: argparse.Namespace) -> int:
    if not options.folder.is_dir():
        raise BadInput(str(options.folder), "is not a folder")
    roots = sorted(path.parent for path in options.folder.rglob("made") if path.parent.name == "memo")
    for root in roots:
        work_cache = WorkCache(root, BodyStore(root.parent / "bodies"))
        held = work_cache.holds()
        total = sum(size for _, size in held.values())
        print(f"{root}: {kilobytes(total)} of {kilobytes(work_cache.limit)}")
        for name, (count, size) in held.items():
            print(f"{kilobytes(size):>14} {count:>7} results  {name}")
    if not roots:
        print("The work cache is empty.")
    return 0


COMMAND = Command(
    name="memo",
    usage="FOLDER",
    help="list cached work by type",
    example="memo var",
    declare_arguments=_arguments,
    run=_run,
)
