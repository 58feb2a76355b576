"""Films: what is read and what is refused, what comes out, and what the page says of it."""

from __future__ import annotations

import contextlib
import struct
import subprocess
import threading
import time
from pathlib import Path
from typing import Any
from unittest import skipUnless

from tests.plans import change
from tests.sites import FolderCase, page
from unladen.build import build
from unladen.plan import Plan
from unladen.progress import Cancelled, Progress
from unladen.remedies import Change
from unladen.video.encode import VideoRecipe, film
from unladen.video.probe import VideoRefused, probe_film
from unladen.work_cache import WorkCache, attempt

_ROOT = Path(__file__).resolve().parent.parent.parent.parent


def made(folder: Path, *inputs: str, name: str = "film.mp4", options: str = "") -> bytes:
    """A film made by ffmpeg from its own sources."""
    target = folder / name
    arguments = [part for given in inputs for part in ("-f", "lavfi", "-i", given)]
    command = ["ffmpeg", "-v", "error", "-y", *arguments, *options.split(), str(target)]
    subprocess.run(command, check=True, capture_output=True)
    return target.read_bytes()


MOVING = "testsrc2=size=640x360:rate=25:duration=2"
BEEP = "sine=frequency=440:duration=2"
X264 = "-c:v libx264 -preset ultrafast -crf 8 -pix_fmt yuv420p"


def boxes(data: bytes) -> list[str]:
    """The names of the outermost boxes of an MP4 file (ISO/IEC 14496-12, 4.2)."""
    found, at = [], 0
    while at + 8 <= len(data):
        size, name = struct.unpack(">I4s", data[at : at + 8])
        found.append(name.decode())
        at += size or len(data)
    return found


def programs() -> list[bytes]:
    """The coders at work for us, by their command lines."""
    found = []
    for entry in Path("/proc").glob("[0-9]*/cmdline"):
        with contextlib.suppress(OSError):
            found.append(entry.read_bytes())
    return [command for command in found if b"ffmpeg" in command and b"mule-film" in command]


