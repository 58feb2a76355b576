"""A bounded number of damaged files of every format: each is read or refused by name; none ends in a fault or hangs."""

from __future__ import annotations

import unittest

from tests.fuzz.running import Report, feed, run
from tests.fuzz.targets import targets

EACH = 150
FEWER = {"image": 60, "zip": 100, "har": 100, "warc": 100}


class Damaged(unittest.TestCase):
    def test_files_of_every_format_are_read_or_refused(self) -> None:
        for name, target in targets().items():
            with self.subTest(name):
                report = Report()
                run(name, target, iter(range(FEWER.get(name, EACH))), report)
                self.assertEqual(report.faults, {})
                self.assertGreater(report.read, 0, "no damaged file was good enough to be read")

    def test_what_is_whole_is_read(self) -> None:
        for name, target in targets().items():
            report = Report()
            for seed in target.seeds:
                feed(target, seed, name, report)
            self.assertEqual((report.read, report.refused, report.faults), (len(target.seeds), 0, {}), name)
