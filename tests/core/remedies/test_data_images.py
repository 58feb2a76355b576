"""Pictures in the text of pages and style sheets."""

from __future__ import annotations

import base64
import hashlib
import re

from hypothesis import given
from hypothesis import strategies as st

from tests.core.survey.test_survey import weigh_ins
from tests.plans import change as made
from tests.sites import FolderCase, page, photo
from unladen.build import build
from unladen.capture import Capture
from unladen.markup.data_images import data_images
from unladen.plan import EFFORTS, Plan
from unladen.progress import Progress
from unladen.remedies import Delivery, Journal
from unladen.survey import SiteFacts, survey
from unladen.work_cache import WorkCache


def url(body: bytes, media_type: str = "image/png") -> str:
    return f"data:{media_type};base64,{base64.b64encode(body).decode()}"


LARGE, SMALL = photo(320, 200, 1, "PNG", grain=2), photo(34, 26, 2, "PNG")
FILES = {
    "index.html": page(
        f'<img src="{url(LARGE)}" alt=a><p style="background:url({url(SMALL)})">x</p><script>var a = '
        f'"{url(LARGE)}";</script>',
        "<link rel=stylesheet href=css/s.css>",
    ),
    "css/s.css": f".a{{background:url('{url(LARGE)}')}}.b{{background:url(data:image/png;base64,AAAA)}}".encode(),
}


class DataImages(FolderCase):
    def built(self, *paths: str, same_names: bool = False) -> tuple[Capture, Journal]:
        found = self.capture(FILES)
        change = made("data-images", "data-images", paths, ("/index.html",), {"similarity": 0.95})
        plan = Plan("steady", (change,), delivery=Delivery(same_names=same_names))
        return build(found, plan, WorkCache(self.folder / "memo", self.store))

    def text(self, capture: Capture, path: str) -> str:
        return capture.body(capture.exchanges[f"https://site.example/{path}"]).decode()

    def test_large_ones_become_files_and_tiny_ones_stay(self) -> None:
        lighter, journal = self.built("/index.html", "/css/s.css")
        self.assertEqual(journal.notices, [])
        index, sheet = self.text(lighter, "index.html"), self.text(lighter, "css/s.css")
        name = re.findall(r'<img src="(picture-[0-9a-f]{8}\.webp)" alt=a>', index)[0]
        self.assertIn(f".a{{background:url('{name}')}}.b{{background:url(data:image/png;base64,AAAA)}}", sheet)
        self.assertIn("url(data:image/webp;base64,", index)
        self.assertIn(f'var a = "{url(LARGE)}"', index)  # what scripts hold is theirs
        body = lighter.body(lighter.exchanges[f"https://site.example/{name}"])
        self.assertEqual(body, lighter.body(lighter.exchanges[f"https://site.example/css/{name}"]))
        self.assertLess(len(body), len(LARGE) / 2)

    def test_where_no_page_may_be_edited_nothing_is_moved(self) -> None:
        lighter, journal = self.built("/index.html", same_names=True)
        self.assertEqual(self.text(lighter, "index.html"), FILES["index.html"].decode())
        self.assertEqual([notice.name for notice in journal.notices][:1], ["/index.html"])

    def test_they_are_found_tried_out_and_nothing_of_the_trial_stays(self) -> None:
        site, work_cache = self.capture(FILES), WorkCache(self.folder / "memo", self.store)
        excess = survey(SiteFacts(site, weigh_ins()), EFFORTS["steady"], work_cache, Progress()).excess
        found = {each.id: each for each in excess}["data-images:/index.html"]
        # Two of the three: what stands in a script is not looked at. The trial is what the build makes of them.
        self.assertIn("2 pictures stand", found.title)
        lighter, _ = build(site, Plan("steady", found.changes), work_cache)
        before, after = (c.sent_size(c.page("/index.html")) for c in (site, lighter))
        file = next(e for e in lighter if e.url.endswith(".webp"))
        self.assertAlmostEqual(found.bytes, before - after - file.size, delta=60)
        self.assertFalse(hashlib.sha256(LARGE).hexdigest() in work_cache.made)

    @given(st.text(max_size=200), st.sampled_from(["=", "!", "AAA", "%", ""]))
    def test_what_is_broken_is_left_out(self, around: str, end: str) -> None:
        for whole in (True, False):
            found = data_images(f"{around}data:image/png;base64,{'A' * 3000}{end}{around}", page=whole)
            self.assertTrue(all(len(image.body) >= 2000 for image in found))
