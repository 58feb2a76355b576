"""Looks kept between checks: the same page with the same files in the same browser looks the same."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator
from dataclasses import asdict
from pathlib import Path
from typing import Any

from unladen.capture import BodyStore, Capture
from unladen.check.looking import Look
from unladen.check.probes import Observation, probes
from unladen.inpage import all_in_page
from unladen.weigh.records.conditions import Device
from unladen.whole import write_whole

_VERSION = 6
_MOST = 120  # looks kept of a page on a device


class LookShelf:
    """Looks under page, device, browser and probes, each with the files that the page asked for; bodies lie in the store.

    A look holds for each capture in which those files are the same, so that a change elsewhere lets it stand.
    """

    def __init__(self, root: Path, store: BodyStore, browser: str) -> None:
        self.root = root
        self.store = store
        self.browser = browser

    def _folder(self, url: str, device: Device) -> Path:
        asked = [(probe.name, probe.version) for probe in probes()]
        key = json.dumps([_VERSION, all_in_page(), asked, self.browser, url, asdict(device)])
        return self.root / hashlib.sha256(key.encode()).hexdigest()[:32]

    def find(self, capture: Capture, url: str, device: Device, *, quick: bool = False) -> list[Look]:
        """The kept looks that hold for a capture, oldest first; where a quick one will do those too."""
        found = []
        for file in self._files(url, device):
            try:
                head, _, rest = file.read_text().partition("\n")
                told = json.loads(head)
                if (quick or told["whole"]) and all(capture.fingerprint(u) == f for u, f in told["reads"].items()):
                    found.append(self._look(told, json.loads(rest)))
            except (OSError, ValueError, KeyError, TypeError, AttributeError):
                continue
        return found

    def _files(self, url: str, device: Device) -> Iterator[Path]:
        folder = self._folder(url, device)
        yield from sorted(folder.glob("*.json")) if folder.is_dir() else ()

    def keep(self, url: str, device: Device, look: Look) -> bool:
        """Keep a look, and say whether: one that found no living page, or no rest, is not worth keeping."""
        if not look.alive or look.restless:
            return False
        files = list(self._files(url, device))
        for old in files[: max(0, len(files) - _MOST + 1)]:
            old.unlink(missing_ok=True)
        number = int(files[-1].stem) + 1 if files else 1
        head = {"reads": dict(look.reads), "whole": look.whole, "instead": list(look.instead)}
        text = json.dumps(head) + "\n" + json.dumps(self._record(look))
        write_whole(self._folder(url, device) / f"{number:06}.json", text)
        return True

    def forget(self, capture: Capture, url: str, device: Device) -> None:
        """Let looks go that turned out not to tell enough."""
        for file in self._files(url, device):
            try:
                told = json.loads(file.read_text().partition("\n")[0])
                if all(capture.fingerprint(u) == f for u, f in told["reads"].items()):
                    file.unlink(missing_ok=True)
            except (OSError, ValueError, KeyError, AttributeError):
                file.unlink(missing_ok=True)

    def _record(self, look: Look) -> dict[str, Any]:
        return {
            name: {
                "values": dict(seen.values),
                "bodies": {part: self.store.put(body) for part, body in seen.bodies.items()},
            }
            for name, seen in look.observations.items()
        }

    def _look(self, told: dict[str, Any], record: dict[str, Any]) -> Look:
        seen = {
            name: Observation(
                entry["values"], {part: self.store.get(digest) for part, digest in entry["bodies"].items()}
            )
            for name, entry in record.items()
        }
        return Look(True, seen, "", told["reads"], tuple(told["instead"]), told["whole"])
