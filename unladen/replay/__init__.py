"""Serves a capture to a browser over loopback, under its real URLs, and logs every byte."""

from unladen.replay.answer import Answer
from unladen.replay.server import ReplayServer, Served

__all__ = ["Answer", "ReplayServer", "Served"]
