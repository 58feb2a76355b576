"""Workers that hang, die or are cancelled."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from dataclasses import asdict, dataclass
from typing import Any, ClassVar

from tests.sites import FolderCase, photo
from unladen.errors import Cancelled
from unladen.progress import Progress
from unladen.raster.recode import Recipe
from unladen.work_cache import Job, WorkCache

KILLER = b"this one kills its worker"
SLEEPER = b"this one never ends"
GREEDY = b"this one wants more memory than it may have"
RECIPE = Recipe(0, "WEBP", 0.95)


@dataclass(frozen=True)
class Small:
    """What comes of hostile work."""

    data: bytes

    def facts(self) -> dict[str, Any]:
        return {"length": len(self.data)}


@dataclass(frozen=True)
class Hostile:
    """A sort of work of the tests' own: it runs in a worker process as all others do."""

    name: ClassVar[str] = "hostile"
    version: ClassVar[int] = 1
    seconds: ClassVar[float] = 2
    memory: ClassVar[int] = 1_000_000_000

    size: int = 5

    def as_json(self) -> dict[str, Any]:
        return asdict(self)

    def run(self, data: bytes) -> Small:
        if data == KILLER:
            os._exit(3)
        if data == SLEEPER:
            time.sleep(60)
        if data == GREEDY:
            return Small(bytes(4_000_000_000))
        return Small(data[:1] * self.size)


