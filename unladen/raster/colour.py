"""Colours that come out of AVIF as they went in.

The library that makes planes of brightness and chroma for the encoder takes Cb as (128 B - 85 G - 43 R + 32768) >> 8
and Cr as (128 R - 107 G - 21 B + 32768) >> 8: it cuts fractions off instead of rounding them, so that all colours
move by half a level towards green, which a quality of 100 does not mend (found by least squares; a test measures the
mean). What would lose half a level or more is therefore lifted over the next whole one before it goes in, by one
level of red or blue.
"""

from __future__ import annotations

import numpy as np
from PIL import Image

# What counts as half a level: in the mean 128, but in a pattern (Bayer, Proc. IEEE ICC 1973), since pictures of little
# colour lie on the half very often.
_HALF = 96 + 4 * np.array([[0, 8, 2, 10], [12, 4, 14, 6], [3, 11, 1, 9], [15, 7, 13, 5]], dtype=np.int32) + 2


def is_grey(image: Image.Image) -> bool:
    """Whether a picture without alpha has no colour at all."""
    if image.mode != "RGB":
        return image.mode == "L"
    pixels = np.asarray(image)
    return bool(np.array_equal(pixels[..., 0], pixels[..., 1]) and np.array_equal(pixels[..., 1], pixels[..., 2]))


def unbiased(image: Image.Image) -> Image.Image:
    """What to hand to the encoder for a picture to come out with its colours; grey ones in one plane."""
    if is_grey(image):
        return image.convert("L")
    pixels = np.asarray(image)
    red, green, blue = (pixels[..., plane].astype(np.int32) for plane in range(3))
    cb = (128 * blue - 85 * green - 43 * red) & 255  # the fractions, in 256ths
    cr = (128 * red - 107 * green - 21 * blue) & 255
    height, width = cb.shape
    half = np.tile(_HALF, (height // 4 + 1, width // 4 + 1))[:height, :width]
    lift_cb, lift_cr = cb >= half, cr >= half
    # A level of blue lifts Cb by 128 and lowers Cr by 21; one of red lifts Cr by 128 and lowers Cb by 43. Where that
    # would not be enough, or push the other one under its whole level, a level less of green helps, by 85 and 107;
    # and where both are to be lifted.
    by_blue = lift_cb & ~lift_cr & ((cb < 128) | (cr < 21))
    by_red = lift_cr & ~lift_cb & ((cr < 128) | (cb < 43))
    less_green = by_blue | by_red | (lift_cb & lift_cr)
    moved = np.stack([red + lift_cr, green - less_green, blue + lift_cb], axis=-1)
    whole = np.clip(moved, 0, 255).astype(np.uint8)
    if image.mode == "RGBA":
        whole = np.concatenate([whole, pixels[..., 3:]], axis=-1)
    return Image.fromarray(whole)
