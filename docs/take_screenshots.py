"""Takes the pictures in docs/screenshots/ from the running demo: docs/take_screenshots.py ADDRESS

ADDRESS is what `./mule demo` printed. The demo's site is lightened first if that has not been done.
"""

from __future__ import annotations

import os
import sys
from pathlib import Path
from urllib.parse import urljoin

from playwright.sync_api import Page, sync_playwright

TARGET = Path(__file__).resolve().parent / "screenshots"
STAGES = {
    "weigh": "weigh?page=/index.html&device=phone",
    "sort": "sort?page=/index.html&device=phone",
    "lighten": "lighten",
    "check": "check",
    "hand-over": "hand-over",
}
PATIENCE = 300_000  # ms


def shoot(page: Page, name: str) -> None:
    """A picture of the window as it is once nothing loads any more."""
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(400)
    page.screenshot(path=TARGET / f"{name}.png")


def main(address: str) -> None:
    """All pictures."""
    TARGET.mkdir(exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", chromium_sandbox=os.geteuid() != 0)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(address)
        page.get_by_role("link", name="Merrow Tide Mill").click()
        page.get_by_role("button", name="Try steady").wait_for(timeout=PATIENCE)
        if not page.locator(".trail").get_by_text("all same").count():
            page.get_by_role("button", name="Try steady").click()
            page.locator(".trail").get_by_text("all same").wait_for(timeout=PATIENCE)
        base = page.url.rpartition("/")[0] + "/"
        page.goto(urljoin(address, "/"))
        shoot(page, "sites")
        for name, path in STAGES.items():
            page.goto(base + path)
            shoot(page, name)
        page.set_viewport_size({"width": 390, "height": 844})
        page.goto(base + STAGES["sort"])
        shoot(page, "narrow")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
