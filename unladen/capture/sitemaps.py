"""Sitemaps: the pages of a site by its own word (sitemaps.org protocol 0.9)."""

from __future__ import annotations

import zlib
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field
from io import BytesIO
from urllib.parse import urljoin, urlsplit
from xml.etree.ElementTree import ParseError

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import iterparse

from unladen.capture.addresses import canonical
from unladen.capture.model import Capture
from unladen.errors import BadInput, Notice

# Of one sitemap, by the protocol: entries, and bytes once unpacked.
MOST_ENTRIES, MOST_BYTES = 50_000, 52_428_800
_MOST_SITEMAPS = 500  # followed from one index


@dataclass(slots=True)
class Listed:
    """Addresses of pages in the order of their sitemaps, each once; `notices` tell what was left out and why."""

    pages: list[str] = field(default_factory=list)
    notices: list[Notice] = field(default_factory=list)


def read_sitemap(data: bytes, address: str) -> tuple[list[str], list[str]]:
    """The addresses of pages in a sitemap and of further sitemaps in an index, as they stand there.

    XML or plain text, packed with gzip or not. Raises `BadInput` naming `address`.
    """
    data = _unpacked(data, address)
    if not data.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"<"):
        try:
            lines = [line.strip() for line in data.decode("utf-8-sig").splitlines() if line.strip()]
        except UnicodeDecodeError:
            raise BadInput(address, "is not a sitemap: neither XML nor UTF-8 text") from None
        if not lines or not all(line.startswith(("http://", "https://")) for line in lines[:10]):
            raise BadInput(address, "is not a sitemap: its lines are not addresses")
        return _at_most(lines, address), []
    sitemap: dict[str, list[str]] = {"url": [], "sitemap": []}
    above: list[str] = []
    try:
        for event, element in iterparse(BytesIO(data), events=("start", "end"), forbid_dtd=False):
            name = element.tag.rpartition("}")[2]
            if event == "start":
                if not above and name not in ("urlset", "sitemapindex"):
                    raise BadInput(address, f"is not a sitemap: it consists of <{name[:40]}>")
                above.append(name)
                continue
            above.pop()
            if name == "loc" and above and above[-1] in sitemap and (element.text or "").strip():
                sitemap[above[-1]].append(element.text.strip())
            if name in sitemap:
                element.clear()
                if len(sitemap["url"]) + len(sitemap["sitemap"]) > MOST_ENTRIES:
                    break
    except (ParseError, DefusedXmlException, ValueError) as error:
        raise BadInput(address, f"is not a readable sitemap ({error or type(error).__name__})") from None
    return _at_most(sitemap["url"], address), _at_most(sitemap["sitemap"], address)


def _at_most(entries: list[str], address: str) -> list[str]:
    if len(entries) > MOST_ENTRIES:
        raise BadInput(address, f"has more than the {MOST_ENTRIES:,} entries that a sitemap may have")
    return entries


def _unpacked(data: bytes, address: str) -> bytes:
    if data[:2] == b"\x1f\x8b":
        try:
            machine = zlib.decompressobj(31)
            data = machine.decompress(data, MOST_BYTES + 1)
        except zlib.error:
            raise BadInput(address, "is packed with gzip and damaged") from None
    if len(data) > MOST_BYTES:
        raise BadInput(address, f"is larger than the {MOST_BYTES / 1e6:.0f} MB that a sitemap may have")
    return data


def listed(first: list[str], get: Callable[[str], bytes | None], site: str = "") -> Listed:
    """The pages of these sitemaps and of all that they lead to, as far as they are of the `site` at that address.

    Without one, the first page named tells whose they are. `get` brings a body, or None where there is none. What
    cannot be read is told, and the others count.
    """
    sitemap = Listed()
    waiting, known = deque(dict.fromkeys(first)), set(first)
    pages: dict[str, None] = {}
    foreign = read = 0
    while waiting and read < _MOST_SITEMAPS:
        address = waiting.popleft()
        data = get(address)
        read += 1
        if data is None:
            sitemap.notices.append(Notice(address, "is listed as a sitemap but is missing"))
            continue
        try:
            entries, more = read_sitemap(data, address)
        except BadInput as error:
            sitemap.notices.append(Notice(address, error.reason))
            continue
        for entry in entries:
            site = site or entry
            url = _of_site(urljoin(address, entry), site)
            foreign += url is None
            if url:
                pages[url] = None
        for entry in more:
            url = _of_site(urljoin(address, entry), site or entry)
            foreign += url is None
            if url and url not in known:
                known.add(url)
                waiting.append(url)
    if foreign:
        some = f"{foreign:,} addresses of other hosts" if foreign > 1 else "an address of another host"
        sitemap.notices.append(Notice(site, f"has {some} in its sitemap, left out here"))
    if waiting:
        sitemap.notices.append(
            Notice(site, f"has more than {_MOST_SITEMAPS} sitemaps; {len(waiting):,} were not read")
        )
    sitemap.pages = list(pages)
    return sitemap


def _of_site(url: str, site: str) -> str | None:
    """The address as browsers write it, if it is of the same host by the same protocol."""
    try:
        url = canonical(url)
    except ValueError:
        return None
    here, home = urlsplit(url), urlsplit(site)
    return url if (here.scheme, here.netloc) == (home.scheme, home.netloc) else None


def named_in_robots(text: str, address: str) -> list[str]:
    """The sitemaps that a `robots.txt` at this address names."""
    fields = (line.partition("#")[0].partition(":") for line in text.splitlines())
    values = (value.strip() for name, _, value in fields if name.strip().lower() == "sitemap")
    return [urljoin(address, value) for value in values if value]


def sitemap_of(capture: Capture) -> Listed:
    """The pages that the sitemaps of a site name; empty where it has none.

    Files that were handed in lie under an address of ours, so that paths count and not hosts.
    """

    def here(url: str) -> str:
        parts = urlsplit(url)
        return capture.base_url + parts.path.removeprefix("/") + (f"?{parts.query}" if parts.query else "")

    def get(url: str) -> bytes | None:
        exchange = capture.lookup(url) or capture.lookup(here(url))
        return capture.body(exchange) if exchange and exchange.status == 200 else None

    sitemap = listed(sitemaps_at(capture.base_url, get), get)
    sitemap.pages = [url if capture.lookup(url) else here(url) for url in sitemap.pages]
    return sitemap


def sitemaps_at(site: str, get: Callable[[str], bytes | None]) -> list[str]:
    """Where the sitemaps of a site are: where its `robots.txt` says, else at the usual place."""
    robots = urljoin(site, "/robots.txt")
    text = get(robots)
    named = named_in_robots(text.decode("utf-8", "replace"), robots) if text else []
    usual = urljoin(site, "/sitemap.xml")
    return named or ([usual] if get(usual) is not None else [])
