"""Looks at unchanged pages, kept between checks: the same site in the same browser looks the same."""

from __future__ import annotations

import hashlib
import json
from dataclasses import asdict
from pathlib import Path
from typing import Any

from unladen.capture import BodyStore, Capture
from unladen.check.looking import Look
from unladen.weigh.conditions import Device

_VERSION = 4
_Pair = tuple[Look, Look]


class LookShelf:
    """Pairs of looks under the site's content, page, device and browser; pictures lie in the store."""

    def __init__(self, root: Path, store: BodyStore, browser: str) -> None:
        self.root = root
        self.store = store
        self.browser = browser
        root.mkdir(parents=True, exist_ok=True)

    def _path(self, capture: Capture, url: str, device: Device) -> Path:
        content = [(e.url, e.status, e.media_type, e.digest, e.encoding) for e in capture]
        key = json.dumps([_VERSION, self.browser, url, asdict(device), content])
        return self.root / (hashlib.sha256(key.encode()).hexdigest() + ".json")

    def find(self, capture: Capture, url: str, device: Device) -> _Pair | None:
        """The kept pair, if all of it is still there."""
        try:
            first, second = json.loads(self._path(capture, url, device).read_text())
            return self._look(first), self._look(second)
        except (OSError, ValueError, KeyError, TypeError):
            return None

    def keep(self, capture: Capture, url: str, device: Device, pair: _Pair) -> bool:
        """Keep a pair of looks, and say whether: those that found no living page are not worth keeping."""
        if not all(look.alive for look in pair):
            return False
        path = self._path(capture, url, device)
        temporary = path.with_suffix(".part")
        temporary.write_text(json.dumps([self._record(look) for look in pair]))
        temporary.replace(path)
        return True

    def _record(self, look: Look) -> dict[str, Any]:
        return {
            "alive": look.alive,
            "picture": self.store.put(look.picture) if look.picture else "",
            "boxes": look.boxes,
            "order": look.order,
            "broken": sorted(look.broken),
            "errors": look.errors,
            "missing": sorted(look.missing),
        }

    def _look(self, record: dict[str, Any]) -> Look:
        return Look(
            alive=record["alive"],
            picture=self.store.get(record["picture"]) if record["picture"] else b"",
            order=record["order"],
            boxes={place: (box[0], box[1], box[2], box[3]) for place, box in record["boxes"].items()},
            broken=set(record["broken"]),
            errors=record["errors"],
            missing=set(record["missing"]),
        )
