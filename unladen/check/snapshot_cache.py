"""Looks kept between checks: the same page with the same files in the same browser looks the same."""

from __future__ import annotations

import json
from collections.abc import Collection, Mapping
from dataclasses import asdict
from pathlib import Path
from typing import Any

from unladen.capture import BodyStore, Capture
from unladen.capture.reads import ReadShelf
from unladen.check.probes import Observation, all_probes
from unladen.check.snapshot import Snapshot
from unladen.page_scripts import all_in_page
from unladen.weigh.records.conditions import Device
from unladen.weigh.visits.walk import WalkOrders

_VERSION = 12
_MOST = 48  # looks kept of a page on a device: more than a search for the cause takes
_ROOM = 1_000_000_000  # bytes of their pictures; what goes is looked at again when it is wanted


class SnapshotCache:
    """Looks under page, device, browser and probes, each with the files that the page asked for.

    Their pictures lie in a store of their own, from which those not used for longest go.

    What the user wants of walks (`orders`, by URL) is a part of how a page was looked at. A look holds for each
    capture in which those files are the same, so that a change elsewhere lets it stand.
    """

    def __init__(
        self, root: Path, browser: str, orders: Mapping[str, WalkOrders] | None = None, room: int = _ROOM
    ) -> None:
        self._kept = ReadShelf(root, _MOST, Capture.content)
        self._pictures = BodyStore(root / "pictures")
        self._room = room
        self._unmeasured = 0
        self.browser = browser
        self.orders = orders or {}

    def _key(self, url: str, device: Device, until: str, focus: str) -> str:
        asked = [(probe.name, probe.version) for probe in all_probes()]
        wanted = self.orders.get(url, WalkOrders())
        walked = [[asdict(step) for step in wanted.own], sorted(wanted.off)]
        return json.dumps([_VERSION, all_in_page(), asked, self.browser, url, asdict(device), walked, until, focus])

    def find(
        self,
        capture: Capture,
        url: str,
        device: Device,
        most: int,
        *,
        enough: Collection[str] = (),
        exactly: bool = False,
        until: str = "",
        focus: str = "",
    ) -> list[Snapshot]:
        """The kept looks that hold for a capture, no more than `most`, whole ones first and of equal ones the oldest.

        Others will do where all of the probes that are `enough` have looked, if any are named; `exactly` these alone.
        `until`: they walked as far as the step of these words; `focus`: the key of where they read computed styles.
        """
        whole: list[Snapshot] = []
        others: list[Snapshot] = []
        for notes, document in self._kept.holding(capture, self._key(url, device, until, focus)):
            try:
                if exactly and set(notes["probes"]) != set(enough):
                    continue
                if notes["whole"]:
                    whole.append(self._look(notes, json.loads(document)))
                elif enough and set(enough) <= set(notes["probes"]) and len(others) < most:
                    others.append(self._look(notes, json.loads(document)))
            except (OSError, ValueError, KeyError, TypeError, AttributeError):
                continue
            if len(whole) >= most:
                break
        return [*whole, *others][:most]

    def keep(self, url: str, device: Device, snapshot: Snapshot, until: str = "", focus: str = "") -> bool:
        """Keep a look, and say whether: one that found no living page, or no rest, is not worth keeping."""
        if not snapshot.alive or snapshot.restless:
            return False
        notes = {
            "whole": snapshot.whole,
            "probes": list(snapshot.observations),
            "instead": list(snapshot.instead),
            "left": list(snapshot.left),
        }
        self._kept.keep(
            self._key(url, device, until, focus), snapshot.reads, notes, json.dumps(self._record(snapshot))
        )
        if self._unmeasured > self._room / 20:
            self._unmeasured = 0
            self._pictures.trim(self._room)
        return True

    def _record(self, snapshot: Snapshot) -> dict[str, Any]:
        return {
            name: {
                "values": dict(seen.values),
                "bodies": {part: self._put(body) for part, body in seen.bodies.items()},
            }
            for name, seen in snapshot.observations.items()
        }

    def _put(self, body: bytes) -> str:
        self._unmeasured += len(body)
        return self._pictures.put(body)

    def _get(self, digest: str) -> bytes:
        self._pictures.touch(digest)
        return self._pictures.get(digest)

    def _look(self, told: dict[str, Any], record: dict[str, Any]) -> Snapshot:
        seen = {
            name: Observation(entry["values"], {part: self._get(digest) for part, digest in entry["bodies"].items()})
            for name, entry in record.items()
        }
        return Snapshot(True, seen, "", told["reads"], tuple(told["instead"]), told["whole"], tuple(told["left"]))
