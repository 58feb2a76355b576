"""Pictures that look like photographs to a codec: fractal noise, gradients and shapes, the same every time."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFilter

Field = NDArray[np.float64]
Colour = tuple[int, int, int]

_CAMERA = "Sallow & Reed Model 3"  # an invented camera


def noise(width: int, height: int, seed: int, octaves: int = 7) -> Field:
    """Fractal noise from 0 to 1: octaves of random grids, each twice as fine and half as strong."""
    random = np.random.RandomState(seed)
    total = np.zeros((height, width))
    strength, whole = 1.0, 0.0
    for octave in range(octaves):
        cells = 3 * 2**octave
        grid = random.rand(max(2, cells * height // width), cells).astype(np.float32)
        layer = Image.fromarray(grid, "F").resize((width, height), Image.Resampling.BICUBIC)
        total += strength * np.asarray(layer)
        whole += strength
        strength *= 0.55
    return np.clip(total / whole, 0, 1)


def _blend(field: Field, low: Colour, high: Colour) -> Field:
    return np.asarray(low) + field[..., None] * (np.asarray(high) - np.asarray(low))


def landscape(width: int, height: int, seed: int, *, mill: bool = False) -> Image.Image:
    """An estuary under a sky: hills, water with ripples, reeds, grain as of a sensor; with a mill if asked."""
    y = np.linspace(0, 1, height)[:, None] * np.ones((1, width))
    cloud = noise(width, height, seed)
    sky = _blend(np.clip(cloud * 1.4 - 0.3, 0, 1), (126, 158, 178), (238, 228, 210)) + (40 * (y - 0.3))[..., None]
    ridge = 0.46 + 0.12 * (noise(width, 8, seed + 1)[0] - 0.5)
    land = _blend(noise(width, height, seed + 2, 9), (58, 70, 44), (142, 138, 92))
    ripples = np.sin(y * 420 + 9 * noise(width, height, seed + 3)) * 9
    water = _blend(noise(width, height, seed + 4), (70, 96, 104), (176, 176, 158)) + ripples[..., None]
    shore = 0.62 + 0.03 * (noise(width, 8, seed + 5)[0] - 0.5)
    scene = np.where((y > ridge)[..., None], land, sky)
    scene = np.where((y > shore)[..., None], water, scene)
    image = Image.fromarray(np.clip(scene, 0, 255).astype(np.uint8))
    if mill:
        _draw_mill(image)
    return _grain(image, seed + 6)


def _draw_mill(image: Image.Image) -> None:
    width, height = image.size
    draw = ImageDraw.Draw(image)

    def at(x: float, y: float) -> tuple[int, int]:
        return round(x * width), round(y * height)

    draw.rectangle([at(0.56, 0.34), at(0.72, 0.64)], fill=(112, 84, 66))
    draw.polygon([at(0.54, 0.35), at(0.64, 0.2), at(0.74, 0.35)], fill=(62, 50, 44))
    for column in range(3):
        for row in range(2):
            left, top = 0.585 + column * 0.045, 0.4 + row * 0.1
            draw.rectangle([at(left, top), at(left + 0.02, top + 0.045)], fill=(214, 196, 150))
    radius, middle = 0.09 * width, at(0.54, 0.6)
    for turn in range(16):
        angle = turn * np.pi / 8
        end = (middle[0] + radius * np.cos(angle), middle[1] + radius * np.sin(angle))
        draw.line([middle, end], fill=(48, 38, 32), width=max(2, width // 240))
    box = [middle[0] - radius, middle[1] - radius, middle[0] + radius, middle[1] + radius]
    draw.ellipse(box, outline=(48, 38, 32), width=max(3, width // 130))


def still_life(width: int, height: int, seed: int, base: Colour, light: Colour) -> Image.Image:
    """Heaps of something powdery on a board: flour, grain, bread, as the seed and the colours will have it."""
    random = np.random.RandomState(seed)
    board = _blend(noise(width, height, seed, 8), (86, 62, 44), (150, 116, 84))
    image = Image.fromarray(np.clip(board, 0, 255).astype(np.uint8))
    heap = Image.fromarray(np.clip(_blend(noise(width, height, seed + 1, 9), base, light), 0, 255).astype(np.uint8))
    mask = Image.new("L", image.size, 0)
    draw = ImageDraw.Draw(mask)
    for _ in range(9):
        x, y = random.rand() * width, (0.3 + 0.6 * random.rand()) * height
        radius = (0.08 + 0.16 * random.rand()) * width
        draw.ellipse([x - radius, y - radius * 0.7, x + radius, y + radius * 0.7], fill=255)
    image.paste(heap, (0, 0), mask.filter(ImageFilter.GaussianBlur(width / 90)))
    return _grain(image, seed + 2)


def _grain(image: Image.Image, seed: int) -> Image.Image:
    random = np.random.RandomState(seed)
    pixels = np.asarray(image).astype(np.int16)
    grain = random.randint(-5, 6, pixels.shape[:2], dtype=np.int16)
    return Image.fromarray(np.clip(pixels + grain[..., None], 0, 255).astype(np.uint8))


def screenshot(width: int, height: int, lines: list[str]) -> Image.Image:
    """A flat table of text, as somebody would photograph their screen."""
    image = Image.new("RGB", (width, height), (252, 250, 245))
    draw = ImageDraw.Draw(image)
    draw.rectangle([0, 0, width, height // 9], fill=(45, 66, 82))
    step = height / (len(lines) + 2)
    for row, line in enumerate(lines):
        y = (row + 1.4) * step
        if row % 2:
            draw.rectangle([0, y - step * 0.2, width, y + step * 0.8], fill=(240, 234, 222))
        draw.text((width * 0.05, y), line, fill=(40, 38, 34), font_size=step * 0.5)
    return image


def icon(side: int, shape: str, colour: Colour) -> Image.Image:
    """A plain sign on transparent ground."""
    image = Image.new("RGBA", (side, side), (0, 0, 0, 0))
    draw = ImageDraw.Draw(image)
    fill = (*colour, 255)
    if shape == "wheel":
        draw.ellipse([side * 0.08, side * 0.08, side * 0.92, side * 0.92], outline=fill, width=side // 12)
        for turn in range(8):
            angle = turn * np.pi / 4
            end = (side / 2 + side * 0.4 * np.cos(angle), side / 2 + side * 0.4 * np.sin(angle))
            draw.line([(side / 2, side / 2), end], fill=fill, width=side // 16)
    elif shape == "clock":
        draw.ellipse([side * 0.08, side * 0.08, side * 0.92, side * 0.92], outline=fill, width=side // 12)
        draw.line([(side / 2, side / 2), (side / 2, side * 0.2)], fill=fill, width=side // 14)
        draw.line([(side / 2, side / 2), (side * 0.72, side * 0.6)], fill=fill, width=side // 14)
    else:
        draw.polygon([(side * 0.5, side * 0.95), (side * 0.15, side * 0.4), (side * 0.85, side * 0.4)], fill=fill)
        draw.ellipse([side * 0.15, side * 0.05, side * 0.85, side * 0.7], fill=fill)
        draw.ellipse([side * 0.36, side * 0.24, side * 0.64, side * 0.52], fill=(0, 0, 0, 0))
    return image


def jpeg(image: Image.Image, quality: int = 92, *, camera: bool = False) -> bytes:
    """A JPEG as it leaves an editor; with what a camera writes into it, including a preview, if asked."""
    out = io.BytesIO()
    exif = Image.Exif()
    if camera:
        exif[0x010F], exif[0x0110], exif[0x0131] = "Sallow & Reed", _CAMERA, "1.0"
        preview = io.BytesIO()
        image.resize((160, 120)).save(preview, "JPEG", quality=80)
        exif[0x927C] = preview.getvalue()
    image.save(out, "JPEG", quality=quality, subsampling=0, exif=exif.tobytes() if camera else b"")
    return out.getvalue()


def png(image: Image.Image) -> bytes:
    """A PNG without much effort at packing."""
    out = io.BytesIO()
    image.save(out, "PNG", compress_level=4)
    return out.getvalue()
