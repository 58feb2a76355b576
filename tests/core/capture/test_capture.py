"""Captures from folders and ZIP files, and what is refused."""

from __future__ import annotations

import errno
import io
import os
import stat
import tempfile
import warnings
import zipfile
from pathlib import Path
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from tests.sites import FolderCase, page, photo, zip_of
from unladen.capture import BodyStore, Capture, Limits, read_site, read_zip, write_folder, write_zip
from unladen.capture.names import NameRefused, safe_path
from unladen.errors import BadInput, StoreFull

FILES = {"index.html": page("<img src=a.jpg>"), "a.jpg": photo(40, 30), "css/my styles.css": b"body{color:red}" * 40}


class Reading(FolderCase):
    def test_a_folder_becomes_addresses_under_the_base(self) -> None:
        capture = self.capture(FILES)
        self.assertEqual(
            list(capture.exchanges),
            [
                "https://site.example/a.jpg",
                "https://site.example/css/my%20styles.css",
                "https://site.example/index.html",
            ],
        )
        self.assertEqual(capture.page("/index.html").media_type, "text/html")

    def test_text_is_sent_gzipped_and_pictures_are_not(self) -> None:
        capture = self.capture(FILES)
        css = capture.exchanges["https://site.example/css/my%20styles.css"]
        self.assertLess(capture.sent_size(css), css.size)
        image = capture.exchanges["https://site.example/a.jpg"]
        self.assertEqual(capture.sent_size(image), image.size)
        plain = read_site(zip_of(FILES, self.folder / "p.zip"), self.store, gzip_text=False)
        self.assertEqual(plain.sent_size(plain.exchanges[css.url]), css.size)

    def test_a_nested_single_folder_is_stripped_and_comes_back(self) -> None:
        nested = {f"site-v2/public/{name}": body for name, body in FILES.items()}
        capture = read_zip(zip_of(nested, self.folder / "n.zip"), self.store)
        self.assertIn("https://site.example/index.html", capture.exchanges)
        write_zip(capture, self.folder / "out.zip")
        with zipfile.ZipFile(self.folder / "out.zip") as archive:
            self.assertEqual({name: archive.read(name) for name in archive.namelist()}, nested)

    def test_a_folder_of_pages_answers_for_its_index(self) -> None:
        capture = self.capture({"index.html": page(""), "shop/index.html": page("")})
        self.assertEqual(capture.lookup("https://site.example/shop/"), capture.page("/shop/index.html"))
        self.assertEqual(capture.redirect("https://site.example/shop"), "https://site.example/shop/")
        self.assertEqual(capture.lookup("https://site.example/?utm=1"), capture.page("/index.html"))
        with self.assertRaisesRegex(BadInput, "no such page"):
            capture.page("/shop/missing.html")

    def test_writing_and_reading_again_gives_the_same_and_the_same_bytes(self) -> None:
        capture = self.capture(FILES)
        write_zip(capture, self.folder / "1.zip")
        write_zip(read_zip(self.folder / "1.zip", self.store), self.folder / "2.zip")
        self.assertEqual((self.folder / "1.zip").read_bytes(), (self.folder / "2.zip").read_bytes())
        write_folder(capture, self.folder / "written")
        self.assertEqual((self.folder / "written" / "css" / "my styles.css").read_bytes(), FILES["css/my styles.css"])

    def test_the_index_restores_the_capture(self) -> None:
        capture = self.capture(FILES)
        again = Capture.from_index(capture.to_index(), self.store)
        self.assertEqual(again.exchanges, capture.exchanges)


