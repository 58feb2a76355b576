"""URLs of a capture: one spelling each, as browsers and servers compare them."""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache
from urllib.parse import quote, unquote, unquote_to_bytes, urlsplit, urlunsplit

_SAFE = "/:@!$&'()*+,;=-._~"
_CODED_SLASH = re.compile("%2f", re.I)
_DOTS = re.compile(r"(?:\.|%2e){1,2}", re.I)


@lru_cache(maxsize=32_768)
def canonical(url: str) -> str:
    """One spelling for URLs that a server answers alike: no fragment, lower-case host, resolved dot segments, the same
    bytes percent-encoded the same way.

    By the URL standard (WHATWG, 4.4): a coded slash is no slash, and bytes stay what they are, UTF-8 or not.
    """
    parts = urlsplit(url)
    path = recoded(_without_dots(parts.path.replace("\\", "/")), _SAFE) or "/"
    host = _ascii(parts.netloc.lower())
    default = ":443" if parts.scheme == "https" else ":80"
    return urlunsplit((parts.scheme.lower(), host.removesuffix(default), path, parts.query, ""))


def recoded(path: str, safe: str) -> str:
    """A path with each of its bytes percent-encoded unless it is `safe`; a coded slash stays one."""
    return "%2F".join(quote(unquote_to_bytes(piece), safe=safe) for piece in _CODED_SLASH.split(path))


def _without_dots(path: str) -> str:
    """A path without `.` and `..` (RFC 3986, 5.2.4; WHATWG counts `%2e` as a dot)."""
    if not _DOTS.search(path):
        return path
    segments: list[str] = []
    names = path.split("/")
    for n, name in enumerate(names):
        if not _DOTS.fullmatch(name):
            segments.append(name)
            continue
        if len(name.lower().replace("%2e", ".")) == 2 and len(segments) > 1:
            segments.pop()
        if n == len(names) - 1:
            segments.append("")
    return "/".join(segments)


def composed(url: str) -> str:
    """The canonical URL in which letters with accents are one character each (Unicode NFC), as far as it is UTF-8."""
    parts = urlsplit(url)
    try:
        pieces = [unquote_to_bytes(piece).decode() for piece in parts.path.split("%2F")]
    except UnicodeDecodeError:
        return url
    path = "%2F".join(quote(unicodedata.normalize("NFC", piece), safe=_SAFE) for piece in pieces)
    return urlunsplit(parts._replace(path=path))


def _ascii(host: str) -> str:
    """A host name as it goes over the wire (RFC 3490), what is none as it is."""
    if host.isascii():
        return host
    try:
        return host.encode("idna").decode()
    except UnicodeError:
        return host


def without_query(url: str) -> str:
    """The URL up to its query."""
    return url.partition("?")[0]


@lru_cache(maxsize=32_768)
def url_of_path(base_url: str, path: str) -> str:
    """The URL at which the file at this relative path is served."""
    return canonical(base_url + quote(path, safe=_SAFE))


def path_of_url(base_url: str, url: str) -> str:
    """The relative file path of a URL under the base; other hosts go under a folder of their name.

    A part that is not UTF-8, or has a slash in its name, keeps its codes.
    """
    plain = without_query(canonical(url))
    if plain.startswith(base_url):
        return _named(plain.removeprefix(base_url))
    parts = urlsplit(plain)
    return f"{parts.hostname}/{_named(parts.path).lstrip('/')}"


def _named(path: str) -> str:
    return "/".join(map(_part_named, path.split("/")))


def _part_named(part: str) -> str:
    if "%2F" in part:
        return part
    try:
        return unquote(part, errors="strict")
    except UnicodeDecodeError:
        return part


def url_of_site_path(base_url: str, path: str) -> str:
    """The URL of what `site_path` shows so."""
    return path if path.startswith(("http://", "https://")) else base_url + path.removeprefix("/")


def site_path(base_url: str, url: str) -> str:
    """How a URL is shown: from the slash for the site's own, whole for others."""
    return "/" + url.removeprefix(base_url) if url.startswith(base_url) else url
