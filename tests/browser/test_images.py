"""Images judged by the browser itself: what it decodes, turns, colours and chooses."""

from __future__ import annotations

import base64
import io
import os
from typing import Any
from urllib.parse import urlsplit

import numpy as np
from PIL import Image, ImageCms
from playwright.sync_api import Page, sync_playwright

from tests.browser.cases import BrowserCase
from tests.sites import page, photo, registry_package
from unladen.capture import Capture
from unladen.lighten import lighten
from unladen.progress import Progress
from unladen.raster.probe import ImageRefused
from unladen.raster.recode import SVG, Recipe, recode
from unladen.remedies import Delivery, ImageSettings
from unladen.survey.images.sizes import chosen, lines_of, sizes_text, width_at
from unladen.weigh.chromium.browser import find_chromium
from unladen.weigh.page.layout import USUAL_WIDTHS

STYLE = (
    "<meta name=viewport content='width=device-width'><style>body{margin:0}img{display:block}.full{width:100%;"
    "height:auto}</style>"
)
TYPES = {"JPEG": "image/jpeg", "PNG": "image/png", "WEBP": "image/webp", "AVIF": "image/avif", SVG: "image/svg+xml"}


def address(data: bytes, media_type: str) -> str:
    return f"data:{media_type};base64,{base64.b64encode(data).decode()}"


