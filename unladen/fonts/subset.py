"""A font cut to some characters, as WOFF2 (W3C WOFF File Format 2.0), by fontTools."""

from __future__ import annotations

import io
from dataclasses import asdict, dataclass
from typing import Any, ClassVar

from fontTools import subset
from fontTools.ttLib import TTFont

from unladen.errors import Refused
from unladen.fonts.ranges import parsed, with_neighbours, written

VERSION = 1
_LARGEST = 30_000_000  # bytes
# OpenType OS/2, fsType: restricted licence; no subsetting.
_RESTRICTED, _NO_SUBSET = 0x0002, 0x0100
# Who made it and under which licence stays; names that only font menus show go.
_NAMES = [0, 1, 2, 3, 4, 5, 6, 7, 13, 14, 16, 17]


@dataclass(frozen=True, slots=True)
class Font:
    """A smaller font; `kept` and `left` are the characters in it and those of the original that are not, as ranges."""

    data: bytes
    kept: str
    left: str

    def facts(self) -> dict[str, Any]:
        """All but the file."""
        return {"format": "WOFF2", "kept": self.kept, "left": self.left}


@dataclass(frozen=True, slots=True)
class SubsetFont:
    """`keep`: characters as ranges."""

    name: ClassVar[str] = "subset-font"
    version: ClassVar[int] = VERSION
    seconds: ClassVar[float] = 120.0
    memory: ClassVar[int] = 3_000_000_000

    keep: str

    def as_json(self) -> dict[str, Any]:
        """Plain values."""
        return asdict(self)

    def kept_of(self, known: frozenset[int]) -> frozenset[int]:
        """Which of a font's characters stay."""
        return with_neighbours(parsed(self.keep) & known, known)

    def run(self, data: bytes) -> Font:
        """The font with these characters, whatever they are drawn with, and all features of its layout; raises `Refused`."""
        if len(data) > _LARGEST:
            raise Refused(f"is larger than {_LARGEST // 1_000_000} MB")
        try:
            return _cut(data, self)
        except Refused:
            raise
        except Exception as error:  # fontTools raises what struct, zlib and brotli do, and more, on broken files
            raise Refused(f"cannot be read as a font ({type(error).__name__}: {error})"[:200]) from error


def _cut(data: bytes, wanted: SubsetFont) -> Font:
    with TTFont(io.BytesIO(data), lazy=True, recalcTimestamp=False, recalcBBoxes=False) as font:
        known = frozenset(font.getBestCmap() or ())
        if not known:
            raise Refused("has no table of characters")
        permission = getattr(font["OS/2"], "fsType", 0) if "OS/2" in font else 0
        if permission & 0x000F == _RESTRICTED or permission & _NO_SUBSET:
            raise Refused("says that it may not be cut (OS/2 fsType)")
        keep = wanted.kept_of(known)
        if not keep:
            raise Refused("has none of the characters that are shown")
        options = subset.Options(
            layout_features=["*"], name_IDs=_NAMES, name_languages=["*"], notdef_outline=True, recommended_glyphs=True,
            legacy_kern=True, hinting=True, ignore_missing_glyphs=True, flavor="woff2",
        )  # fmt: skip
        cutter = subset.Subsetter(options)
        cutter.populate(unicodes=keep)
        cutter.subset(font)
        font.flavor = "woff2"
        out = io.BytesIO()
        font.save(out, reorderTables=False)
    made = out.getvalue()
    if len(made) >= len(data):
        raise Refused("would not get smaller")
    # Which of the two parts stands for what neither has does not matter, so that both lists stay short. The space is the
    # first one's, since a family's measures are taken from the face that has it.
    return Font(made, written({0x20, *keep}, known - keep), written(known - keep - {0x20}, keep | {0x20}))
