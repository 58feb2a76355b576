"""The report: a file that needs nothing else, and a PDF that other programs read."""

from __future__ import annotations

import csv
import io
import json
import re
import subprocess
from dataclasses import replace
from pathlib import Path
from typing import Any

from pypdf import PdfReader

from tests.browser.cases import BrowserCase
from tests.browser.test_lighten import FILES
from tests.sites import photo, registry_package, run_cli, zip_of
from unladen.errors import BadInput
from unladen.ledger.report import (
    MOST_LOGO,
    Advice,
    Refusal,
    Report,
    Sender,
    Shot,
    ledger_csv,
    logo_of,
    report_html,
    report_pdf,
)
from unladen.remedies.registry import ALL
from unladen.weigh.records.kinds import KINDS

EVIL = '<script>alert(1)</script><img src=x onerror=alert(1)> "مرحبا" 🐴 ' + "n" * 500


class FromASite(BrowserCase):
    def test_one_command_from_a_site_to_a_pdf_that_others_read(self) -> None:
        site = zip_of(FILES, self.folder / "mill.zip")
        (self.folder / "logo.png").write_bytes(photo(120, 60, 1, "PNG"))
        (self.folder / "words.txt").write_text("Dear Ada,\nthis was done.")
        names = {name: self.folder / f"r.{name}" for name in ("pdf", "csv", "json", "html")}
        code, _, errors = run_cli(
            "report",
            site,
            "--out",
            names["pdf"],
            "--by",
            "Weir & Sons",
            "--logo",
            self.folder / "logo.png",
            "--words",
            self.folder / "words.txt",
            "--csv",
            names["csv"],
            "--ledger",
            names["json"],
            "--title",
            "Tide Mill",
            "--page",
            "/index.html",
            "--device",
            "phone",
            "--paper",
            "Letter",
        )
        self.assertEqual((code, errors), (0, ""))
        ledger = json.loads(names["json"].read_text())
        self.read_by_pypdf(names["pdf"], ledger)
        self.drawn_by_poppler(names["pdf"], ledger)
        rows = list(csv.DictReader(io.StringIO(names["csv"].read_text())))
        sides = [sum(row["transferred"] for row in ledger[side]) for side in ("before", "after")]
        self.assertEqual(sum(int(row["bytes saved"]) for row in rows), sides[0] - sides[1])
        self.assertEqual(run_cli("report", names["json"], "--out", names["html"])[0], 0)
        self.assertNotIn("http", re.sub(r"data:[^\"]+|http-equiv", "", names["html"].read_text()))

    def read_by_pypdf(self, path: Path, ledger: dict[str, Any]) -> None:
        reader = PdfReader(path)
        root: Any = reader.trailer["/Root"]
        self.assertEqual((root["/Lang"], root["/MarkInfo"]["/Marked"]), ("en", True))
        self.assertIn("/StructTreeRoot", root)
        self.assertEqual([float(side) for side in reader.pages[0].mediabox[2:]], [612, 792])
        titles = [str(entry.title) for entry in _flat(reader.outline)]
        self.assertIn("Summary", titles)
        links = [
            note
            for page in reader.pages
            for note in page.get("/Annots") or []
            if note.get_object()["/Subtype"] == "/Link"
        ]
        self.assertGreater(len(links), 5)

    def drawn_by_poppler(self, path: Path, ledger: dict[str, Any]) -> None:
        subprocess.run(["pdftoppm", "-r", "20", "-png", path, self.folder / "page"], check=True, capture_output=True)
        text = subprocess.run(["pdftotext", path, "-"], check=True, capture_output=True, text=True).stdout
        text = " ".join(text.split())
        self.assertIn(f"1 of {len(list(self.folder.glob('page*.png')))}", text)
        for words in (
            "Tide Mill, made lighter",
            "by Weir & Sons",
            "Dear Ada,",
            f"{ledger['remedies']['webp']['bytes']:,}",
        ):
            self.assertIn(words, text)


def _flat(outline: Any) -> list[Any]:
    return [entry for part in outline for entry in (_flat(part) if isinstance(part, list) else [part])]


