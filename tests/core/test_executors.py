"""Encodes on other machines: a real Dask scheduler and two workers, on loopback."""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor
from unittest import mock

from tests.machines import TLS, MachinesCase
from tests.sites import photo
from unladen.executors import MachinesMissing
from unladen.progress import Progress
from unladen.raster.recode import Recipe
from unladen.work_cache import Job, WorkCache

RECIPES = [Recipe(), Recipe(0, "WEBP", 0.95), Recipe(100, "", 0.95)]


class Machines(MachinesCase):
    def test_by_tls_with_a_worker_that_is_killed_in_the_middle_nothing_is_lost(self) -> None:
        shown = self.certificates()
        tls = [f"--tls-{what}={shown[f'MULE_MACHINES_{name}']}" for what, name in TLS]
        address = self.start("dask_scheduler", "--host", "tls://127.0.0.1", "--port", "0", *tls)
        for _ in range(2):
            self.start("dask_worker", address, "--nthreads", "1", "--host", "tls://127.0.0.1", "--no-nanny", *tls)
        self.assertTrue(address.startswith("tls://"))
        victim = self.children[-1]

        def report(_stage: str, done: int, _total: int, _note: str) -> None:
            if done >= 2:
                victim.kill()

        jobs = self.jobs()
        there = WorkCache(self.folder / "there", self.store, machines=address)
        with mock.patch.dict(os.environ, shown):
            found = there.outcomes(jobs, Progress(report), "survey")
        self.assertIsNotNone(victim.wait(20))
        here = WorkCache(self.folder / "here", self.store)
        with ThreadPoolExecutor(2) as pool:
            self.assertEqual(found, here.outcomes(jobs, Progress(), "survey", pool))

    def test_in_the_clear_only_this_machine_is_spoken_to(self) -> None:
        for address, words in (
            ("tcp://10.0.0.5:8786", "not used"),
            ("tcp://localhost.evil.example:8786", "not used"),
            ("10.0.0.5:8786", "not used"),
            ("ws://127.0.0.1:8786", "not used"),
            ("inproc://1", "not used"),
            ("tls://10.0.0.5:8786", "MULE_MACHINES_CA is not set"),
        ):
            with self.assertRaisesRegex(MachinesMissing, words):
                self.cache(address).outcomes(self.jobs(), Progress(), "survey")

    def cache(self, address: str) -> WorkCache:
        """Nothing is known yet, and work is sent to an address."""
        return WorkCache(self.folder / "memo", self.store, machines=address)

    def jobs(self) -> list[Job]:
        digests = [self.store.put(photo(300, 200, seed)) for seed in range(6)] + [self.store.put(b"no image")]
        return [(digest, recipe) for digest in digests for recipe in RECIPES]

    def test_the_same_work_runs_on_a_scheduler_and_comes_out_the_same(self) -> None:
        address = self.scheduler_and_workers(2)
        there = WorkCache(self.folder / "there", self.store, machines=address)
        here = WorkCache(self.folder / "here", self.store)
        jobs = self.jobs()
        found = there.outcomes(jobs, Progress(), "survey")
        with ThreadPoolExecutor(2) as pool:  # any executor will do
            self.assertEqual(found, here.outcomes(jobs, Progress(), "survey", pool))
        self.assertTrue(found[jobs[-1]].refused)

    def test_one_that_does_not_answer_is_said(self) -> None:
        work_cache = self.cache("tcp://127.0.0.1:9")
        with self.assertRaisesRegex(MachinesMissing, "tcp://127.0.0.1:9 does not answer"):
            work_cache.outcomes(self.jobs(), Progress(), "survey")

    def test_workers_that_do_not_know_us_are_said_and_nothing_is_kept(self) -> None:
        address = self.start("dask_scheduler", "--host", "127.0.0.1", "--port", "0", knows_us=False)
        self.start("dask_worker", address, "--nthreads", "1", "--host", "127.0.0.1", "--no-nanny", knows_us=False)
        work_cache = self.cache(address)
        with self.assertRaisesRegex(MachinesMissing, "cannot run this version"):
            work_cache.outcomes(self.jobs(), Progress(), "survey")
        self.assertEqual(list(work_cache.root.glob("*.json")), [])
