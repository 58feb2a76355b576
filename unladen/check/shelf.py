"""Looks at unchanged pages, kept whole between checks: the same site in the same browser looks the same."""

from __future__ import annotations

import hashlib
import json
from dataclasses import asdict
from pathlib import Path
from typing import Any

from unladen.capture import BodyStore, Capture
from unladen.check.looking import Look
from unladen.check.probes import Observation, probes
from unladen.weigh.records.conditions import Device
from unladen.whole import write_whole

_VERSION = 5
LookPair = tuple[Look, Look]


class LookShelf:
    """Pairs of looks under the site's content, page, device, browser and probes; bodies lie in the store."""

    def __init__(self, root: Path, store: BodyStore, browser: str) -> None:
        self.root = root
        self.store = store
        self.browser = browser

    def _path(self, capture: Capture, url: str, device: Device) -> Path:
        content = [(e.url, e.status, e.media_type, e.digest, e.encoding) for e in capture]
        asked = [(probe.name, probe.version) for probe in probes()]
        key = json.dumps([_VERSION, asked, self.browser, url, asdict(device), content])
        return self.root / (hashlib.sha256(key.encode()).hexdigest() + ".json")

    def find(self, capture: Capture, url: str, device: Device) -> LookPair | None:
        """The kept pair, if all of it is still there."""
        try:
            first, second = json.loads(self._path(capture, url, device).read_text())
            return self._look(first), self._look(second)
        except (OSError, ValueError, KeyError, TypeError, AttributeError):
            return None

    def keep(self, capture: Capture, url: str, device: Device, pair: LookPair) -> bool:
        """Keep a pair of looks, and say whether: those that found no living page are not worth keeping."""
        if not all(look.alive for look in pair):
            return False
        write_whole(self._path(capture, url, device), json.dumps([self._record(look) for look in pair]))
        return True

    def forget(self, capture: Capture, url: str, device: Device) -> None:
        """Let a pair go that turned out not to tell enough."""
        self._path(capture, url, device).unlink(missing_ok=True)

    def _record(self, look: Look) -> dict[str, Any]:
        return {
            name: {
                "values": dict(seen.values),
                "bodies": {part: self.store.put(body) for part, body in seen.bodies.items()},
            }
            for name, seen in look.observations.items()
        }

    def _look(self, record: dict[str, Any]) -> Look:
        seen = {
            name: Observation(
                entry["values"], {part: self.store.get(digest) for part, digest in entry["bodies"].items()}
            )
            for name, entry in record.items()
        }
        return Look(True, seen)
