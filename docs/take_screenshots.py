"""Takes the pictures in docs/screenshots/ from the running demo: docs/take_screenshots.py ADDRESS

ADDRESS is what `./mule demo` printed. The demo's site is lightened first if that has not been done.
"""

from __future__ import annotations

import os
import sys
from pathlib import Path
from urllib.parse import urljoin

from playwright.sync_api import Page, sync_playwright

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from unladen.weigh.chromium.browser import find_chromium

TARGET = Path(__file__).resolve().parent / "screenshots"
STAGES = {
    "weigh": "weigh?page=/index.html&device=phone",
    "brought": "weigh?part=brought",
    "times": "weigh?part=times",
    "allowances": "weigh?part=allowances",
    "history": "weigh?part=history",
    "sort": "sort?page=/index.html&device=phone",
    "embed": "sort?page=/index.html&device=phone",
    "use": "sort?part=use",
    "lighten": "lighten",
    "sheet": "lighten?part=sheet",
    "loupe": "lighten?part=sheet",
    "live": "lighten?part=live&device=desktop",
    "check": "check",
    "hand-over": "hand-over",
    "by-hand": "hand-over?part=hand",
}
PATIENCE = 900_000  # ms; the check of a bold plan on a busy machine


def shoot(page: Page, name: str) -> None:
    """A picture of the window as it is once nothing loads any more."""
    page.wait_for_load_state("networkidle")
    page.mouse.move(0, 0)
    page.wait_for_timeout(400)
    page.screenshot(path=TARGET / f"{name}.png")


def prepare(page: Page, base: str) -> None:
    """A walk over all pages, unless there was one."""
    page.goto(base + "sort?part=use")
    start = page.get_by_role("button", name="Walk through all pages")
    page.locator(".use-map").or_(start).first.wait_for()
    if start.count():
        start.click()
        page.locator(".use-map").wait_for(timeout=PATIENCE)


def main(address: str) -> None:
    """All pictures."""
    TARGET.mkdir(exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=find_chromium(), chromium_sandbox=os.geteuid() != 0)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.set_default_timeout(PATIENCE)
        page.goto(address)
        page.get_by_role("link", name="Merrow Tide Mill").last.click()
        page.get_by_role("button", name="Try steady").wait_for(timeout=PATIENCE)
        base = page.url.rpartition("/")[0] + "/"
        prepare(page, base)
        page.goto(base + "sort")
        page.get_by_role("button", name="Try steady").wait_for(timeout=PATIENCE)
        if not page.locator(".trail").get_by_text("no difference").count():
            # Some of its changes break pages, which is what the check has to show.
            page.get_by_role("button", name="Try bold").click()
            page.get_by_role("status").wait_for()
            page.goto(base + "check?page=/index.html")
            page.get_by_role("table", name="Pages checked so far").wait_for(timeout=PATIENCE)
            shoot(page, "checking")
            page.locator(".trail").get_by_text("no difference").wait_for(timeout=PATIENCE)
        page.goto(urljoin(address, "/"))
        shoot(page, "sites")
        for name, path in STAGES.items():
            page.goto(base + path)
            if name == "sheet":
                page.locator(".thumb img").first.wait_for()
            if name == "loupe":
                page.get_by_label("Open marsh.png in the loupe").click()
                page.locator(".step").last.get_by_text("kB").wait_for(timeout=PATIENCE)
            if name == "embed":
                page.get_by_role("row").filter(has_text="A player, Film").click()
                page.locator(".facts figure img").wait_for()
                page.get_by_role("button", name="Apply").scroll_into_view_if_needed()
            if name == "allowances":
                page.get_by_role("heading", name="Limits", exact=True).wait_for()
            if name == "by-hand":
                page.locator(".steps summary").nth(1).click()
            if name == "lighten":
                page.get_by_role("button", name="Expand row").first.click()
            if name == "use":
                page.get_by_role("gridcell", name="/theme/theme.css:").first.click()
            if name == "history":
                page.locator("table.history").wait_for()
                for box in page.locator("table.history tbody input[type=checkbox]").all()[:2]:
                    box.check()
            if name == "live":
                for frame in page.locator("iframe").all():
                    content = frame.element_handle().content_frame()
                    if content:
                        content.wait_for_load_state()
            shoot(page, name)
        page.goto(base + "hand-over?part=review")
        page.get_by_role("button", name="Create link").click()
        link = page.get_by_label("Link").input_value()
        page.set_viewport_size({"width": 390, "height": 844})
        page.goto(base + STAGES["sort"])
        shoot(page, "narrow")
        page.goto(link)
        page.get_by_role("heading", name="The changes").scroll_into_view_if_needed()
        page.locator(".topic img").first.wait_for()
        shoot(page, "review")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
