"""What `./mule start` does when its processes are killed."""

from __future__ import annotations

import contextlib
import http.client
import os
import signal
import subprocess
import sys
import time
import unittest
from pathlib import Path

from tests.serving import free_port
from tests.sites import FolderCase

ROOT = Path(__file__).resolve().parents[2]


def children(pid: int) -> list[int]:
    """Processes that a process has started."""
    return [int(child) for child in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]


def runs(pid: int) -> bool:
    """Whether a process is at work; one that has ended may wait for somebody to ask how (state Z, proc(5))."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


@unittest.skipUnless(sys.platform == "linux", "reads /proc")
class Killed(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.port = free_port()
        places = {"MULE_DATA": str(self.folder), "MULE_PORT": str(self.port), "MULE_PREVIEW_PORT": str(free_port())}
        self.mule = subprocess.Popen(
            [ROOT / "mule", "start"],
            cwd=ROOT,
            env=os.environ | places | {"MULE_WORKERS": "0"},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        self.addCleanup(self.mule.wait)
        self.addCleanup(self.mule.terminate)

    def master(self) -> int:
        """The process that listens for callers; 0 where there is none at the moment."""
        here = f":{self.port}".encode()
        found = (pid for pid in children(self.mule.pid) if here in Path(f"/proc/{pid}/cmdline").read_bytes())
        return next(found, 0)

    def answers(self) -> bool:
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=20)
        try:
            connection.request("GET", "/api/session")
            return connection.getresponse().status == 200
        except (OSError, http.client.HTTPException):
            return False
        finally:
            connection.close()

    def wait(self, others: set[int]) -> tuple[int, list[int]]:
        """The processes of the web server, once none of them is among `others` and they answer."""
        while True:
            self.assertIsNone(self.mule.poll(), "mule itself ended")
            with contextlib.suppress(OSError):  # gone between two looks
                master = self.master()
                workers = children(master) if master else []
                if workers and not others & {master, *workers} and self.answers():
                    return master, workers
            time.sleep(0.05)

    def test_the_web_server_is_back_whichever_of_its_processes_is_killed(self) -> None:
        master, workers = self.wait(set())
        kept = http.client.HTTPConnection("127.0.0.1", self.port, timeout=20)
        kept.request("GET", "/api/session")
        kept.getresponse().read()  # a caller that stays
        self.addCleanup(kept.close)
        os.kill(workers[0], signal.SIGKILL)
        master, workers = self.wait(set(workers))
        os.kill(master, signal.SIGKILL)
        # The worker ends with its master and leaves the port to the next one.
        again, others = self.wait({master, *workers})
        for pid in (master, *workers):
            self.assertFalse(runs(pid))
        for pid in (again, *others):
            os.kill(pid, signal.SIGKILL)
        self.wait({again, *others})
