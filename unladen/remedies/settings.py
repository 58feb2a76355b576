"""What holds for all changes of a plan: how images are treated, and what the user is able to deliver."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from unladen.remedies import fields
from unladen.remedies.fields import FieldRefused, Record

LEAVE = "leave"
# How alike a smaller file must look, by word: every pixel; no difference side by side; none in use; none that disturbs.
LIKENESS = {"exact": 1.0, "true": 0.985, "fine": 0.97, "fair": 0.95}


def _width(default: int) -> Any:
    return fields.whole(100, 16_000, default)


@dataclass(frozen=True, slots=True, kw_only=True)
class FolderRule(Record):
    """What holds for images whose paths begin with `folder`, such as `/img/team/`: a word of `LIKENESS`, or `leave`."""

    folder: str = fields.text(500, pattern="/.*")
    likeness: str = fields.word(LEAVE, *LIKENESS)


@dataclass(frozen=True, slots=True, kw_only=True)
class ImageSettings(Record):
    """What the user sets for all images of a site. Widths in px of the file, as starting values of common practice.

    `likeness` is a word of `LIKENESS`, `density` the px kept per CSS px; "" and 0 leave both to the effort.
    `fallback`: the older format stays for browsers that do not read the new one. `widths`: several sizes of one image.
    `phones`: how many visits of a hundred come from phones, for which widths are chosen first.
    `avif`: a further source where it is much smaller. `copyright`: what files say about their owner stays.
    `folders`: what holds for the images of some folders instead of `likeness`; the innermost one counts.
    """

    likeness: str = fields.word("", *LIKENESS, default="")
    density: float = fields.number(0, 4, 0)
    content_width: int = _width(1500)
    background_width: int = _width(2560)
    phone_width: int = _width(650)
    phones: int = fields.whole(0, 100, 60)
    fallback: bool = fields.flag()
    widths: bool = fields.flag(True)
    avif: bool = fields.flag(True)
    copyright: bool = fields.flag()
    folders: tuple[FolderRule, ...] = fields.records(FolderRule, most=100)

    def word_for(self, path: str) -> str:
        """The word of the innermost folder that has a rule and holds a path; "" for none."""
        rules = [rule for rule in self.folders if path.startswith(rule.folder)]
        return max(rules, key=lambda rule: len(rule.folder)).likeness if rules else ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Delivery(Record):
    """What the user can put where.

    `same_names`: files can be exchanged, but get no other name, and no page is edited.
    """

    same_names: bool = fields.flag()


__all__ = ["LEAVE", "LIKENESS", "Delivery", "FieldRefused", "FolderRule", "ImageSettings"]