class Workers(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.work_cache = WorkCache(self.folder / "memo", self.store)

    def run_all(self, *bodies: bytes) -> list[str]:
        jobs: list[Job] = [(self.store.put(body), Hostile()) for body in bodies]
        outcomes = self.work_cache.outcomes(jobs, Progress(), "survey")
        return [outcomes[job].refused for job in jobs]

    def test_a_new_sort_of_work_needs_no_word_here(self) -> None:
        digest = self.store.put(b"x")
        (outcome,) = self.work_cache.outcomes([(digest, Hostile(3))], Progress(), "survey").values()
        self.assertEqual((self.work_cache.body(outcome), outcome.facts), (b"xxx", {"length": 3}))
        self.assertEqual(self.work_cache.known(digest, Hostile(3)), outcome)
        self.assertIsNone(self.work_cache.known(digest, Hostile(4)))
        self.assertEqual(self.work_cache.holds(), {"hostile": (1, 3)})

    def test_one_that_wants_too_much_memory_is_refused(self) -> None:
        refused = self.run_all(GREEDY, b"a")
        self.assertEqual([bool(reason) for reason in refused], [True, False])

    def test_one_image_that_kills_its_worker_is_refused_and_the_rest_goes_on(self) -> None:
        refused = self.run_all(b"a", KILLER, b"b", b"c", b"d", b"e")
        self.assertEqual([bool(reason) for reason in refused], [False, True, False, False, False, False])
        self.assertIn("limits of time or memory", refused[1])

    def test_one_that_never_ends_is_refused_too(self) -> None:
        refused = self.run_all(SLEEPER, b"a", b"b")
        self.assertEqual([bool(reason) for reason in refused], [True, False, False])

    def test_cancelling_keeps_what_is_done(self) -> None:
        jobs: list[Job] = [(self.store.put(photo(120, 80, seed)), RECIPE) for seed in range(12)]
        done: list[int] = []
        progress = Progress(
            lambda _stage, count, _total, _note: done.append(count), lambda: bool(done) and done[-1] >= 2
        )
        with self.assertRaises(Cancelled):
            self.work_cache.outcomes(jobs, progress, "survey")
        known = sum(self.work_cache.known(*job) is not None for job in jobs)
        self.assertGreaterEqual(known, 2)
        self.assertLess(known, 12)

    def test_cancelling_does_not_wait_for_what_is_under_way(self) -> None:
        jobs: list[Job] = [(self.store.put(body), Hostile()) for body in (SLEEPER, b"a")]
        done: list[int] = []
        progress = Progress(lambda _stage, count, _total, _note: done.append(count), lambda: bool(done and done[-1]))
        with self.assertRaises(Cancelled):
            self.work_cache.outcomes(jobs, progress, "survey")
        # The sleeper neither ended nor was given up: nothing is known of it.
        self.assertIsNotNone(self.work_cache.known(*jobs[1]))
        self.assertIsNone(self.work_cache.known(*jobs[0]))

    def test_a_pause_holds_and_easy_work_goes_one_by_one(self) -> None:
        jobs: list[Job] = [(self.store.put(photo(60, 40, seed)), RECIPE) for seed in range(6)]
        pauses = iter([True] * 5)
        seen: list[int] = []
        progress = Progress(
            lambda _stage, done, _total, _note: seen.append(done),
            paused=lambda: next(pauses, False),
            easy=lambda: True,
        )
        outcomes = self.work_cache.outcomes(jobs, progress, "survey")
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
        known = [d for d in digests if self.work_cache.known(d, RECIPE)]
        self.assertTrue(5 <= len(known) < 24, len(known))
        done: list[int] = []
        progress = Progress(lambda _stage, count, _total, _note: done.append(count))
        outcomes = self.work_cache.outcomes([(d, RECIPE) for d in digests], progress, "survey")
        self.assertEqual(done[0], len(known))  # begins where it was cut off
        self.assertEqual(len(outcomes), 24)
        self.assertEqual(list(self.work_cache.root.glob("*.part")), [])


class Limits(FolderCase):
    def work_cache(self, limit: int = 10_000) -> WorkCache:
        return WorkCache(self.folder / "memo", self.store, limit)

    def fill(self, work_cache: WorkCache, count: int, size: int = 1000) -> list[str]:
        digests = [self.store.put(f"{number} {size}".encode()) for number in range(count)]
        for age, digest in enumerate(digests):
            outcome = work_cache.outcome(digest, Hostile(size + age))
            path = work_cache._path(digest, Hostile(size + age))
            os.utime(path, (age, age))
            self.assertEqual(outcome.size, size + age)
        return digests

    def test_what_was_used_last_stays_and_the_rest_goes(self) -> None:
        work_cache = self.work_cache(limit=1_000_000)
        digests = self.fill(work_cache, 20)
        work_cache = self.work_cache(limit=10_000)
        os.utime(work_cache._path(digests[0], Hostile(1000)))  # the oldest was used a moment ago
        self.assertGreater(work_cache.trim(), 0)
        known = [number for number, d in enumerate(digests) if work_cache.known(d, Hostile(1000 + number))]
        self.assertEqual(known[0], 0)
        self.assertEqual(known[1:], list(range(20 - len(known) + 1, 20)))
        self.assertLessEqual(sum(size for _, size in work_cache.holds().values()), 10_000)
        bodies = [path for path in (work_cache.root / "made").rglob("*") if path.is_file()]
        self.assertEqual(len(bodies), len(known))

    def test_it_keeps_its_limit_by_itself(self) -> None:
        work_cache = self.work_cache(limit=5_000)
        for number in range(40):
            work_cache.outcome(self.store.put(str(number).encode()), Hostile(1000 + number))
        self.assertLessEqual(sum(size for _, size in work_cache.holds().values()), 7_000)

    def test_what_was_handed_over_stays_whatever_goes(self) -> None:
        work_cache = self.work_cache(limit=1)
        outcome = work_cache.outcome(self.store.put(b"y"), Hostile(9))
        work_cache.hand_over(outcome)
        work_cache.trim()
        self.assertEqual(self.store.get(outcome.digest), b"y" * 9)

    def test_outcomes_of_an_older_version_are_passed_over_and_go_first(self) -> None:
        work_cache = self.work_cache()
        work_cache.outcome(self.store.put(b"z"), Hostile(100))
        for name, text in (("a" * 64, '{"digest": "x", "size": 5}'), ("b" * 64, "cut o"), ("c" * 64, "[]")):
            (work_cache.root / f"{name}.json").write_text(text)
        self.assertEqual(set(work_cache.holds()), {"hostile", "of an older version", "unreadable"})
        own = work_cache._path(self.store.put(b"z"), Hostile(200))
        own.write_text(json.dumps({"digest": "d", "size": 1, "format": "WEBP"}))
        self.assertEqual(work_cache.outcome(self.store.put(b"z"), Hostile(200)).size, 200)


KILLED = """
from pathlib import Path
from unladen.capture import BodyStore
from unladen.work_cache import Job, WorkCache
from unladen.progress import Progress
from unladen.raster.recode import Recipe
if __name__ == "__main__":
    memo = WorkCache(Path({root!r}) / "memo", BodyStore(Path({root!r}) / "bodies"))
    report = lambda stage, done, total, note: print(done, flush=True)
    memo.outcomes([(d, Recipe(0, "WEBP", 0.95)) for d in {digests!r}], Progress(report), "survey")
"""
