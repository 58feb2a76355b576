"""Under which paths files are handed over: inside, on every common file system, none lost without a word."""

from __future__ import annotations

import os
import re
import zipfile
from pathlib import Path, PurePosixPath, PureWindowsPath

from hypothesis import example, given
from hypothesis import strategies as st

from tests.sites import FolderCase, page
from unladen.capture import Capture, read_site, write_folder, write_zip
from unladen.capture.addresses import url_of_path
from unladen.capture.paths import portable, read_back, written_paths
from unladen.capture.recorded import Response, exchange_of

BASE = "https://mill.example/"
# Addresses as hostile or careless servers have them.
ODD = (
    "%2e%2e/evil.html",
    "a/%2e%2e/%2e%2e/%2e%2e/evil.html",
    "/etc/cron.d/evil",
    "//etc/cron.d/evil",
    "..%5c..%5cevil.html",
    "C:/windows/evil.html",
    "con",
    "AUX.css",
    "x%00y.html",
    "x%0ay.html",
    "trailing./dot.html",
    "space%20/x.html",
    "ends.",
    "ab:c.html",
    "mailto:x.html",
    "a%3fb.html",
    "page",
    "page/inner.html",
    "Case.html",
    "case.html",
    "STRASSE.html",
    "straße.html",
    "caf%c3%a9.html",
    "cafe%cc%81.html",
    "%ff%fe.html",
    "a*b|c.html",
    "x" * 400 + ".html",
    "/".join(["deep"] * 300) + "/x.html",
    "100%25.html",
    "%253A.html",
    "list.html?page=1",
    "list.html?page=2",
    "COM%C2%B9.txt",
)
TEXT = st.text(st.characters(exclude_characters="/"), max_size=40)


def is_fit(path: str) -> bool:
    """By the rules as Windows has them, and the standard library's reading of paths."""
    parts = path.split("/")
    return (
        not PurePosixPath(path).is_absolute()
        and not PureWindowsPath(path).drive
        and not PureWindowsPath(path).is_reserved()
        and all(part and part not in (".", "..") and part[-1] not in ". " for part in parts)
        and not re.search(r'[\x00-\x1f<>:"|?*\\]', path)
        and all(len(part.encode()) <= 255 for part in parts)
    )


class Portable(FolderCase):
    @given(st.lists(TEXT, min_size=1, max_size=5).map("/".join))
    @example("%3A.html")
    @example("%253A.html")
    @example("a:b%20c")
    @example("%63on")
    @example("..")
    def test_any_path_is_fit_and_reads_back(self, path: str) -> None:
        written = portable(path)
        self.assertTrue(is_fit(written), written)
        self.assertEqual(read_back(written), path)

    def test_what_is_fit_stays(self) -> None:
        for path in ("index.html", "a%20b.html", "100%.html", "bücher/ä.html", ".htaccess", "a b/c-d_e~f(1).html"):
            self.assertEqual(portable(path), path)

    def test_what_is_too_long_is_cut_and_keeps_its_ending(self) -> None:
        one, other = portable("x" * 300 + "1.html"), portable("x" * 301 + "1.html")
        self.assertTrue(is_fit(one) and is_fit(other))
        self.assertNotEqual(one, other)
        self.assertTrue(one.endswith("1.html"))


class HandedOver(FolderCase):
    def odd_site(self) -> Capture:
        """A recording with odd addresses, each with a body of its own."""
        exchanges = {}
        for number, path in enumerate(("index.html", *ODD)):
            response = Response(BASE + path, 200, (("content-type", "text/html"),), page(f"Number {number}"))
            exchange = exchange_of(response, self.store, BASE)
            exchanges[exchange.url] = exchange
        return Capture(BASE, exchanges, self.store)

    def test_every_file_is_in_the_archive_or_in_the_notices(self) -> None:
        site = self.odd_site()
        notices = write_zip(site, self.folder / "out.zip")
        with zipfile.ZipFile(self.folder / "out.zip") as archive:
            names = archive.namelist()
            bodies = {archive.read(name) for name in names}
        self.assertTrue(all(map(is_fit, names)), names)
        self.assertEqual(len({name.casefold() for name in names}), len(names))
        lost = [exchange for exchange in site if site.body(exchange) not in bodies]
        left = {notice.name for notice in notices if "skipped" in notice.reason}
        self.assertEqual({"/" + exchange.url.removeprefix(BASE) for exchange in lost}, left)
        self.assertEqual(len(names) + len(left), len(site))

    def test_a_folder_gets_the_same_files_and_nothing_outside(self) -> None:
        site = self.odd_site()
        target = self.folder / "one" / "two" / "out"
        self.assertEqual(write_folder(site, target), write_zip(site, self.folder / "out.zip"))
        written = {Path(at, name) for at, _, names in os.walk(self.folder / "one") for name in names}
        self.assertTrue(all(file.is_relative_to(target) for file in written))
        with zipfile.ZipFile(self.folder / "out.zip") as archive:
            self.assertEqual({f.relative_to(target).as_posix() for f in written}, set(archive.namelist()))

    def test_what_is_written_under_another_name_is_noticed(self) -> None:
        files, paths, notices = written_paths(self.odd_site())
        changed = {notice.name: notice.reason for notice in notices if "is written as" in notice.reason}
        renamed = {file.path for file in files if paths[file.url] != file.path}
        # What cannot be seen is written in digits.
        self.assertEqual({path.replace("\x00", r"\x00").replace("\n", r"\n") for path in renamed}, set(changed))
        self.assertIn("“ab%3Ac.html”", changed["ab:c.html"])
        self.assertIn("“page-2”", changed["page"])
        self.assertTrue({"Case.html", "case-2.html"} <= set(paths.values()))

    def test_names_with_a_colon_are_the_sites_own(self) -> None:
        for name in ("ab:c.html", "mailto:x.html", "https:/x.html", "a?b#c.html"):
            self.assertTrue(url_of_path(BASE, name).startswith(BASE), name)
        site = self.capture({"index.html": page(""), "ab:c.html": page("colon"), "mailto:x.html": page("mail")})
        self.assertEqual(len(site.files()), 3)
        write_zip(site, self.folder / "out.zip")
        again = read_site(self.folder / "out.zip", self.store)
        self.assertEqual({again.body(e) for e in again}, {site.body(e) for e in site})
