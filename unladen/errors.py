"""Errors that the core raises. Each names what it is about and why, in words for the person at the screen."""

from __future__ import annotations

from dataclasses import dataclass


class UnladenError(Exception):
    """Base of all errors that a caller is expected to show to a person."""


class BadInput(UnladenError):
    """What was handed in cannot be used at all; `name` is the file or address, `reason` says why."""

    def __init__(self, name: str, reason: str) -> None:
        super().__init__(f"{name}: {reason}")
        self.name = name
        self.reason = reason


class Refused(ValueError):
    """A file is left as it is; the text says why, in words for the person at the screen."""


class StoreFull(UnladenError):
    """There is no room for a body, on the disk or in what its owner may store."""


class BrowserMissing(UnladenError):
    """No Chromium was found on this machine."""


class Cancelled(UnladenError):
    """The caller asked to stop."""


class SetDown(Cancelled):
    """Work that was paused for longer than its place is kept; what was computed is remembered for the next time."""


@dataclass(frozen=True, slots=True)
class Notice:
    """Something that was left out or left alone while the rest went on."""

    name: str
    reason: str

    def __str__(self) -> str:
        return f"{self.name}: {self.reason}"
