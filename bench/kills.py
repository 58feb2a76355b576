"""Workers, web servers and browsers killed at random moments while sites come in: what is lost, stuck or left over."""

from __future__ import annotations

import contextlib
import io
import os
import random
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time
import zipfile
from collections import Counter
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

from bench.served import PASSWORD, ROOT, Caller
from tests.serving import free_port
from tests.sites import page, photo, zip_of

KILLS = int(os.environ.get("BENCH_KILLS", "200"))
_SETTLED_WITHIN = 600.0  # s after the last one
_KINDS = {"worker": b"manage.py\0work", "web": b"server.wsgi:application", "browser": b"headless"}


def measure() -> tuple[str, str, bool]:
    """What became of the jobs, and what was left."""
    dice = random.Random(7)
    killed: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as name, _started(Path(name) / "data") as (address, data):
        archive = zip_of({"index.html": page("<img src=a.jpg>"), "a.jpg": photo(900, 600, 3)}, Path(name) / "s.zip")
        handed_in = 0
        while killed.total() < KILLS:
            with contextlib.suppress(OSError, RuntimeError):  # the web server may be down just now
                Caller(address, "ada").upload(archive)
                handed_in += 1
            for _ in range(3):
                time.sleep(dice.uniform(0.5, 4))
                kind = dice.choice(tuple(_KINDS))
                if victims := _processes(data, _KINDS[kind]):
                    with contextlib.suppress(ProcessLookupError):
                        os.kill(dice.choice(victims), signal.SIGKILL)
                        killed[kind] += 1
        states = _settled(data)
        caller = Caller(address, "ada")
        sites = caller.ask("GET", "/api/sites")
        whole = sum(_carried_out(caller, site["id"]) for site in sites[:5] if site["before"] is not None)
        with closing(sqlite3.connect(data / "mule.sqlite3")) as database:
            (verdict,) = database.execute("PRAGMA quick_check").fetchone()
    left = len(_processes(data, b""))
    stuck = states["waiting"] + states["running"]
    told = (
        f"{killed.total()} kills ({', '.join(f'{n} of a {kind}' for kind, n in killed.items())}): of {len(sites)} "
        "sites handed in "
        f"{states['done']} jobs done, {states['failed']} told as failed, {stuck} stuck; database {verdict}; "
        f"{whole} of {min(5, len(sites))} archives whole; {left} processes left over"
    )
    return (
        told,
        "none stuck, nothing left over",
        not stuck and verdict == "ok" and not left and len(sites) >= handed_in,
    )


@contextlib.contextmanager
def _started(data: Path) -> Iterator[tuple[str, Path]]:
    """The whole of it, as ./mule start has it."""
    port = free_port()
    environment = os.environ | {
        "MULE_DATA": str(data), "MULE_PORT": str(port), "MULE_PREVIEW_PORT": str(free_port()), "MULE_RUNS": "1",
        "DJANGO_SETTINGS_MODULE": "server.settings",
    }  # fmt: skip
    data.mkdir(parents=True)
    for command, told in (("migrate", ""), ("user", PASSWORD + "\n")):
        arguments = [sys.executable, "manage.py", command, "--no-input" if command == "migrate" else "ada"]
        subprocess.run(
            arguments, cwd=ROOT, env=environment, check=True, stdout=subprocess.DEVNULL, input=told, text=True
        )
    mule = subprocess.Popen(
        [ROOT / "mule", "start"], env=environment, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True
    )
    assert mule.stdout is not None
    try:
        yield mule.stdout.readline().strip().rstrip("/"), data
    finally:
        mule.terminate()
        mule.wait()
        time.sleep(3)  # what ends with its parent looks once a second


def _processes(data: Path, part: bytes) -> list[int]:
    """Those of this server with so much in their command line."""
    found = []
    for process in Path("/proc").glob("[0-9]*"):
        try:
            ours = f"MULE_DATA={data}\0".encode() in (process / "environ").read_bytes()
            if ours and part in (process / "cmdline").read_bytes():
                found.append(int(process.name))
        except OSError:
            continue
    return found


def _settled(data: Path) -> Counter[str]:
    """How many jobs stand how, once none is at work any more."""
    end = time.monotonic() + _SETTLED_WITHIN
    while True:
        with closing(sqlite3.connect(data / "mule.sqlite3", timeout=20)) as database:
            states = Counter(dict(database.execute("SELECT state, COUNT(*) FROM sites_job GROUP BY state")))
        if not states["waiting"] + states["running"] or time.monotonic() > end:
            return states
        time.sleep(1)


def _carried_out(caller: Caller, site: str) -> bool:
    """Whether the plan of a site can be carried out, and its archive is whole."""
    caller.ask("POST", f"/api/sites/{site}/lighten", {"effort": "steady"})
    while caller.ask("GET", f"/api/sites/{site}/run") is None:
        time.sleep(1)
    with zipfile.ZipFile(io.BytesIO(caller.body(f"/api/sites/{site}/lighter.zip"))) as archive:
        return archive.testzip() is None
