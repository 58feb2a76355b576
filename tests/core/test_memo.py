"""Workers that hang, die or are cancelled."""

from __future__ import annotations

import os
import time
from unittest import mock

from tests.sites import FolderCase, photo
from unladen import memo as memo_module
from unladen.errors import Cancelled
from unladen.memo import Memo
from unladen.progress import Progress
from unladen.raster.recode import Recipe, Recoded

KILLER = b"this one kills its worker"
SLEEPER = b"this one never ends"
RECIPE = Recipe(0, "WEBP", 0.95)


def hostile(data: bytes, recipe: Recipe) -> Recoded | str:
    """Runs in a worker process, in the place of the real function."""
    if data == KILLER:
        os._exit(3)
    if data == SLEEPER:
        time.sleep(60)
    return Recoded(b"small", "WEBP", 1, 1, 50, 0.99)


class Workers(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.memo = Memo(self.folder / "memo", self.store)

    def run_all(self, *bodies: bytes) -> list[str]:
        jobs = [(self.store.put(body), RECIPE) for body in bodies]
        with mock.patch.object(memo_module, "attempt", hostile), mock.patch.object(memo_module, "_SECONDS", 4):
            outcomes = self.memo.recode_all(jobs, Progress(), "survey")
        return [outcomes[job].refused for job in jobs]

    def test_one_image_that_kills_its_worker_is_refused_and_the_rest_goes_on(self) -> None:
        refused = self.run_all(b"a", KILLER, b"b", b"c", b"d", b"e")
        self.assertEqual([bool(reason) for reason in refused], [False, True, False, False, False, False])
        self.assertIn("limits of time and memory", refused[1])

    def test_one_that_never_ends_is_refused_too(self) -> None:
        refused = self.run_all(SLEEPER, b"a", b"b")
        self.assertEqual([bool(reason) for reason in refused], [True, False, False])

    def test_cancelling_keeps_what_is_done(self) -> None:
        jobs = [(self.store.put(photo(120, 80, seed)), RECIPE) for seed in range(12)]
        done: list[int] = []
        progress = Progress(
            lambda _stage, count, _total, _note: done.append(count), lambda: bool(done) and done[-1] >= 2
        )
        with self.assertRaises(Cancelled):
            self.memo.recode_all(jobs, progress, "survey")
        known = sum(self.memo.known(*job) is not None for job in jobs)
        self.assertGreaterEqual(known, 2)
        self.assertLess(known, 12)
