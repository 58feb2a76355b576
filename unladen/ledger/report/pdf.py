"""The report as a PDF, printed by the headless browser: tagged, with an outline, links and page numbers."""

from __future__ import annotations

import os

from playwright.async_api import Error as PlaywrightError

from unladen.errors import BadInput, UnladenError
from unladen.weigh.chromium.browser import find_chromium
from unladen.weigh.chromium.driver import driver

PAPERS = ("A4", "Letter")
_WITHIN = 120_000  # ms
_FOOT = (
    '<div style="width:100%;font:9px system-ui,sans-serif;color:#5F594F;text-align:center">'
    '<span class="pageNumber"></span> of <span class="totalPages"></span></div>'
)


class NotPrinted(UnladenError):
    """The browser could not print the report."""


def report_pdf(html: str, paper: str = "A4") -> bytes:
    """A report's HTML on paper; raises `BadInput` for another paper, `BrowserMissing` and `NotPrinted`."""
    if paper not in PAPERS:
        raise BadInput(paper, f"is not a paper size; use {' or '.join(PAPERS)}")
    return driver().run(_print(html, paper))


async def _print(html: str, paper: str) -> bytes:
    try:
        browser = await driver().launch(
            executable_path=find_chromium(),
            headless=True,
            chromium_sandbox=os.geteuid() != 0,
            # Nothing in the page asks for anything; should it, there is nobody to answer.
            args=[
                "--host-resolver-rules=MAP * ~NOTFOUND",
                "--disable-background-networking",
                "--disable-dev-shm-usage",
            ],
        )
    except PlaywrightError as error:
        raise NotPrinted(f"the browser did not start: {str(error).splitlines()[0][:200]}") from error
    try:
        context = await browser.new_context(java_script_enabled=False, offline=True)
        page = await context.new_page()
        await page.set_content(html, timeout=_WITHIN)
        page.set_default_timeout(_WITHIN)
        return await page.pdf(
            format=paper,
            tagged=True,
            outline=True,
            display_header_footer=True,
            header_template="<span></span>",
            footer_template=_FOOT,
            print_background=True,
            margin={"top": "16mm", "bottom": "18mm", "left": "16mm", "right": "16mm"},
        )
    except PlaywrightError as error:
        raise NotPrinted(f"the report could not be printed: {str(error).splitlines()[0][:200]}") from error
    finally:
        await browser.close()
