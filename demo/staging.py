"""A stand-in for the mill's staging server and the services that its pages embed, on loopback."""

from __future__ import annotations

import asyncio
import sys
import tempfile
import time

from demo.generate import demo_archive
from unladen.capture import BodyStore, Capture, read_site
from unladen.replay import Answer, ReplayServer
from unladen.replay.protocols import Question


class StagingServer(ReplayServer):
    """Answers for all hosts of the demo over plain HTTP under one port."""

    def __init__(self, capture: Capture, port: int) -> None:
        super().__init__(capture, http2=False, plain_port=port)

    def respond(self, scheme: str, question: Question) -> Answer | asyncio.Future[Answer]:
        """The demo is recorded under https; its staging server has no certificate, as is usual for one."""
        return super().respond("https", question)


def main(port: int) -> None:
    """Serve until stopped."""
    with tempfile.TemporaryDirectory(prefix="mule-staging-") as folder:
        capture = read_site(demo_archive(), BodyStore(folder))
        with StagingServer(capture, port) as server:
            print(f"staging server on port {server.plain_port}", file=sys.stderr, flush=True)
            while True:
                time.sleep(3600)


if __name__ == "__main__":
    main(int(sys.argv[1]))
