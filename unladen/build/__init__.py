"""Plan and capture in, lightened capture and journal out."""

from unladen.build.building import build

__all__ = ["build"]
