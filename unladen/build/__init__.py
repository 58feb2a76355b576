"""Plan and capture in, lightened capture and journal out."""

from unladen.build.building import build
from unladen.build.trials import TrialCache

__all__ = ["TrialCache", "build"]
