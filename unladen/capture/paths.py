"""Under which path each file of a site is written: inside, on every common file system, and back again.

What cannot stand in a name somewhere is percent-encoded (RFC 3986, 2.1), and `read_back` gives the name that was
meant. A name that is fit stays as it is, codes in it or not. Windows' rules are those of Microsoft, "Naming Files,
Paths, and Namespaces".
"""

from __future__ import annotations

import hashlib
import re
import unicodedata
from collections.abc import Collection, Iterable
from urllib.parse import unquote_to_bytes

from unladen.capture.addresses import site_path
from unladen.capture.model import Capture, Exchange
from unladen.capture.names import is_device
from unladen.errors import Notice

_LONGEST_PART = 255  # bytes, as ext4, APFS and NTFS have it at least
_LONGEST = 1_000  # bytes of a whole path; ZIP files bear more, systems do not
_UNFIT = re.compile(r'[\x00-\x1f\x7f<>:"|?*\\\ud800-\udfff]')
_CODE = re.compile(r"%(?=[0-9A-Fa-f]{2})")
_EMPTY = "%2F"  # a part of no characters, since no other one holds a slash


def portable(path: str) -> str:
    """A path with slashes, as it may be written below any folder; `read_back` undoes it unless it was too long."""
    written = "/".join(map(_part, path.split("/")))
    return written if len(_bytes(written)) <= _LONGEST else _cut(written, _LONGEST)


def read_back(written: str) -> str:
    """The path that `portable` was given."""
    return "/".join(_meant(part) for part in written.split("/"))


def _part(name: str) -> str:
    written = _encoded(name)
    if written == name and _meant(name) != name:
        written = _CODE.sub("%25", name)  # it would be taken for the code of another name
    return written if len(_bytes(written)) <= _LONGEST_PART else _cut(written, _LONGEST_PART)


def _meant(part: str) -> str:
    if part == _EMPTY:
        return ""
    try:
        decoded = unquote_to_bytes(_bytes(part)).decode("utf-8", "surrogatepass")
    except UnicodeDecodeError:
        return part
    if _encoded(decoded) == part:
        return decoded
    # The per cent sign alone was put into code.
    once = part.replace("%25", "%")
    return once if _CODE.sub("%25", once) == part and _meant(once) != once else part


def _encoded(name: str) -> str:
    """A part of a path with codes where they are needed, and then for what reads as one too."""
    if not name:
        return _EMPTY
    if name in (".", ".."):
        return "%2E" * len(name)
    if not (_UNFIT.search(name) or is_device(name) or name[-1] in ". "):
        return name
    written = _UNFIT.sub(lambda match: _coded(match[0]), _CODE.sub("%25", name))
    if is_device(name):
        written = _coded(written[0]) + written[1:]
    if written[-1] in ". ":
        written = written[:-1] + _coded(written[-1])
    return written


def _coded(char: str) -> str:
    return "".join(f"%{byte:02X}" for byte in _bytes(char))


def _bytes(text: str) -> bytes:
    return text.encode("utf-8", "surrogatepass")


def _cut(written: str, most: int) -> str:
    """The end of what is too long, which tells what a file is, after a digest of all of it."""
    digest = hashlib.sha256(_bytes(written)).hexdigest()[:16]
    end = _bytes(written)[-(most // 2) :].decode("utf-8", "ignore").rpartition("/")[2]
    # Not from the middle of a code.
    return f"{digest}-{re.sub(r'^[0-9A-Fa-f]{0,2}(?=%)', '', end).lstrip('. ')}"


def written_paths(
    capture: Capture, only: Collection[str] | None = None
) -> tuple[list[Exchange], dict[str, str], list[Notice]]:
    """The files that a site is handed over with, the path of each by its URL, and what is to be said about them.

    No two paths are alike where case does not count, and none is where a folder must be. What is written under another
    name than it has is noticed, since links lead to the old one, and so is what has no path of its own. `only` are the
    URLs of the files in question.
    """
    files = [file for file in capture.files() if only is None or file.url in only]
    written = {file.url for file in files}
    exchanges = [e for e in capture if capture.owns(e.url) and e.status == 200 and (only is None or e.url in only)]
    notices = [
        Notice(site_path(capture.base_url, file.url), f"skipped: same path as “/{file.path}”")
        for file in exchanges
        if file.url not in written
    ]
    wanted = {file.url: capture.prefix + file.path for file in files}
    # Those that keep their names come first, so that none of them gives way to one that does not.
    order = sorted(wanted, key=lambda url: (portable(wanted[url]) != wanted[url], wanted[url], url))
    folders = {_alike(folder) for url in order for folder in _folders(portable(wanted[url]))}
    taken: set[str] = set()
    paths: dict[str, str] = {}
    for url in order:
        path = _free(portable(wanted[url]), taken, folders)
        taken.add(_alike(path))
        paths[url] = path
        if path != wanted[url]:
            notices.append(
                Notice(_readable(wanted[url]), f"is written as “{path}”, since some systems do not allow its name")
            )
    return files, paths, notices


def _readable(name: str) -> str:
    """A name as text in which what cannot be seen is written in digits."""
    return "".join(char if char.isprintable() else char.encode("unicode_escape").decode() for char in name)


def _folders(path: str) -> Iterable[str]:
    parts = path.split("/")
    return ("/".join(parts[:n]) for n in range(1, len(parts)))


def _alike(path: str) -> str:
    """What two paths share that some file system takes for the same."""
    return unicodedata.normalize("NFC", unicodedata.normalize("NFC", path).casefold())


def _free(path: str, taken: set[str], folders: set[str]) -> str:
    """A path that is none of the taken ones and no folder: the name with a number where need be."""
    folder, slash, name = path.rpartition("/")
    stem, dot, ending = name.rpartition(".") if "." in name else (name, "", "")
    candidate, number = path, 1
    while (key := _alike(candidate)) in taken or key in folders or not taken.isdisjoint(_folders(key)):
        number += 1
        candidate = f"{folder}{slash}{stem}-{number}{dot}{ending}"
    return candidate
