"""python -m tests.fuzz [--seconds N] [--from N] [TARGET...]: as long as one likes; prints figures, and 1 is the end
of a bad run.
"""

from __future__ import annotations

import argparse
import itertools
import sys
import time
from collections.abc import Iterator

from tests.fuzz.running import Report, run, tell
from tests.fuzz.targets import targets


def _until(end: float, first: int) -> Iterator[int]:
    for number in itertools.count(first):
        if time.monotonic() >= end:
            return
        yield number


def main() -> int:
    """Feed all targets, or those named."""
    parser = argparse.ArgumentParser(prog="tests.fuzz")
    parser.add_argument("targets", nargs="*", choices=[*targets(), []])
    parser.add_argument("--seconds", type=float, default=60.0, help="for each target")
    parser.add_argument("--from", dest="first", type=int, default=0, help="number of the first damage")
    options = parser.parse_args()
    bad = False
    for name, target in targets().items():
        if options.targets and name not in options.targets:
            continue
        report = Report()
        numbers = _until(time.monotonic() + options.seconds, options.first)
        run(
            name,
            target,
            numbers,
            report,
        )
        bad |= tell(name, report)
    return int(bad)


if __name__ == "__main__":
    sys.exit(main())