class Read(FolderCase):
    def refusal(self, data: bytes) -> str:
        with self.assertRaises(VideoRefused) as caught:
            probe_film(data)
        return str(caught.exception)

    def test_what_a_film_is(self) -> None:
        info = probe_film(made(self.folder, MOVING, BEEP, options=X264))
        self.assertEqual((info.codec, info.width, info.height, info.sound), ("h264", 640, 360, "aac"))
        self.assertAlmostEqual(info.seconds, 2, delta=0.1)
        turned = made(self.folder, MOVING, options=f"{X264} -metadata:s:v rotate=90", name="turned.mp4")
        self.assertIn((probe_film(turned).width, probe_film(turned).height), ((360, 640), (640, 360)))

    def test_reasons_to_leave_a_film_alone(self) -> None:
        good = made(self.folder, MOVING, options=X264)
        long = made(self.folder, "color=size=16x16:rate=1:duration=10800", options=X264, name="long.mp4")
        huge = made(self.folder, "color=size=4200x64:rate=1:duration=1", options="-c:v mpeg4", name="huge.mp4")
        for data, word in (
            (b"", "empty"),
            (b"#EXTM3U\nhttps://elsewhere.example/a.ts\n", "playlist"),
            (b"ffconcat version 1.0\nfile /etc/passwd\n", "playlist"),
            (b"<MPD></MPD>", "playlist"),
            (b"no film at all", "not a readable video"),
            (good[: len(good) // 3], "could not be read"),
            (b"\x00\x00\x00\x18ftypisom" + b"\xff" * 400, "could not be read"),
            (made(self.folder, BEEP, name="sound.mp4"), "no moving pictures"),
            (long, "180 min"),
            (huge, "4096 px"),
        ):
            self.assertIn(word, self.refusal(data), word)

    def test_a_playlist_in_the_clothes_of_a_film_reaches_nothing(self) -> None:
        # Read as what its first bytes say, never as what it holds.
        self.assertIn("could not be read", self.refusal(b"\x00\x00\x00\x18ftypisom#EXTM3U\nfile:///etc/passwd\n"))

    def test_no_codec_no_film(self) -> None:
        data = made(self.folder, MOVING, options=X264).replace(b"avc1", b"zzz9")
        self.assertRegex(self.refusal(data), "does not know|could not be read")


class Coded(FolderCase):
    def test_smaller_at_the_target_in_both_formats_ready_to_start(self) -> None:
        source = made(self.folder, MOVING, BEEP, options=X264)
        for format, codec in (("AV1", "av1"), ("H264", "h264")):
            got = film(source, VideoRecipe(format, 320, 0.95))
            self.assertLess(len(got.data), len(source) / 2)
            self.assertGreaterEqual(got.likeness, 0.95)
            info = probe_film(got.data)
            self.assertEqual((info.codec, info.width, info.height, info.sound), (codec, 320, 180, "aac"))
            names = boxes(got.data)
            self.assertLess(names.index("moov"), names.index("mdat"))

    def test_muted_films_lose_their_sound_and_odd_sizes_become_even(self) -> None:
        source = made(
            self.folder, "testsrc2=size=322x181:rate=10:duration=1", BEEP, options=X264.replace("420p", "444p")
        )
        got = film(source, VideoRecipe("H264", 0, 0.9, mute=True))
        self.assertEqual((probe_film(got.data).sound, got.width, got.height), ("", 322, 180))

    def test_frames_that_come_at_uneven_times(self) -> None:
        uneven = "testsrc2=size=320x180:rate=30:duration=2,select='not(mod(n\\,7))+lt(n\\,10)'"
        source = made(self.folder, uneven, options=f"-fps_mode vfr {X264}")
        self.assertAlmostEqual(probe_film(film(source, VideoRecipe("H264", 0, 0.9)).data).seconds, 2, delta=0.3)

    def test_the_first_picture(self) -> None:
        got = film(made(self.folder, MOVING, options=X264), VideoRecipe("PNG", 200))
        self.assertEqual((got.format, got.width, got.height, got.data[:4]), ("PNG", 200, 112, b"\x89PNG"))

    def test_what_is_small_already_stays(self) -> None:
        small = film(made(self.folder, MOVING, options=X264), VideoRecipe("AV1", 320, 0.9)).data
        self.assertEqual(attempt(small, VideoRecipe("H264", 0, 0.9)), "would not become smaller")

    @skipUnless(Path("/proc").exists(), "looks for the program among the processes")
    def test_cancelling_ends_the_program_too(self) -> None:
        store = self.store
        digest = store.put(made(self.folder, "testsrc2=size=1280x720:rate=30:duration=20", options=X264))
        asked = threading.Event()
        # Stop as soon as the program runs; it would run for a minute.
        progress = Progress(lambda *_: asked.set() if programs() else None, cancelled=asked.is_set)
        with self.assertRaises(Cancelled):
            WorkCache(self.folder / "memo", store).outcomes([(digest, VideoRecipe("AV1"))], progress, "survey")
        for _ in range(100):  # the kernel takes a moment to bury it
            if not programs():
                break
            time.sleep(0.1)
        self.assertFalse(programs())


class InPages(FolderCase):
    BODY = (
        '<video src="a.mp4" autoplay muted loop></video><video controls><source src="a.mp4"><source '
        'src="b.ogv"></video>'
    )

    def setUp(self) -> None:
        super().setUp()
        film_ = made(self.folder, MOVING, BEEP, options=X264)
        self.site = self.capture({"index.html": page(self.BODY), "a.mp4": film_, "b.ogv": b"OggS"})
        self.work_cache = WorkCache(self.folder / "memo", self.store)

    def text(self, *changes: Change[Any]) -> str:
        lighter, self.journal = build(self.site, Plan("steady", changes), self.work_cache)
        return lighter.body(lighter.page("/index.html")).decode()

    def change(self, remedy: str, **params: object) -> Change[Any]:
        return change(remedy, remedy, ("/a.mp4",), ("/index.html",), {"width": 160} | params)

    def test_new_files_come_before_the_old_one_and_narrow_windows_get_none(self) -> None:
        text = self.text(self.change("film", similarity=0.9), self.change("poster", below=700, fit="cover"))
        self.assertIn('<source src="a-160w-av1.mp4" type=\'video/mp4; codecs=', text)
        self.assertEqual(text.count('media="(min-width:701px)"'), 6)
        self.assertIn('url("a-160w.webp") center/cover no-repeat', text)
        self.assertIn('<source media="(min-width:701px)" src="b.ogv">', text)
        self.assertEqual(self.text().encode(), page(self.BODY))

    def test_a_film_that_waits(self) -> None:
        text = self.text(self.change("lazy-films"))
        self.assertIn('<video data-late="near" poster="a-160w.webp" preload="none" src="a.mp4"  muted loop>', text)
        self.assertIn('preload="none" controls', text)
        self.assertIn("data-unladen=loader", text)
        self.assertEqual(self.journal.spared_by("https://site.example/a.mp4", "/index.html"), "lazy-films")
