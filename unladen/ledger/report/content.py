"""The contents of a report: the ledger's document, pictures of pages, its sender, refusals and further advice."""

from __future__ import annotations

import io
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from PIL import Image

from unladen.capture import BodyStore
from unladen.check import PageCheck
from unladen.errors import BadInput
from unladen.ledger.document import carried_out
from unladen.raster.probe import ImageRefused, probe
from unladen.remedies import remedy_named
from unladen.remedies.images.inline import data_url
from unladen.weigh.records.kinds import KINDS

MOST_LOGO, MOST_WORDS = 2_000_000, 4_000  # bytes, characters
_LOGO_SIDE, _SHOT_WIDTH, _SHOT_HEIGHT = 480, 640, 900  # px
_LOGOS = ("PNG", "JPEG", "WEBP", "GIF")


@dataclass(frozen=True, slots=True)
class Sender:
    """Who hands the report over: name, logo as a data URL ("" for none), and an introduction of one line a
    paragraph.
    """

    name: str = ""
    logo: str = ""
    words: str = ""


@dataclass(frozen=True, slots=True)
class Shot:
    """Pictures of a page on a device, as found and now (PNG or JPEG)."""

    page: str
    device: str
    before: bytes
    after: bytes


@dataclass(frozen=True, slots=True)
class Refusal:
    """A change that a reader of the review declined, and the reason given."""

    what: str
    who: str
    why: str


@dataclass(frozen=True, slots=True)
class Advice:
    """A finding that no change covers: its title, what to do about it, and the bytes saved at a first visit."""

    what: str
    advice: str
    bytes: int


@dataclass(frozen=True, slots=True)
class Figures:
    """Sums over weigh-ins: bytes transferred, requests, and modelled seconds until loaded by link."""

    bytes: int
    requests: int
    seconds: Mapping[str, float]
    kinds: Mapping[str, int]


@dataclass(frozen=True, slots=True)
class Report:
    """`ledger` is the published document; `lang` the language of the texts (BCP 47), which are English."""

    site: str
    ledger: Mapping[str, Any]
    sender: Sender = Sender()
    shots: Sequence[Shot] = ()
    refused: Sequence[Refusal] = ()
    advice: Sequence[Advice] = ()
    made: str = ""
    lang: str = field(default="en")

    @property
    def devices(self) -> list[str]:
        """Those that were weighed, in that order."""
        return list(dict.fromkeys(row["device"] for row in self.ledger["before"]))

    def steps(self) -> list[tuple[str, int, int]]:
        """Savings of each remedy (title, bytes, requests), the largest first, then what no remedy explains."""
        rows = [(remedy_named(n).title, s["bytes"], s["requests"]) for n, s in self.ledger["remedies"].items()]
        rest = self.ledger["unexplained"]
        largest_first = sorted(rows, key=lambda row: -row[1])
        return largest_first + ([("Unexplained", rest["bytes"], rest["requests"])] if any(rest.values()) else [])


def report_of(
    site: str,
    ledger: Mapping[str, Any],
    pairs: Iterable[PageCheck],
    store: BodyStore,
    excess: Iterable[Mapping[str, Any]],
    sender: Sender,
    made: str,
    refused: Sequence[Refusal] = (),
) -> Report:
    """The report of a run: its ledger, pictures of the check on the weighed devices, and further advice."""
    weighed = {row["device"] for row in ledger["before"]}
    shots = [
        Shot(pair.page, pair.device, store.get(pair.before), store.get(pair.after))
        for pair in pairs
        if pair.device in weighed and pair.before in store and pair.after in store
    ]
    done = {row["id"] for row in carried_out(ledger)}
    return Report(site, ledger, sender, shots, refused, remaining_advice(excess, done), made)


def remaining_advice(excess: Iterable[Mapping[str, Any]], done: Collection[str]) -> list[Advice]:
    """Findings (as plain values) that none of the changes done covers, the largest first."""
    rows = [row for row in excess if not any(id in done for id in row["changes"])]
    advice = [
        Advice(row["title"], row["advice"] or row["why"], row["bytes"] * (row["visit"] == "first")) for row in rows
    ]
    return sorted(advice, key=lambda each: -each.bytes)


def figures_of(weigh_ins: Iterable[Mapping[str, Any]]) -> Figures:
    """The sums of published weigh-ins."""
    rows = list(weigh_ins)
    links = list(dict.fromkeys(link for row in rows for link in row["modelled_load_ms"]))
    return Figures(
        sum(row["transferred"] for row in rows),
        sum(row["requests"] for row in rows),
        {link: sum(row["modelled_load_ms"].get(link, 0) for row in rows) / 1000 for link in links},
        {kind: sum(row["kinds"][kind]["transferred"] for row in rows) for kind in KINDS},
    )


def logo_of(data: bytes, name: str) -> str:
    """A logo as a data URL, made anew from its pixels so that nothing else of the file is passed on; raises
    `BadInput`.
    """
    if len(data) > MOST_LOGO:
        raise BadInput(name, f"is {len(data):,} bytes large; a logo may have {MOST_LOGO:,} at most")
    try:
        info = probe(data)
        if info.format not in _LOGOS:
            raise ImageRefused(f"is a {info.format} file; a logo is a PNG, JPEG, WebP or GIF picture")
        with Image.open(io.BytesIO(data)) as image:
            small = image.convert("RGBA")
    except ImageRefused as refused:
        raise BadInput(name, str(refused)) from None
    except (OSError, ValueError) as error:
        raise BadInput(name, "cannot be read as a picture") from error
    small.thumbnail((_LOGO_SIDE, _LOGO_SIDE))
    out = io.BytesIO()
    small.save(out, "WEBP", quality=90)
    return data_url(out.getvalue(), "image/webp")


def small_picture(data: bytes) -> str:
    """The top of a page's picture, small, as a data URL; "" where it cannot be read.

    JPEG, which goes into a PDF as it is.
    """
    try:
        with Image.open(io.BytesIO(data)) as image:
            tall = min(image.height, image.width * _SHOT_HEIGHT // _SHOT_WIDTH)
            picture = image.crop((0, 0, image.width, tall)).convert("RGB")
    except (OSError, ValueError):
        return ""
    width = min(_SHOT_WIDTH, picture.width)
    picture = picture.resize((width, max(1, round(picture.height * width / picture.width))), reducing_gap=2.0)
    out = io.BytesIO()
    picture.crop((0, 0, width, _end_of(picture))).save(out, "JPEG", quality=75, optimize=True)
    return data_url(out.getvalue(), "image/jpeg")


def _end_of(picture: Image.Image) -> int:
    """Where a picture becomes empty for the rest of its height, in px, with a little room."""
    rows = np.asarray(picture.convert("L"), dtype=int)
    busy = np.flatnonzero(np.ptp(rows, axis=1) > 8)
    return min(picture.height, int(busy[-1]) + 24) if len(busy) else picture.height
