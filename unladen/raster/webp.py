"""WebP (RFC 9649) by Debian's cwebp, which has sharp chroma and near-lossless coding, or else by Pillow, without
these.
"""

from __future__ import annotations

import io
import shutil
import subprocess
from functools import lru_cache

from PIL import Image

_SECONDS = 100
_METHOD = 4


@lru_cache(maxsize=1)
def _program() -> str | None:
    return shutil.which("cwebp")


def encode_webp(image: Image.Image, quality: int, method: int, beside: dict[str, bytes]) -> bytes:
    """Lossily; `method` from 0 to 6 spends more time. A file with something `beside` its pixels has no sharp chroma."""
    result = None if beside else _by_program(image, "-q", str(quality), "-m", str(method), "-sharp_yuv")
    if result:
        return result
    out = io.BytesIO()
    image.save(out, "WEBP", quality=quality, method=method, alpha_quality=100, **beside)
    return out.getvalue()


def encode_lossless_webp(image: Image.Image) -> bytes:
    """Every visible pixel exactly as it was."""
    out = io.BytesIO()
    image.save(
        out,
        "WEBP",
        lossless=True,
        quality=80,
        method=_METHOD,
        exact=False,
        icc_profile=image.info.get("icc_profile", b""),
    )
    return out.getvalue()


def encode_near_lossless_webp(image: Image.Image, level: int) -> bytes | None:
    """Losslessly, after levels were rounded where it does not show; 0 rounds most, 100 nothing. None without cwebp."""
    return _by_program(image, "-near_lossless", str(level), "-q", "80", "-m", str(_METHOD))


def _by_program(image: Image.Image, *options: str) -> bytes | None:
    program = None if image.info.get("icc_profile") else _program()
    if program is None or image.mode not in ("RGB", "RGBA"):
        return None
    width, height = image.size
    kind = "RGB_ALPHA" if image.mode == "RGBA" else "RGB"
    depth = len(image.getbands())
    head = f"P7\nWIDTH {width}\nHEIGHT {height}\nDEPTH {depth}\nMAXVAL 255\nTUPLTYPE {kind}\nENDHDR\n"
    command = [program, "-quiet", *options, "-alpha_q", "100", "-o", "-", "--", "-"]
    done = subprocess.run(command, input=head.encode() + image.tobytes(), capture_output=True, timeout=_SECONDS)
    return done.stdout if done.returncode == 0 and done.stdout else None