class Odd(BrowserCase):
    def report(self) -> Report:
        weigh_in = {
            "page": EVIL,
            "device": "phone",
            "window": {"width": 390, "height": 844, "density": 2},
            "visit": "first",
            "link": "unlimited",
            "runs": 1,
            "requests": 3,
            "transferred": 2_000_000,
            "load_ms": 10.0,
            "load_ms_runs": [10.0],
            "kinds": {kind: {"transferred": 250_000} for kind in KINDS},
            "browser": "140",
            "taken": "2026-11-20T10:00",
            "modelled_load_ms": {"1.6 Mbit/s, 150 ms": 9000.0, "0.4 Mbit/s, 400 ms": 40_000.0},
        }
        saved = {"bytes": 0, "requests": 0}
        change = {
            "id": "webp:/a.jpg",
            "remedy": "webp",
            "targets": [EVIL],
            "on": True,
            "standing": "set aside",
            "reason": EVIL,
        }
        ledger = {
            "before": [weigh_in],
            "after": [weigh_in],
            "changes": [change | {"aside": [], "saved": saved}],
            "remedies": {},
            "lines": [],
            "unexplained": saved,
            "checks": {"pairs": 1, "passed": 1, "set_aside": 1},
            "notices": [{"name": EVIL, "reason": EVIL}],
        }
        return Report(
            EVIL, ledger, Sender(EVIL, "javascript:alert(1)", EVIL), [Shot(EVIL, "phone", photo(300, 9000), b"no "
                b"picture")],
            [Refusal(EVIL, EVIL, EVIL)], [Advice(EVIL, EVIL, 5_000)], EVIL,
        )  # fmt: skip

    def test_what_others_wrote_is_text_and_nothing_more(self) -> None:
        html = report_html(self.report())
        self.assertNotIn("<script", html)
        self.assertNotIn("<img", html)
        self.assertNotIn("javascript:", html)
        self.assertIn("مرحبا", html)
        self.assertTrue(report_pdf(html).startswith(b"%PDF-"))
        rows = list(csv.reader(io.StringIO(ledger_csv(dict(self.report().ledger) | {"changes": [], "lines": []}))))
        self.assertEqual(rows[-1][:2], ["unexplained", ""])

    def large(self) -> Report:
        """Twenty pages on two devices, every remedy, and more of all than four pages hold."""
        report, saved = self.report(), {"bytes": 0, "requests": 0}
        row = dict(report.ledger["before"][0])
        weigh_ins = [
            row | {"page": f"/page{n}.html", "device": device} for n in range(20) for device in ("phone", "desktop")
        ]
        changes = [
            {
                "id": f"webp:/{n}.jpg", "remedy": "webp", "targets": [f"/{n}.jpg"], "on": True, "standing": "passed",
                "reason": "", "aside": [], "saved": {"bytes": n, "requests": 0},
            }
            for n in range(150)
        ]  # fmt: skip
        ledger = dict(report.ledger) | {
            "before": weigh_ins, "after": weigh_ins, "changes": changes, "unexplained": saved,
            "remedies": {remedy.name: {"bytes": 1000 * n, "requests": n} for n, remedy in enumerate(ALL)},
            "notices": [{"name": f"/a/{n}.png", "reason": "is damaged. " * 20} for n in range(30)],
        }  # fmt: skip
        picture = photo(390, 1800)
        shots = [
            Shot(f"/page{n}.html", device, picture, picture) for n in range(3) for device in ("phone", "desktop")
        ]
        advice = [Advice(f"Picture {n} is large", "Export it anew. " * 12, 5_000) for n in range(30)]
        words = "This was done for the mill. " * 100
        return replace(
            report, site="The mill", ledger=ledger, sender=Sender("Weir", "", words), shots=shots, advice=advice
        )

    def test_one_page_stands_alone_four_follow_and_the_appendix_can_be_left_out(self) -> None:
        report = self.large()
        whole, short = (
            PdfReader(io.BytesIO(report_pdf(report_html(report, short=short), paper)))
            for short, paper in ((False, "A4"), (True, "Letter"))
        )
        texts = [" ".join(page.extract_text(extraction_mode="layout").split()) for page in whole.pages]
        for words in ("made lighter", "Largest savings", "page checks", "as found", "now"):
            self.assertIn(words, texts[0])
        self.assertNotIn("Visitors on a", texts[0])
        appendix = next(n for n, text in enumerate(texts) if text.startswith("Appendix"))
        self.assertLessEqual(appendix, 5)
        self.assertLessEqual(len(short.pages), 5)
        self.assertNotIn("ppendix", " ".join(page.extract_text() for page in short.pages))

    def test_headings_stay_with_what_follows_and_the_face_is_embedded(self) -> None:
        html = report_html(self.large())
        titles = {" ".join(title.split()) for title in re.findall(r"<h[23][^>]*>(.*?)</h[23]>", html)}
        (self.folder / "r.pdf").write_bytes(report_pdf(html))
        text = subprocess.run(
            ["pdftotext", "-layout", self.folder / "r.pdf", "-"], check=True, capture_output=True, text=True
        ).stdout
        for page in text.split("\f")[:-1]:
            # The last line is the page's number.
            lines = [line.strip() for line in page.splitlines() if line.strip()][:-1]
            self.assertNotIn(lines[-1], titles)
        fonts = subprocess.run(["pdffonts", self.folder / "r.pdf"], check=True, capture_output=True, text=True).stdout
        rows = [row.split() for row in fonts.splitlines()[2:]]
        self.assertTrue(any("HankenGrotesk" in row[0] for row in rows), fonts)
        self.assertNotIn("Type 3", fonts)

    def test_what_would_fill_thousands_of_pages_is_summed_up(self) -> None:
        rows = [
            {
                "id": f"webp:/{n}.jpg", "remedy": "webp", "targets": [f"/{n}.jpg"], "on": True, "standing": "passed",
                "reason": "", "aside": [], "saved": {"bytes": n, "requests": 0},
            }
            for n in range(9000)
        ]  # fmt: skip
        report = self.report()
        html = report_html(replace(report, ledger=dict(report.ledger) | {"changes": rows}))
        self.assertIn("1,000 more with smaller savings", html)
        listed = [int(size.replace(",", "")) for size in re.findall(r'<td class="n">([\d,]+)</td></tr>', html)]
        self.assertEqual(sum(listed[-8001:]), sum(range(9000)))

    def test_a_time_that_got_worse_is_said_to_be_more(self) -> None:
        report = self.report()
        slower = [
            row | {"modelled_load_ms": {link: ms + 1000 for link, ms in row["modelled_load_ms"].items()}}
            for row in report.ledger["before"]
        ]
        html = report_html(replace(report, ledger=dict(report.ledger) | {"after": slower}))
        self.assertIn(f"{len(slower) / len(report.devices):.1f} s more", html)

    def test_it_keeps_to_the_rules_for_everybody(self) -> None:
        """WCAG 2.2 AA as far as axe-core can tell, wide and narrow."""
        axe = (registry_package("axe-core", "4.10.3") / "axe.min.js").read_text()
        report = replace(
            self.report(),
            site="Mill",
            sender=Sender("Weir"),
            shots=[Shot("/", "phone", photo(300, 200), photo(300, 200))],
        )
        html = report_html(report).replace("default-src 'none'", "default-src 'none';script-src 'unsafe-inline'")
        browser = self.serve(self.capture({"index.html": html.encode()}))

        async def snapshot(width: int) -> Any:
            from unladen.weigh.records.conditions import own_device

            context, page = await browser.open(own_device(width, 800, 1))
            try:
                await page.goto("https://site.example/index.html")
                sideways = await page.evaluate("document.documentElement.scrollWidth > innerWidth")
                await page.add_script_tag(content=axe)
                return sideways, [v["id"] for v in (await page.evaluate("axe.run()"))["violations"]]
            finally:
                await context.close()

        for width in (1280, 390):
            self.assertEqual(browser.run(snapshot(width)), (False, []))

    def test_bad_input_is_told_by_name(self) -> None:
        for body, words in (
            (b"x" * (MOST_LOGO + 1), "a logo may have"),
            (b"<svg xmlns='http://www.w3.org/2000/svg'><script>alert(1)</script></svg>", "logo.svg"),
            (photo(40, 40)[:200], "logo.svg"),
            (b"", "logo.svg"),
        ):
            with self.assertRaises(BadInput) as caught:
                logo_of(body, "logo.svg")
            self.assertIn(words, str(caught.exception))
        (self.folder / "long.txt").write_text("word " * 900)
        (self.folder / "l.json").write_text('{"format": "unladen/ledger/2", "changes": [{"id": 5}]}')
        for arguments, words in (
            (("x.zip", "--out", "r.doc"), "should end in .pdf or .html"),
            (
                ("x.zip", "--out", self.folder / "r.pdf", "--words", self.folder / "long.txt"),
                "has more than 4,000",
            ),
            ((self.folder / "l.json", "--out", self.folder / "r.html"), "lacks or misuses the field"),
            ((self.folder / "l.json", "--out", self.folder / "no" / "r.html"), "no"),
            ((self.folder / "none.zip", "--out", self.folder / "r.html"), "none.zip"),
        ):
            code, out, errors = run_cli("report", *arguments)
            self.assertEqual((code, out, errors.count("\n")), (2, "", 1))
            self.assertIn(words, errors)
