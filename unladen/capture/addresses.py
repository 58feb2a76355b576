"""URLs of a capture: one spelling each."""

from __future__ import annotations

import unicodedata
from functools import lru_cache
from urllib.parse import quote, unquote, urlsplit, urlunsplit

_SAFE = "/:@!$&'()*+,;=-._~"


@lru_cache(maxsize=32_768)
def canonical(url: str) -> str:
    """One spelling for URLs that a server answers alike: no fragment, lower-case host, percent-encoded UTF-8 NFC."""
    parts = urlsplit(url)
    path = quote(unicodedata.normalize("NFC", unquote(parts.path)), safe=_SAFE) or "/"
    host = _ascii(parts.netloc.lower())
    default = ":443" if parts.scheme == "https" else ":80"
    return urlunsplit((parts.scheme.lower(), host.removesuffix(default), path, parts.query, ""))


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
    """The relative file path of a URL under the base; other hosts go under a folder of their name."""
    plain = without_query(canonical(url))
    if plain.startswith(base_url):
        return unquote(plain.removeprefix(base_url))
    parts = urlsplit(plain)
    return f"{parts.hostname}/{unquote(parts.path).lstrip('/')}"


def url_of_site_path(base_url: str, path: str) -> str:
    """The URL of what `site_path` shows so."""
    return path if "://" in path else base_url + path.lstrip("/")


def site_path(base_url: str, url: str) -> str:
    """How a URL is shown: from the slash for the site's own, whole for others."""
    return "/" + url.removeprefix(base_url) if url.startswith(base_url) else url
