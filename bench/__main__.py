"""Runs benchmarks by name."""

from __future__ import annotations

import sys

from bench import (
    bodies,
    checks,
    cores,
    dashboard,
    doubling,
    equal_look,
    equal_worst_case,
    half_sent,
    kills,
    kinds,
    load,
    long_lists,
    machines,
    many_images,
    memory,
    model,
    opening,
    overhead,
    reading,
    rebuild,
    report,
    restarts,
    screens,
    shown_files,
    style_proof,
    three_runs,
    trim,
    upload,
    wanted,
    weigh_in,
    whole_way,
)

ALL = {
    "weigh_in": weigh_in,
    "three_runs": three_runs,
    "half_sent": half_sent,
    "restarts": restarts,
    "screens": screens,
    "shown_files": shown_files,
    "style_proof": style_proof,
    "rebuild": rebuild,
    "report": report,
    "opening": opening,
    "model": model,
    "cores": cores,
    "dashboard": dashboard,
    "memory": memory,
    "equal_worst_case": equal_worst_case,
    "equal_look": equal_look,
    "overhead": overhead,
    "many_images": many_images,
    "wanted": wanted,
    "checks": checks,
    "whole_way": whole_way,
    "load": load,
    "long_lists": long_lists,
    "machines": machines,
    "doubling": doubling,
    "kills": kills,
    "kinds": kinds,
    "upload": upload,
    "reading": reading,
    "trim": trim,
    "bodies": bodies,
}


def main(names: list[str]) -> int:
    """Run the named benchmarks, or all; returns 1 when a wanted figure was missed."""
    missed = 0
    for name in names or ALL:
        figure, wanted, holds = ALL[name].measure()
        print(f"{name:<10} {figure}   (wanted: {wanted}){'' if holds else '   MISSED'}", flush=True)
        missed += not holds
    return 1 if missed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
