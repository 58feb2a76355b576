"""Pages by a site's own word (sitemaps.org, protocol 0.9), and pages chosen by path and pattern."""

from __future__ import annotations

import gzip

from hypothesis import given
from hypothesis import strategies as st

from tests.sites import FolderCase, page
from unladen.capture.choosing import chosen_pages, matches
from unladen.capture.sitemaps import MOST_ENTRIES, listed, named_in_robots, read_sitemap, sitemap_of
from unladen.errors import BadInput

SITE = "https://www.merrow.example/"
NAMESPACE = "http://www.sitemaps.org/schemas/sitemap/0.9"
# The examples of the protocol's page, "Sample XML Sitemap" and "Sample XML Sitemap Index", with our names in them.
SAMPLE = f"""<?xml version="1.0" encoding="UTF-8"?>
<urlset xmlns="{NAMESPACE}">
   <url><loc>{SITE}</loc><lastmod>2005-01-01</lastmod><changefreq>monthly</changefreq><priority>0.8</priority></url>
   <url><loc>{SITE}catalog?item=12&amp;desc=vacation_hawaii</loc><changefreq>weekly</changefreq></url>
</urlset>""".encode()
INDEX = f"""<?xml version="1.0" encoding="UTF-8"?>
<sitemapindex xmlns="{NAMESPACE}">
   <sitemap><loc>{SITE}sitemap1.xml.gz</loc><lastmod>2004-10-01T18:23:17+00:00</lastmod></sitemap>
   <sitemap><loc>{SITE}sitemap2.xml</loc></sitemap>
</sitemapindex>""".encode()


def urlset(urls: list[str]) -> bytes:
    rows = "".join(f"<url><loc>{url}</loc></url>" for url in urls)
    return f'<urlset xmlns="{NAMESPACE}">{rows}</urlset>'.encode()


class Reading(FolderCase):
    def test_what_the_protocol_shows(self) -> None:
        self.assertEqual(read_sitemap(SAMPLE, "a"), ([SITE, f"{SITE}catalog?item=12&desc=vacation_hawaii"], []))
        self.assertEqual(read_sitemap(INDEX, "a"), ([], [f"{SITE}sitemap1.xml.gz", f"{SITE}sitemap2.xml"]))
        self.assertEqual(read_sitemap(gzip.compress(SAMPLE), "a"), read_sitemap(SAMPLE, "a"))
        self.assertEqual(read_sitemap(f"\ufeff{SITE}a\r\n\r\n{SITE}b\n".encode(), "a")[0], [f"{SITE}a", f"{SITE}b"])

    def test_fifty_thousand_lines_and_no_more(self) -> None:
        urls = [f"{SITE}{n}" for n in range(MOST_ENTRIES)]
        self.assertEqual(read_sitemap(urlset(urls), "a")[0], urls)
        for data in (urlset([*urls, SITE]), "\n".join([*urls, SITE]).encode()):
            with self.assertRaisesRegex(BadInput, "more than the 50,000 entries"):
                read_sitemap(data, "sitemap.xml")

    def test_what_is_none(self) -> None:
        bomb = (
            b'<!DOCTYPE u [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;">]><urlset><url><loc>&b;</loc></url>'
            b"</urlset>"
        )
        for data, words in (
            (b"", "not addresses"),
            (page("<p>not found"), "not a readable sitemap"),
            (b"<rss><channel/></rss>", "consists of <rss>"),
            (b"<urlset><url>", "not a readable sitemap"),
            (b"just words", "not addresses"),
            (b"\xff\xfe\x00", "neither XML nor UTF-8 text"),
            (gzip.compress(SAMPLE)[:20] + b"\0\0\0", "is not a sitemap"),
            (b"\x1f\x8b\x09\x09\x09\x09", "damaged"),
            (gzip.compress(b"<" + b" " * 60_000_000), "larger than the 52 MB"),
            (bomb, "not a readable sitemap"),
        ):
            with self.assertRaisesRegex(BadInput, words):
                read_sitemap(data, "sitemap.xml")

    def test_a_loop_another_host_and_what_is_not_there(self) -> None:
        files = {
            f"{SITE}s.xml": INDEX.replace(b"sitemap1.xml.gz", b"s.xml"),
            f"{SITE}sitemap2.xml": urlset(
                [f"{SITE}a", f"{SITE}a", "https://else.example/b", "http://www.merrow.example/c"]
            ),
        }
        asked: list[str] = []

        def get(url: str) -> bytes | None:
            asked.append(url)
            return files.get(url)

        found = listed([f"{SITE}s.xml", f"{SITE}gone.xml"], get, SITE)
        self.assertEqual(found.pages, [f"{SITE}a"])
        self.assertEqual(len(asked), len(set(asked)))
        told = {notice.name: notice.reason for notice in found.notices}
        self.assertIn("2 addresses of other hosts", told[SITE])
        self.assertIn("is missing", told[f"{SITE}gone.xml"])

    @given(st.lists(st.text("abcdefg/&é ", min_size=1, max_size=8), max_size=20))
    def test_what_is_written_is_read(self, names: list[str]) -> None:
        from xml.sax.saxutils import escape

        urls = [SITE + name.strip() for name in names]
        self.assertEqual(read_sitemap(urlset([escape(url) for url in urls]), "a")[0], urls)

    def test_robots_name_them(self) -> None:
        text = "User-agent: *\nDisallow: /x # Sitemap: no\nsitemap: https://a.example/s.xml\nSitemap:/t.xml\n"
        self.assertEqual(named_in_robots(text, SITE + "robots.txt"), ["https://a.example/s.xml", SITE + "t.xml"])


class Choosing(FolderCase):
    def test_by_path_pattern_and_sitemap(self) -> None:
        files = {f"blog/{n}.html": page(str(n)) for n in range(4)} | {
            "index.html": page("home"),
            "shop/a.html": page("a"),
        }
        # A copy of a site lies under an address of ours; its sitemap speaks of its own.
        files["sitemap.xml"] = urlset([SITE, f"{SITE}blog/2.html", f"{SITE}gone.html"])
        capture = self.capture(files)

        def chosen(*wanted: str) -> list[str]:
            return [found.path for found in chosen_pages(capture, wanted)]

        self.assertEqual(chosen("/blog/*"), [f"blog/{n}.html" for n in range(4)])
        self.assertEqual(chosen("/*/a.html", "/index.html"), ["index.html", "shop/a.html"])
        self.assertEqual(chosen("sitemap"), ["index.html", "blog/2.html"])
        self.assertEqual(len(chosen()), 6)
        self.assertEqual(len(sitemap_of(capture).pages), 3)
        for wanted, words in (("/none/*", "matches no page"), ("/none.html", "no such page")):
            with self.assertRaisesRegex(BadInput, words):
                chosen(wanted)
        with self.assertRaisesRegex(BadInput, "sitemap: does not name a page"):
            chosen_pages(self.capture({"index.html": page("x")}), ["sitemap"])

    def test_patterns(self) -> None:
        self.assertTrue(matches("/blog/*", "/blog/2026/a+b.html"))
        self.assertTrue(matches("*.html", "/a.html"))
        self.assertFalse(matches("/blog/*", "/shop/blog/"))
        self.assertFalse(matches("/a.html", "/aXhtml"))
