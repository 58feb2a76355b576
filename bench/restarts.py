"""How long the web server is away after all of its processes were killed."""

from __future__ import annotations

import os
import signal
import statistics
import subprocess
import tempfile
import time
import urllib.request
from pathlib import Path

from unladen.weigh.chromium.processes import below

ROOT = Path(__file__).resolve().parent.parent
SECONDS = 3.0
_ROUNDS = 5
_PAUSE = 11.0  # s, since what dies soon after its start is restarted later each time


def _answering(address: str) -> None:
    while True:
        try:
            with urllib.request.urlopen(address, timeout=10):
                return
        except OSError:
            time.sleep(0.02)


def measure() -> tuple[str, str, bool]:
    """Seconds from the kill to the next answer."""
    from tests.serving import free_port

    took = []
    port = free_port()
    address = f"http://127.0.0.1:{port}/api/session"
    with tempfile.TemporaryDirectory() as folder:
        places = {"MULE_DATA": folder, "MULE_PORT": str(port), "MULE_PREVIEW_PORT": str(free_port())}
        mule = subprocess.Popen(
            [ROOT / "mule", "start"],
            cwd=ROOT,
            env=os.environ | places | {"MULE_WORKERS": "0"},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        try:
            for _ in range(_ROUNDS):
                _answering(address)
                time.sleep(_PAUSE)
                victims = list(below(mule.pid))
                begin = time.perf_counter()
                for pid in victims:
                    os.kill(pid, signal.SIGKILL)
                _answering(address)
                took.append(time.perf_counter() - begin)
        finally:
            mule.terminate()
            mule.wait()
    return (
        f"{statistics.median(took):.1f} s (median of {_ROUNDS}, at most {max(took):.1f}) until the next answer",
        f"under {SECONDS:.0f} s",
        max(took) < SECONDS,
    )
