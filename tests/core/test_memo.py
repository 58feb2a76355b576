"""Workers that hang, die or are cancelled."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
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

    def test_cancelling_does_not_wait_for_what_is_under_way(self) -> None:
        jobs = [(self.store.put(body), RECIPE) for body in (SLEEPER, b"a")]
        began = time.monotonic()
        progress = Progress(cancelled=lambda: time.monotonic() - began > 3)
        with mock.patch.object(memo_module, "attempt", hostile), self.assertRaises(Cancelled):
            self.memo.recode_all(jobs, progress, "survey")
        self.assertLess(time.monotonic() - began, 30)  # the sleeper sleeps for 60
        self.assertIsNotNone(self.memo.known(*jobs[1]))

    def test_a_pause_holds_and_easy_work_goes_one_by_one(self) -> None:
        jobs = [(self.store.put(photo(60, 40, seed)), RECIPE) for seed in range(6)]
        pauses = iter([True] * 5)
        seen: list[int] = []
        progress = Progress(
            lambda _stage, done, _total, _note: seen.append(done),
            paused=lambda: next(pauses, False),
            easy=lambda: True,
        )
        outcomes = self.memo.recode_all(jobs, progress, "survey")
        self.assertEqual(len(outcomes), 6)
        self.assertEqual(next(pauses, None), None)
        self.assertEqual(sorted(set(seen)), list(range(7)))  # one at a time

    def test_a_killed_process_has_nothing_to_do_twice(self) -> None:
        digests = [self.store.put(photo(300, 200, seed)) for seed in range(24)]
        program = KILLED.format(root=str(self.folder), digests=digests)
        with subprocess.Popen(
            [sys.executable, "-c", program], stdout=subprocess.PIPE, start_new_session=True
        ) as child:
            assert child.stdout is not None
            while int(child.stdout.readline()) < 5:
                pass
            os.killpg(child.pid, signal.SIGKILL)
        known = [d for d in digests if self.memo.known(d, RECIPE)]
        self.assertTrue(5 <= len(known) < 24, len(known))
        done: list[int] = []
        progress = Progress(lambda _stage, count, _total, _note: done.append(count))
        outcomes = self.memo.recode_all([(d, RECIPE) for d in digests], progress, "survey")
        self.assertEqual(done[0], len(known))  # begins where it was cut off
        self.assertEqual(len(outcomes), 24)
        self.assertEqual(list(self.memo.root.glob("*.part")), [])


KILLED = """
from pathlib import Path
from unladen.capture import BodyStore
from unladen.memo import Memo
from unladen.progress import Progress
from unladen.raster.recode import Recipe
if __name__ == "__main__":
    memo = Memo(Path({root!r}) / "memo", BodyStore(Path({root!r}) / "bodies"))
    report = lambda stage, done, total, note: print(done, flush=True)
    memo.recode_all([(d, Recipe(0, "WEBP", 0.95)) for d in {digests!r}], Progress(report), "survey")
"""
