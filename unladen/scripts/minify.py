"""A script written shorter, by esbuild: a program that is set up with the front end, and run with limits."""

from __future__ import annotations

import ctypes
import os
import resource
import shutil
import signal
import subprocess
from dataclasses import asdict, dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any, ClassVar

from unladen.errors import Refused

VERSION = 1
_WITHIN = 60.0  # s for one file
# Go keeps far more addresses than it uses.
_MEMORY = 8_000_000_000
_PR_SET_PDEATHSIG = 1
_LARGEST = 20_000_000  # bytes
_SET_UP = Path(__file__).resolve().parent.parent.parent / "web" / "node_modules" / "@esbuild"


@dataclass(frozen=True, slots=True)
class Shorter:
    """What came of it, in UTF-8."""

    data: bytes

    def facts(self) -> dict[str, Any]:
        """Nothing beside it."""
        return {}


@dataclass(frozen=True, slots=True)
class MinifyScript:
    """Without comments but for licences, white space and long-winded syntax; with `names` the names that only its
    own functions know are shortened too. Names that others could see stay.
    """

    name: ClassVar[str] = "minify-script"
    version: ClassVar[int] = VERSION
    seconds: ClassVar[float] = _WITHIN
    memory: ClassVar[int] = _MEMORY

    names: bool = False

    def as_json(self) -> dict[str, Any]:
        """Plain values."""
        return asdict(self)

    def run(self, data: bytes) -> Shorter:
        """A script in UTF-8; raises `Refused` where it cannot be read as one, or is as short as it can be."""
        if len(data) > _LARGEST:
            raise Refused(f"is larger than {_LARGEST // 1_000_000} MB")
        made = _run(data, self)
        if len(made) >= len(data):
            raise Refused("would not become smaller")
        return Shorter(made)


@lru_cache(maxsize=1)
def find_esbuild() -> str:
    """Where the program is: named by MULE_ESBUILD, set up with the front end, or on the path; "" if nowhere."""
    named = os.environ.get("MULE_ESBUILD", "")
    result = [named] if named else [str(path) for path in sorted(_SET_UP.glob("*/bin/esbuild"))]
    return next((path for path in result if os.access(path, os.X_OK)), shutil.which("esbuild") or "")


def _run(data: bytes, wanted: MinifyScript) -> bytes:
    program = find_esbuild()
    if not program:
        raise Refused("cannot be written shorter, since esbuild is missing here")
    charset = "ascii" if data.isascii() else "utf8"
    command = [
        program, "--loader=js", "--target=esnext", "--minify-whitespace", "--minify-syntax", "--legal-comments=inline",
        f"--charset={charset}", "--log-level=error", "--log-limit=1", "--color=false",
    ]  # fmt: skip
    if wanted.names:
        command.append("--minify-identifiers")
    try:
        done = subprocess.run(
            command, input=data, capture_output=True, timeout=_WITHIN, check=False, preexec_fn=_limit, cwd="/",
            env={"PATH": "", "GOMAXPROCS": "1"},
        )  # fmt: skip
    except subprocess.TimeoutExpired:
        raise Refused(f"could not be written shorter within {_WITHIN:g} s") from None
    if done.returncode:
        lines = done.stderr.decode(errors="replace").strip().splitlines() or ["it ended without a word"]
        raise Refused(f"cannot be read as a script ({lines[0].removeprefix('✘ ').removeprefix('[ERROR] ')[:160]})")
    return done.stdout.rstrip(b"\n")


def _limit() -> None:
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
    resource.setrlimit(resource.RLIMIT_CPU, (int(_WITHIN), int(_WITHIN)))
