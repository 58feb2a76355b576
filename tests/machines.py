"""A scheduler and workers for tests."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import threading
from pathlib import Path

from tests.certificates import certificate_files
from tests.sites import FolderCase

ROOT = Path(__file__).resolve().parent.parent
TLS = (("ca-file", "CA"), ("cert", "CERT"), ("key", "KEY"))


class MachinesCase(FolderCase):
    """Processes of Dask's on loopback, which end with the test."""

    def setUp(self) -> None:
        super().setUp()
        self.children: list[subprocess.Popen[str]] = []

    def start(self, module: str, *arguments: str, knows_us: bool = True) -> str:
        """A process of Dask's; returns the address that it says it is at."""
        command = [sys.executable, "-m", "distributed.cli." + module, "--no-dashboard", *arguments]
        environment = os.environ | {"PYTHONPATH": str(ROOT) if knows_us else ""}
        child = subprocess.Popen(command, stderr=subprocess.PIPE, text=True, cwd=self.folder, env=environment)
        self.children.append(child)
        self.addCleanup(child.wait)
        self.addCleanup(child.kill)
        assert child.stderr is not None
        for line in child.stderr:
            if found := re.search(r"(?:Scheduler|worker) at:\s+((?:tcp|tls)://\S+)", line):
                threading.Thread(target=child.stderr.read, daemon=True).start()
                return found[1]
        raise AssertionError(f"{module} did not start")

    def certificates(self) -> dict[str, str]:
        """A certificate of an authority of our own for both ends, by the names of the environment."""
        pem, secret = certificate_files(self.folder, "127.0.0.1")
        return {"MULE_MACHINES_CA": str(pem), "MULE_MACHINES_CERT": str(pem), "MULE_MACHINES_KEY": str(secret)}

    def scheduler_and_workers(self, count: int) -> str:
        """The address of a scheduler with so many workers of one thread."""
        address = self.start("dask_scheduler", "--host", "127.0.0.1", "--port", "0")
        for _ in range(count):
            self.start("dask_worker", address, "--nthreads", "1", "--host", "127.0.0.1", "--no-nanny")
        return address
