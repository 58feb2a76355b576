"""How images are treated in a plan: caps, target, formats, ways out."""

from __future__ import annotations

from dataclasses import asdict, dataclass, fields
from typing import Any

# How alike a smaller file must look, by word: every pixel; no difference side by side; none in use; none that disturbs.
LIKENESS = {"exact": 1.0, "true": 0.985, "fine": 0.97, "fair": 0.95}


@dataclass(frozen=True, slots=True)
class ImageSettings:
    """What the user sets for all images of a site. Widths in px of the file, as starting values of common practice.

    `likeness` is a word of `LIKENESS`, `density` the px kept per CSS px; "" and 0 leave both to the effort.
    `same_names`: files change in their place and nothing else does. `fallback`: the older format stays for browsers
    that do not read the new one. `widths`: several sizes of one image. `avif`: a further source where it is much smaller.
    `copyright`: what files say about their owner stays.
    """

    likeness: str = ""
    density: float = 0
    content_width: int = 1500
    background_width: int = 2560
    phone_width: int = 650
    same_names: bool = False
    fallback: bool = False
    widths: bool = True
    avif: bool = False
    copyright: bool = False

    def __post_init__(self) -> None:
        if self.likeness not in ("", *LIKENESS):
            raise ValueError(f"likeness (one of {', '.join(LIKENESS)})")
        if not 0 <= self.density <= 4:
            raise ValueError("density (0 to 4)")
        for name in ("content_width", "background_width", "phone_width"):
            if not 100 <= getattr(self, name) <= 16_000:
                raise ValueError(f"{name} (100 to 16,000 px)")

    def as_json(self) -> dict[str, Any]:
        """Plain values, as in the published plan."""
        return asdict(self)

    @classmethod
    def from_json(cls, data: Any) -> ImageSettings:
        """Read the published values; raises `ValueError` naming the field that is wrong."""
        if not isinstance(data, dict):
            raise ValueError("images")
        known = {field.name: type(field.default) for field in fields(cls)}
        values: dict[str, Any] = {}
        for name, value in data.items():
            wanted = known.get(name)
            if wanted is None or isinstance(value, bool) != (wanted is bool) or not isinstance(value, _kinds(wanted)):
                raise ValueError(str(name))
            values[name] = value
        return cls(**values)


def _kinds(wanted: type) -> tuple[type, ...]:
    return (int, float) if wanted in (int, float) else (wanted,)
