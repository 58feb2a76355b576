"""Plan and capture in, lightened capture and journal out."""

from unladen.build.building import build
from unladen.remedies import Journal, Stage

__all__ = ["Journal", "Stage", "build"]
