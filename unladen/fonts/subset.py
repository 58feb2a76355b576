"""A font cut to some characters, as WOFF2 (W3C WOFF File Format 2.0), by fontTools."""

from __future__ import annotations

import io
from dataclasses import asdict, dataclass
from typing import Any, ClassVar

from fontTools import subset
from fontTools.ttLib import TTFont
from fontTools.varLib import instancer

from unladen.errors import Refused
from unladen.fonts.ranges import parsed, with_neighbours, written

VERSION = 2
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
    """`keep`: characters as ranges. `weights`: the lightest and the heaviest of a variable font that stay, () for
    all; with it what stands in the font at rest stays. `hints`: whether what fits outlines to coarse screens stays.
    """

    name: ClassVar[str] = "subset-font"
    version: ClassVar[int] = VERSION
    seconds: ClassVar[float] = 120.0
    memory: ClassVar[int] = 3_000_000_000

    keep: str
    weights: tuple[int, ...] = ()
    hints: bool = True

    def as_json(self) -> dict[str, Any]:
        """Plain values."""
        return asdict(self)

    def kept_of(self, known: frozenset[int]) -> frozenset[int]:
        """Which of a font's characters stay."""
        return with_neighbours(parsed(self.keep) & known, known)

    def run(self, data: bytes) -> Font:
        """The font with these characters, whatever they are drawn with, and all features of its layout; raises
        `Refused`.
        """
        if len(data) > _LARGEST:
            raise Refused(f"is larger than {_LARGEST // 1_000_000} MB")
        try:
            return _cut(data, self)
        except Refused:
            raise
        except Exception as error:  # fontTools raises what struct, zlib and brotli do, and more, on broken files
            raise Refused(f"cannot be read as a font ({type(error).__name__}: {error})"[:200]) from error


def _limit(font: TTFont, low: int, high: int) -> None:
    """Cut off the lighter or the heavier half of a variable font's axis of weights, or both, where nobody asks for it.

    Its halves meet where the font is at rest. Anything in between would be drawn anew, in whole units, and so not the
    same.
    """
    axes = [axis for axis in font["fvar"].axes if axis.axisTag == "wght"] if "fvar" in font else []
    if not axes:
        return
    axis = axes[0]
    least = axis.defaultValue if low >= axis.defaultValue else axis.minValue
    most = axis.defaultValue if high <= axis.defaultValue else axis.maxValue
    if (least, most) == (axis.minValue, axis.maxValue):
        return
    limit = least if least == most else (least, most)
    instancer.instantiateVariableFont(font, {"wght": limit}, inplace=True, optimize=True)


def weights_in(data: bytes) -> tuple[float, float] | None:
    """The lightest and heaviest of a variable font; None where it has one weight or cannot be read."""
    try:
        with TTFont(io.BytesIO(data), lazy=True) as font:
            axes = [axis for axis in font["fvar"].axes if axis.axisTag == "wght"] if "fvar" in font else []
            return (axes[0].minValue, axes[0].maxValue) if axes else None
    except Exception:  # as for reading the whole of it
        return None


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
            legacy_kern=True, hinting=wanted.hints, ignore_missing_glyphs=True, flavor="woff2",
        )  # fmt: skip
        cutter = subset.Subsetter(options)
        cutter.populate(unicodes=keep)
        cutter.subset(font)
        if len(wanted.weights) == 2:
            _limit(font, *wanted.weights)
        font.flavor = "woff2"
        out = io.BytesIO()
        font.save(out, reorderTables=False)
    made = out.getvalue()
    if len(made) >= len(data):
        raise Refused("would not become smaller")
    # Which of the two parts stands for what neither has does not matter, so that both lists stay short. The space is
    # the first one's, since a family's measures are taken from the face that has it.
    return Font(made, written({0x20, *keep}, known - keep), written(known - keep - {0x20}, keep | {0x20}))