class BadArchives(FolderCase):
    def test_members_damaged_in_any_way_are_left_out_by_name_and_the_rest_goes_on(self) -> None:
        for packing in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED, zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA):
            path = self.folder / "in.zip"
            with zipfile.ZipFile(path, "w", packing) as archive:
                archive.writestr("index.html", page("good"))
                archive.writestr("bad.css", b".a{color:red}" * 500)
                bad = archive.getinfo("bad.css")
            data = bytearray(path.read_bytes())
            start = bad.header_offset + 30 + len("bad.css")
            data[start + 4 : start + 12] = b"\xff\x00\xaa\x55" * 2
            path.write_bytes(data)
            capture = read_zip(path, self.store)
            self.assertEqual([e.path for e in capture], ["index.html"])
            self.assertIn("bad.css: is damaged", str(capture.notices[0]))

    def test_a_member_that_is_said_to_lie_elsewhere(self) -> None:
        path = zip_of({"index.html": page("good"), "bad.css": b".a{}"}, self.folder / "in.zip")
        for offset in (0, 7, 2**31, 2**32 - 2):
            data = bytearray(path.read_bytes())
            central = data.rindex(b"PK\x01\x02")
            data[central + 42 : central + 46] = offset.to_bytes(4, "little")
            moved = self.folder / "moved.zip"
            moved.write_bytes(data)
            capture = read_zip(moved, self.store)
            self.assertEqual([e.path for e in capture], ["index.html"])
            self.assertIn("bad.css: is damaged", str(capture.notices[0]))

    def test_of_two_members_of_a_name_the_first_counts(self) -> None:
        path = self.folder / "in.zip"
        with warnings.catch_warnings(), zipfile.ZipFile(path, "w") as archive:
            warnings.simplefilter("ignore")
            for body in ("zzz first", "aaa second"):
                archive.writestr("index.html", page(body))
        capture = read_zip(path, self.store)
        self.assertIn(b"zzz first", capture.body(capture.page("/index.html")))
        self.assertEqual(
            [str(n) for n in capture.notices], ["index.html: has the same address as a file before it; left out"]
        )

    def test_a_folders_name_that_is_no_text(self) -> None:
        (self.folder / "site").mkdir()
        (self.folder / "site" / "index.html").write_bytes(page("good"))
        Path(os.fsdecode(os.fsencode(self.folder / "site") + b"/\xff\xfe.css")).write_bytes(b".a{}")
        capture = read_site(self.folder / "site", self.store)
        self.assertEqual(
            [str(n) for n in capture.notices], ["\\xff\\xfe.css: has a name that is not UTF-8; left out"]
        )

    def zip_with(self, *members: tuple[zipfile.ZipInfo | str, bytes]) -> Path:
        target = self.folder / "in.zip"
        with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("index.html", page("hello"))
            for info, body in members:
                archive.writestr(info, body)
        return target

    def refused(self, path: Path, reason: str, limits: Limits | None = None) -> None:
        with self.assertRaisesRegex(BadInput, reason) as caught:
            read_zip(path, self.store, limits=limits)
        self.assertEqual(caught.exception.name, path.name)

    def test_what_is_no_site_at_all(self) -> None:
        (self.folder / "a.zip").write_bytes(b"PK but not really")
        self.refused(self.folder / "a.zip", "is not a ZIP file")
        (self.folder / "b.zip").write_bytes(b"")
        self.refused(self.folder / "b.zip", "is empty")
        self.refused(zip_of({}, self.folder / "c.zip"), "empty ZIP")
        self.refused(zip_of({"a.txt": b"x"}, self.folder / "d.zip"), "no HTML page")
        whole = zip_of(FILES, self.folder / "e.zip").read_bytes()
        (self.folder / "f.zip").write_bytes(whole[: len(whole) // 2])
        self.refused(self.folder / "f.zip", "cut off")

    def test_members_that_cannot_be_taken_in_are_named_and_the_rest_goes_on(self) -> None:
        link = zipfile.ZipInfo("link.html")
        link.external_attr = (stat.S_IFLNK | 0o777) << 16
        device = zipfile.ZipInfo("disk.html")
        device.external_attr = (stat.S_IFBLK | 0o600) << 16
        names = [
            "../up.html",
            "/etc/passwd.html",
            "C:\\x.html",
            "..\\w.html",
            "CON.html",
            "a/nul",
            "x" * 300 + ".html",
        ]
        path = self.zip_with((link, b"/etc/passwd"), (device, b""), *((name, b"x") for name in names))
        capture = read_zip(path, self.store)
        self.assertEqual(len(capture), 1)
        reasons = {notice.name: notice.reason for notice in capture.notices}
        self.assertEqual(set(reasons), {"link.html", "disk.html", *names})
        self.assertIn("symbolic link", reasons["link.html"])
        self.assertIn("climbs out", reasons["../up.html"])
        self.assertIn("absolute", reasons["C:\\x.html"])
        self.assertIn("device", reasons["CON.html"])

    def test_a_bomb_is_refused_by_what_comes_out_of_it(self) -> None:
        path = self.zip_with(("zeros.bin", bytes(30_000_000)))
        self.refused(path, "suggests an archive bomb")
        self.refused(path, "more than 10 MB", Limits(total_size=10_000_000))
        self.refused(self.zip_with(("a.txt", b"1"), ("b.txt", b"2")), "holds 3 files; at most 2", Limits(files=2))
        capture = read_zip(self.zip_with(("big.bin", os.urandom(3000))), self.store, limits=Limits(file_size=2000))
        self.assertIn("is larger than", capture.notices[0].reason)

    def test_twenty_thousand_files_are_read(self) -> None:
        path = zip_of(
            {"index.html": page("")} | {f"d{n % 50}/{n}.txt": b"same" for n in range(19_999)}, self.folder / "m.zip"
        )
        self.assertEqual(len(read_zip(path, self.store)), 20_000)

    def test_a_member_without_a_name_is_left_out(self) -> None:
        path = self.folder / "odd.zip"
        with zipfile.ZipFile(path, "w") as archive:
            archive.writestr("index.html", page(""))
            with archive.open(zipfile.ZipInfo(""), "w") as member:
                member.write(b"nobody's")
        capture = read_zip(path, self.store)
        self.assertEqual([e.url for e in capture], ["https://site.example/index.html"])
        self.assertEqual(len(capture.notices), 1)

    def test_a_damaged_member_is_left_out(self) -> None:
        path = self.zip_with(("pic.bin", os.urandom(5000)))
        data = bytearray(path.read_bytes())
        middle = data.index(b"pic.bin") + 2000
        data[middle] ^= 0xFF
        path.write_bytes(data)
        capture = read_zip(path, self.store)
        self.assertEqual([notice.name for notice in capture.notices], ["pic.bin"])
        self.assertEqual(len(capture), 1)

    def test_names_in_odd_encodings(self) -> None:
        target = self.folder / "odd.zip"
        with zipfile.ZipFile(target, "w") as archive:
            archive.writestr("index.html", page(""))
            archive.writestr("café.txt", b"flagged as UTF-8")
        # The same bytes without the flag that says UTF-8, as some tools write them.
        data = bytearray(target.read_bytes().replace("café".encode(), "cafè".encode()))
        for mark, offset in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
            at = data.rindex(mark)
            data[at + offset + 1] &= ~0x08
        target.write_bytes(data)
        self.assertIn("https://site.example/caf%C3%A8.txt", read_zip(target, self.store).exchanges)

    def test_litter_of_operating_systems_is_passed_over(self) -> None:
        path = self.zip_with(("__MACOSX/._index.html", b"x"), (".DS_Store", b"x"), ("img/Thumbs.db", b"x"))
        capture = read_zip(path, self.store)
        self.assertEqual((len(capture), capture.notices), (1, ()))

    def test_links_in_a_folder_lead_nowhere(self) -> None:
        source = Path(tempfile.mkdtemp(dir=self.folder))
        (source / "index.html").write_bytes(page(""))
        (source / "out").symlink_to("/etc")
        (source / "passwd.html").symlink_to("/etc/passwd")
        capture = read_site(source, self.store)
        self.assertEqual({notice.name for notice in capture.notices}, {"out", "passwd.html"})
        with self.assertRaisesRegex(BadInput, "does not exist"):
            read_site(self.folder / "nothing", self.store)

    def test_a_full_disk_is_said_plainly_and_leaves_nothing(self) -> None:
        class Full(io.RawIOBase):
            def write(self, data: object) -> int:
                raise OSError(errno.ENOSPC, "No space left on device")

        store = BodyStore(self.folder / "full")
        with (
            mock.patch("unladen.capture.store.os.fdopen", return_value=Full()),
            self.assertRaisesRegex(StoreFull, "is full"),
        ):
            store.put(b"x")
        self.assertEqual(list(store.root.rglob("incoming-*")), [])


class Names(FolderCase):
    @given(st.text(max_size=60))
    def test_a_safe_path_never_leaves_its_folder(self, name: str) -> None:
        try:
            path = safe_path(name, Limits())
        except NameRefused:
            return
        parts = path.split("/")
        self.assertFalse(path.startswith("/"))
        self.assertNotIn("..", parts)
        self.assertNotIn("", parts)
