"""Which file names of an upload are taken in, and under which name."""

from __future__ import annotations

import re

from unladen.capture.limits import Limits

# Names that mean a device on Windows whatever their extension (Microsoft, "Naming Files, Paths, and Namespaces").
_DEVICE = re.compile(r"^(con|prn|aux|nul|com[0-9¹²³]|lpt[0-9¹²³]|conin\$|conout\$)(\..*)?$", re.I)
_LITTER = re.compile(r"(^|/)(__MACOSX/|\.DS_Store$|Thumbs\.db$|desktop\.ini$|\._[^/]*$)")


class NameRefused(ValueError):
    """The name cannot be taken in; its text is the reason."""


def is_litter(name: str) -> bool:
    """Whether a file is what an operating system leaves behind, no part of the site."""
    return _LITTER.search(name) is not None


def is_device(part: str) -> bool:
    """Whether a name means a device on Windows."""
    return _DEVICE.match(part) is not None


def safe_path(name: str, limits: Limits) -> str:
    """The relative path of an archive member with slashes; raises `NameRefused` with the reason."""
    if not name.isascii() and any("\ud800" <= c <= "\udfff" for c in name):
        raise NameRefused("has a name that is not UTF-8")
    if "\0" in name or any(ord(c) < 32 for c in name):
        raise NameRefused("has control characters in its name")
    if "/" not in name:
        name = name.replace("\\", "/")
    if name.startswith(("/", "\\")) or re.match(r"^[A-Za-z]:", name):
        raise NameRefused("has an absolute path")
    parts = [part for part in name.split("/") if part not in ("", ".")]
    if ".." in parts or any(part.strip(" ") == ".." for part in re.split(r"[\\/]", name)):
        raise NameRefused("has a path that climbs out of the site")
    if not parts:
        raise NameRefused("has no name")
    if len(name) > limits.name_length or any(len(part.encode("utf-8", "replace")) > 255 for part in parts):
        raise NameRefused("has a name that is too long")
    if len(parts) > limits.depth:
        raise NameRefused(f"lies more than {limits.depth} folders deep")
    for part in parts:
        if is_device(part):
            raise NameRefused("has the name of a device")
    return "/".join(parts)


def member_name(name: str, is_utf8: bool) -> str:
    """A ZIP member's name as meant: tools that forget the UTF-8 flag still mostly write UTF-8."""
    if is_utf8:
        return name
    try:
        return name.encode("cp437").decode("utf-8")
    except UnicodeError:
        return name


def shared_folder(paths: list[str]) -> str:
    """The folder chain (with its last slash) that all paths share and that holds no file itself, or ""."""
    prefix = ""
    while True:
        heads = {path[len(prefix) :].partition("/")[::2] for path in paths}
        tops = {head for head, _ in heads}
        if len(tops) != 1 or any(rest == "" for _, rest in heads):
            return prefix
        prefix += tops.pop() + "/"