class Judged(BrowserCase):
    """Single files in a page of their own, without our replay server."""

    def setUp(self) -> None:
        super().setUp()
        playwright = self.enterContext(sync_playwright())
        self.chromium = playwright.chromium.launch(
            executable_path=find_chromium(), chromium_sandbox=os.geteuid() != 0
        )
        self.addCleanup(self.chromium.close)

    def window(self, width: int = 800, density: float = 1) -> Page:
        context = self.chromium.new_context(viewport={"width": width, "height": 700}, device_scale_factor=density)
        self.addCleanup(context.close)
        return context.new_page()

    def pixels(self, window: Page, data: bytes, media_type: str, ground: str = "#fff") -> np.ndarray[Any, Any]:
        """The picture as the browser paints it, and nothing else."""
        window.set_content(f'<body style="margin:0;background:{ground}"><img src="{address(data, media_type)}">')
        window.evaluate("document.images[0].decode()")
        box = window.evaluate(
            "(() => { const b = document.images[0].getBoundingClientRect(); return [b.width, b.height]; })()"
        )
        shot = window.screenshot(clip={"x": 0, "y": 0, "width": box[0], "height": box[1]})
        return np.asarray(Image.open(io.BytesIO(shot)).convert("RGB"), dtype=np.int16)

    def test_every_format_is_decoded_to_its_size(self) -> None:
        window = self.window()
        for format in ("JPEG", "WEBP", "AVIF", "PNG"):
            for width in (0, 150):
                found = recode(photo(300, 200, quality=97), Recipe(width, format, 0.95, always=True))
                painted = self.pixels(window, found.data, TYPES[format])
                self.assertEqual(painted.shape[:2], (found.height, found.width), format)

    def test_turned_and_coloured_as_the_browser_shows_the_original(self) -> None:
        window = self.window()
        for orientation in range(1, 9):
            exif = Image.Exif()
            exif[0x0112] = orientation
            data = photo(240, 160, 4, quality=95, grain=2, exif=exif.tobytes())
            before = self.pixels(window, data, "image/jpeg")
            for recipe, format in (
                (Recipe(), "JPEG"),
                (Recipe(0, "WEBP", 0.97), "WEBP"),
                (Recipe(0, "JPEG", 0.97), "JPEG"),
            ):
                after = self.pixels(window, recode(data, recipe).data, TYPES[format])
                self.assertEqual(before.shape, after.shape, orientation)
                self.assertLess(np.abs(before - after).mean(), 6, (orientation, recipe))

    def test_a_wide_profile_keeps_its_colours(self) -> None:
        window = self.window()
        # A profile that swaps red and green: made from sRGB by exchanging two of its primaries' tags.
        swapped = bytearray(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
        red, green = swapped.index(b"rXYZ"), swapped.index(b"gXYZ")
        swapped[red : red + 4], swapped[green : green + 4] = b"gXYZ", b"rXYZ"
        data = photo(240, 160, 4, quality=95, grain=2, icc_profile=bytes(swapped))
        plain = self.pixels(window, photo(240, 160, 4, quality=95, grain=2), "image/jpeg")
        before = self.pixels(window, data, "image/jpeg")
        self.assertGreater(np.abs(before - plain).mean(), 20)  # the browser goes by the profile
        for recipe, format in ((Recipe(), "JPEG"), (Recipe(0, "WEBP", 0.97), "WEBP")):
            after = self.pixels(window, recode(data, recipe).data, TYPES[format])
            self.assertLess(np.abs(before - after).mean(), 5, recipe)

    def test_a_minified_drawing_is_drawn_the_same(self) -> None:
        window = self.window()
        sets = (("feather-icons", "4.29.2", "dist/icons", 24), ("bootstrap-icons", "1.11.3", "icons", 160))
        for package, version, folder, every in (*sets, ("flag-icons", "7.2.3", "flags/4x3", 24)):
            for path in sorted((registry_package(package, version) / folder).glob("*.svg"))[::every]:
                body = path.read_bytes()
                try:
                    made = recode(body, Recipe(format=SVG, always=True)).data
                except ImageRefused:
                    continue
                sized = [b.replace(b"<svg ", b'<svg style="width:200px;height:150px" ', 1) for b in (body, made)]
                before, after = (self.pixels(window, b, TYPES[SVG]) for b in sized)
                self.assertEqual(before.shape, after.shape)
                self.assertLess((np.abs(before - after).max(axis=2) > 32).mean(), 0.0005, path.name)

    def answer(self, files: dict[str, bytes], body: str, url: str) -> dict[str, Any]:
        image = files.get(urlsplit(url).path)
        return {"body": image, "content_type": "image/png"} if image else {"body": body, "content_type": "text/html"}

    def test_the_file_chosen_is_the_one_foretold(self) -> None:
        """Nine windows on three densities: `currentSrc` against our own reading of `sizes` and `srcset`."""
        layout = lambda w: w - 30 if w < 700 else min(w / 2, 620)  # noqa: E731
        windows = sorted({*USUAL_WIDTHS, 699, 700})
        lines = lines_of([(w, layout(w)) for w in windows])
        widths = (320, 560, 900, 1400)
        files = {f"/{w}.png": photo(w, 10, w, "PNG") for w in widths}
        srcset = ", ".join(f"/{w}.png {w}w" for w in widths)
        body = f'<body style="margin:0"><img srcset="{srcset}" sizes="{sizes_text(lines)}">'
        for density in (1, 2, 3):
            for width in (320, 375, 412, 600, 768, 1024, 1280, 1600, 1920):
                window = self.window(width, density)
                window.route("**/*", lambda r: r.fulfill(**self.answer(files, body, r.request.url)))
                window.goto("http://choice.example/index.html")
                source = window.evaluate("document.images[0].decode().then(() => document.images[0].currentSrc)")
                expected = chosen(widths, width_at(lines, width), density)
                self.assertEqual(source, f"http://choice.example/{expected}.png", (width, density))
                window.context.close()


class WholeWays(BrowserCase):
    FILES = {
        "index.html": page(
            '<img class=full src="hero.jpg"><div class=band></div><img class=full src="wide.jpg"><img '
            'src="copy.jpg" width=300 height=200>'
            '<img src="face.png" width=120 height=80><img src="dot.png" width=9 height=9>',
            STYLE + "<link rel=stylesheet href=s.css>",
        ),
        "s.css": b".band{height:300px;background:#ccc url(band.jpg) center/cover}" + b"/* */" * 99,
        "hero.jpg": photo(2400, 1200, 1, grain=4),
        "band.jpg": photo(2400, 1000, 2, grain=4),
        "wide.jpg": photo(2000, 900, 6, grain=4),
        "copy.jpg": photo(2400, 1200, 1, grain=4),
        "face.png": photo(360, 240, 3, "PNG", grain=4),
        "dot.png": photo(9, 9, 3, "PNG"),
    }

    def go(self, delivery: Delivery | None = None, **settings: Any) -> tuple[Capture, dict[str, Any]]:
        found = self.capture(self.FILES)
        images = ImageSettings(**settings)
        result = lighten(found, "steady", Progress(), devices=("phone", "desktop"), images=images, delivery=delivery)
        self.assertTrue(result.account.adds_up(), result.account)
        self.assertEqual([pair.differences for pair in result.pairs if not pair.passed], [])
        self.assertLess(result.account.after.bytes, result.account.before.bytes)
        self.ledger = result.ledger()
        index = result.capture.body(result.capture.page("/index.html")).decode()
        loaded = {
            w.conditions.device.name: {r.url.rsplit("/", 1)[-1] for r in w.visit.requests if r.kind == "images"}
            for w in result.after
        }
        return result.capture, {"index": index, "loaded": loaded, "remedies": self.ledger["remedies"]}

    def test_the_usual_way_and_once_more(self) -> None:
        lighter, found = self.go()
        self.assertLessEqual({"merge", "shrink", "webp", "widths", "phone", "inline"}, set(found["remedies"]))
        self.assertGreater(found["remedies"]["merge"]["bytes"], 0)
        phone, desktop = found["loaded"]["phone"], found["loaded"]["desktop"]
        self.assertTrue(any(name.startswith("band-") for name in phone), phone)
        self.assertFalse(any(name.startswith("band-") for name in desktop), desktop)
        self.assertNotEqual({n for n in phone if "wide" in n}, {n for n in desktop if "wide" in n})
        self.assertIn("data:image/png;base64,", found["index"])
        self.twice(lighter)

    def test_a_gallery_of_odd_shapes_stays_as_high_and_what_is_never_seen_is_not_sent(self) -> None:
        shapes = ((1213, 809), (1009, 673), (1307, 871), (997, 1499), (1511, 1009), (1103, 733))
        figures = "".join(f"<figure><img src=g{n}.jpg></figure>" for n in range(6))
        style = (
            "<style>body{margin:0}figure{margin:0 0 7px;width:31.3%}figure img{width:100%}nav{display:none}nav "
            "img{width:40px}"
            ".round{width:120px;height:120px;object-fit:cover;border-radius:50%}</style>"
        )
        body = f"<nav><img src=face.jpg></nav>{figures}<img class=round src=face.jpg width=120 height=120>"
        files = {f"g{n}.jpg": photo(*shape, n, grain=3) for n, shape in enumerate(shapes)}
        files |= {"index.html": page(body, STYLE + style), "face.jpg": photo(900, 600, 9, grain=3)}
        result = self.lighten(files, devices=["phone", "desktop"])
        self.assertEqual([pair.differences for pair in result.pairs if not pair.passed], [])
        shrunk = {c.targets[0]: c.params for c in result.plan.changes if c.remedy == "shrink"}
        self.assertEqual(set(shrunk), {f"/g{n}.jpg" for n in range(6)} | {"/face.jpg"})
        self.assertEqual(shrunk["/face.jpg"].part, ())  # also shown whole, in the menu
        self.assertLess(shrunk["/face.jpg"].width, 400)
        self.assertTrue(result.account.adds_up())
        before, after = ([w.facts.page_height for w in weigh_ins] for weigh_ins in (result.before, result.after))
        self.assertEqual(before, after)

    def test_with_fallbacks_and_avif(self) -> None:
        _, found = self.go(fallback=True, avif=True)
        self.assertIn('<picture style="display:contents"><source type="image/avif"', found["index"])
        self.assertTrue(any(name.endswith(".avif") for name in found["loaded"]["phone"]), found["loaded"])

    def test_same_names_and_once_more(self) -> None:
        capture, found = self.go(Delivery(same_names=True))
        self.assertEqual({e.url for e in capture}, {e.url for e in self.capture(self.FILES)})
        self.assertEqual(found["index"], self.FILES["index.html"].decode())
        self.assertLessEqual(set(found["remedies"]), {"exact", "recompress", "shrink"})
        self.twice(capture, Delivery(same_names=True))

    def twice(self, once: Capture, delivery: Delivery | None = None) -> None:
        """A second pass changes nothing."""
        again = lighten(once, "steady", Progress(), devices=("phone", "desktop"), delivery=delivery)
        self.assertEqual(again.account.before, again.account.after)
        self.assertEqual(again.capture.exchanges, once.exchanges)
