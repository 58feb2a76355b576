"""How long it takes to cut 1 MB of scripts down to the functions that ran."""

from __future__ import annotations

import hashlib
import time

from tests.sites import registry_package
from unladen.scripts.bodies import chosen_in, rest_of, without_bodies
from unladen.scripts.functions import read_script

WITHIN = 3.0  # s
SIZE = 1_000_000
_SOURCE = ("startbootstrap-sb-admin-2", "4.1.4")


def _scripts() -> list[str]:
    found, size = [], 0
    for path in sorted(registry_package(*_SOURCE).glob("vendor/**/*.js")):
        if path.is_file() and path.stat().st_size > 50_000:
            found.append(path.read_text(errors="replace"))
            size += path.stat().st_size
        if size >= SIZE:
            break
    return found


def measure() -> tuple[str, str, bool]:
    """Real libraries, of which every function is cut that can be."""
    scripts = _scripts()
    begin = time.perf_counter()
    cut = 0
    for chars in scripts:
        script = read_script(chars)
        names = {function.name for function in script.functions}
        chosen = chosen_in(script, names)
        cut += len(without_bodies(chars, names, "x.rest.json", hashlib.sha256(rest_of(chosen)).hexdigest()))
    seconds = time.perf_counter() - begin
    size = sum(map(len, scripts))
    return f"{size / 1e6:.1f} MB in {seconds:.1f} s, {cut / size:.1%} left", f"under {WITHIN:.0f} s", seconds < WITHIN
