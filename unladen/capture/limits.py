"""Limits on what is read from people's files, so that a hostile archive costs little."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Limits:
    """Sizes in bytes. `ratio` is unpacked over packed and counts once `ratio_from` bytes are unpacked."""

    files: int = 20_000
    file_size: int = 512_000_000
    total_size: int = 2_000_000_000
    ratio: int = 150
    ratio_from: int = 20_000_000
    depth: int = 40
    name_length: int = 1_000
