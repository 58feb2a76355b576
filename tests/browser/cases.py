"""What tests with a real browser share."""

from __future__ import annotations

import tempfile
from contextlib import ExitStack
from dataclasses import replace
from pathlib import Path
from typing import Any

from tests.sites import FolderCase, run_cli
from unladen.capture import BodyStore, Capture
from unladen.check import Standing
from unladen.check.snapshot import Snapshot, SnapshotTaker
from unladen.lighten import Lightened, lighten
from unladen.progress import Progress
from unladen.remedies import Change
from unladen.replay import ReplayServer
from unladen.weigh.chromium.browser import Browser
from unladen.weigh.records.conditions import DEVICES, Conditions
from unladen.weigh.records.model import WeighIn
from unladen.weigh.visits.weighing import weigh_page

PHONE, DESKTOP = (Conditions(DEVICES[name]) for name in ("phone", "desktop"))


def set_aside(result: Lightened) -> dict[str, str]:
    """The changes that the check has set aside, with the reason."""
    outcomes = result.outcomes.by_change.values()
    return {outcome.change: outcome.reason for outcome in outcomes if outcome.standing is Standing.SET_ASIDE}


def counting(result: Lightened) -> list[Change[Any]]:
    """The changes that are wanted and not out."""
    return result.outcomes.applied_to(result.plan).counting()


class BrowserCase(FolderCase):
    """Weighs and lightens small sites for real.

    The tests of a class share one store, and with it the encodes and the looks at unchanged pages that were kept.
    """

    replay: ReplayServer
    browser: Browser
    kept: Path

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.kept = Path(cls.enterClassContext(tempfile.TemporaryDirectory(prefix="mule-kept-")))

    def setUp(self) -> None:
        super().setUp()
        self.store = BodyStore(self.kept / "bodies")
        self._looker: Browser | None = None

    def looker(self) -> Browser:
        """A browser for looks, which serves whatever is looked at; the same one for all of a test."""
        if self._looker is None:
            self._looker = self.serve(self.capture({"index.html": b"<p>nothing"}))
        return self._looker

    def snapshots(
        self, files: dict[str, bytes], *, quick: bool = False, times: int = 1, styles: bool = False
    ) -> list[Snapshot]:
        """Looks at the index page of a small site on a phone, with all computed styles where they are wanted."""
        capture = self.capture(files)
        page_checks = [("https://site.example/index.html", DEVICES["phone"])] * times
        checker = SnapshotTaker(self.looker())
        found = checker.look_all(capture, page_checks, quick=quick)
        if not styles:
            return found
        read = checker.look_all(capture, page_checks, only=["styles"])
        return [
            replace(snapshot, observations={**close.observations, **snapshot.observations})
            for snapshot, close in zip(found, read, strict=True)
        ]

    def serve(self, capture: Capture, *, http2: bool = True) -> Browser:
        """A browser on this capture for the rest of the test."""
        stack = ExitStack()
        self.addCleanup(stack.close)
        self.replay = stack.enter_context(ReplayServer(capture, http2=http2))
        self.browser = stack.enter_context(Browser(self.replay))
        return self.browser

    def weigh(self, files: dict[str, bytes], conditions: Conditions = DESKTOP, path: str = "/index.html") -> WeighIn:
        """One weigh-in of a page of these files."""
        capture = self.capture(files)
        return weigh_page(self.serve(capture), capture.page(path), conditions)

    def lighten(self, files: dict[str, bytes], effort: str = "steady", **options: object) -> Lightened:
        """These files, lightened; the account must add up whatever happens. Other devices are left to the tests that
        are about them.
        """
        options = {"devices": ("phone",)} | options
        result = lighten(self.capture(files), effort, Progress(), **options)  # type: ignore[arg-type]
        self.assertTrue(result.account.adds_up(), result.account)
        return result


class CommandCase(BrowserCase):
    """Checks by the command line."""

    def run_check(self, *arguments: str) -> tuple[int, str, str]:
        """Exit code, standard output and standard error."""
        return run_cli("check", *arguments)
