"""The lowest quality at which a picture still looks the same.

1 - likeness falls nearly exponentially with quality, so a secant on its logarithm finds the target in a few encodes.
The search runs on a sample of a large picture; the file handed out is measured as a whole.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from PIL import Image

from unladen.raster.codec import Format, encode, reopen
from unladen.raster.sight import Sight

# Below the floor a mean over windows says too little (flat art passes at quality 10).
QUALITIES: dict[Format, tuple[int, int]] = {"JPEG": (50, 92), "WEBP": (50, 92), "AVIF": (40, 85)}
_TILE = 128  # px
_CLOSE = 2  # of quality
_CLOSE_ENOUGH = -0.05  # of log(1 - likeness); about two steps of quality, and two percent of the bytes
_USUAL_SLOPE = -0.025  # of log(1 - likeness) for one step of quality, on photographs
_MOST_SAMPLES, _MOST_WHOLE = 3, 3
_NEAR_REACH = 1.25  # times the distance to the original that the highest quality leaves
_HINTS: dict[Format, int] = {"JPEG": 80, "WEBP": 75, "AVIF": 56}


@dataclass(slots=True)
class Found:
    """A file, its quality, its similarity to the pixels that went in, and how many encodes it took."""

    data: bytes
    quality: int
    likeness: float
    encodes: int


@dataclass(slots=True)
class _Bracket:
    """Qualities tried, with how far log(1 - similarity) lies above the target's: positive is not good enough."""

    low: int
    high: int
    target: float
    tried: dict[int, float] = field(default_factory=dict)
    lowered: bool = False

    def add(self, quality: int, likeness: float) -> None:
        self.tried[quality] = math.log(max(1 - likeness, 1e-6)) - math.log(max(1 - self.target, 1e-6))

    def lower(self) -> bool:
        """Aim at what the format can reach at all, when the highest quality misses the target; whether that helped.

        What is missing then is the colour of fine grain, which these formats store at half the resolution whatever the
        quality: more bytes would bring nothing.
        """
        miss = self.tried.get(self.high)
        if miss is None or miss <= 0 or self.lowered:
            return False
        self.lowered = True
        reach = 1 - (1 - self.target) * math.exp(miss)
        self.target = 1 - _NEAR_REACH * (1 - reach)
        self.tried = {quality: miss_ - miss - math.log(_NEAR_REACH) for quality, miss_ in self.tried.items()}
        return True

    def next(self) -> int:
        """Where the secant through the two nearest points crosses, held between what failed and what passed."""
        points = sorted(self.tried.items(), key=lambda p: abs(p[1]))
        quality, miss = points[0]
        slope = _USUAL_SLOPE
        if len(points) > 1 and points[1][0] != quality:
            slope = (points[1][1] - miss) / (points[1][0] - quality)
        if slope > -0.005:  # not monotone here
            slope = _USUAL_SLOPE
        wanted = math.ceil(quality - miss / slope)
        bad = max((q for q, m in self.tried.items() if m > 0), default=self.low - 1)
        good = min((q for q, m in self.tried.items() if m <= 0), default=self.high + 1)
        return min(max(wanted, bad + 1, self.low), max(good - 1, bad + 1), self.high)

    def settled(self) -> bool:
        """Whether a finer search would change little."""
        good = min((q for q, m in self.tried.items() if m <= 0), default=None)
        if good is None:
            return self.high in self.tried
        bad = max((q for q, m in self.tried.items() if m > 0), default=self.low - 1)
        return good - bad <= _CLOSE or self.tried[good] > _CLOSE_ENOUGH

    def best(self) -> int:
        """The lowest quality that passed, or the highest there is."""
        return min((q for q, m in self.tried.items() if m <= 0), default=self.high)


def lowest_quality(sight: Sight, format: Format, target: float, *, colours: bool = False) -> Found:
    """The smallest file found that is at least `target` alike to a picture as it is seen, or else the best there is.

    `colours` as for `encode`.
    """
    low, high = QUALITIES[format]
    sample = mosaic(sight.picture)
    small = sight if sample is sight.picture else sight.at(sample)
    search = _Bracket(low, high, target)
    encodes = 0
    quality = _HINTS[format]
    while encodes < _MOST_SAMPLES:
        data = encode(sample, format, quality, final=False, colours=colours)
        encodes += 1
        search.add(quality, small.likeness(reopen(data)))
        search.lower()
        if search.settled():
            break
        quality = search.next()
    return _confirmed(sight, format, search, encodes, colours)


def _confirmed(sight: Sight, format: Format, search: _Bracket, encodes: int, colours: bool) -> Found:
    """The quality found on the sample, tried on the whole picture.

    Raised until it holds, lowered while there is room.
    """
    whole = _Bracket(search.low, search.high, search.target)
    quality = search.best() if search.settled() else search.next()
    best: Found | None = None
    for _ in range(_MOST_WHOLE):
        data = encode(sight.picture, format, quality, colours=colours)
        encodes += 1
        result = Found(data, quality, sight.likeness(reopen(data)), encodes)
        best = result if best is None else _better(best, result, whole.target)
        whole.add(quality, result.likeness)
        whole.lower()
        if whole.settled():
            break
        quality = whole.next()
    assert best is not None
    best.encodes = encodes
    return best


def _better(first: Found, second: Found, target: float) -> Found:
    """The smaller of two that hold the target, else the one nearer to it; some curves are not monotone."""
    if min(first.likeness, second.likeness) >= target:
        return min(first, second, key=lambda found: len(found.data))
    return max(first, second, key=lambda found: found.likeness)


def mosaic(pixels: Image.Image) -> Image.Image:
    """Nine tiles spread over a large picture, side by side; a small picture as it is."""
    side = 3 * _TILE
    if pixels.width * pixels.height <= 2 * side * side or min(pixels.size) < side:
        return pixels
    sample = Image.new(pixels.mode, (side, side))
    for row in range(3):
        for column in range(3):
            left = (pixels.width - _TILE) * column // 2
            top = (pixels.height - _TILE) * row // 2
            sample.paste(pixels.crop((left, top, left + _TILE, top + _TILE)), (column * _TILE, row * _TILE))
    return sample
