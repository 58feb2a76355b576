"""`Exchange` and `Capture`."""

from __future__ import annotations

import gzip
import hashlib
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import asdict, dataclass, field, replace
from functools import cached_property, lru_cache
from typing import Any
from urllib.parse import urlsplit

import brotli

from unladen.capture.addresses import canonical, composed, url_of_site_path, without_query
from unladen.capture.mediatypes import is_page
from unladen.capture.store import BodyStore
from unladen.errors import BadInput, Notice

_GZIP_LEVEL = 6
_BROTLI_QUALITY = 5
PACKED_QUALITY = 11  # RFC 7932 leaves it to the program; the most that the usual one does
_PACKED_FROM = 256
ENCODINGS = ("", "gzip", "br", "packed")


@dataclass(frozen=True, slots=True)
class Exchange:
    """One recorded response. `size` is the decoded body in bytes; `encoding` says how the body is sent.

    `packed` is the digest of the body as it was packed by brotli ahead of time, and sent so, of `packed_size` bytes.

    `recorded`: the headers are those of a real server. Otherwise it is a file, and `headers` holds only its type.
    """

    url: str
    status: int
    headers: tuple[tuple[str, str], ...]
    media_type: str
    digest: str
    size: int
    encoding: str = ""
    path: str = ""
    recorded: bool = False
    packed: str = ""
    packed_size: int = 0

    def header(self, name: str) -> str:
        """The value of a header field by its lower-case name, or ""."""
        return next((value for key, value in self.headers if key == name), "")


def sent_body(body: bytes, encoding: str) -> tuple[bytes, str]:
    """The body as it goes over the wire and its content encoding; small or incompressible ones go as they are.

    gzip level 6 without a time stamp, or brotli quality 5, as servers pack on the fly, or for what is `packed` ahead of
    time by brotli as small as it gets: the same bytes every time.
    """
    if encoding == "packed":
        packed = brotli.compress(body, mode=brotli.MODE_TEXT, quality=PACKED_QUALITY)
        return (packed, "br") if len(packed) < len(body) else (body, "")
    if encoding and len(body) >= _PACKED_FROM:
        packed = (
            brotli.compress(body, quality=_BROTLI_QUALITY)
            if encoding == "br"
            else gzip.compress(body, _GZIP_LEVEL, mtime=0)
        )
        if len(packed) < len(body):
            return packed, encoding
    return body, ""


@dataclass(frozen=True, eq=False)
class Capture:
    """An immutable site. `prefix` is the folder of the archive that was stripped and comes back on the way out.

    `page_urls` names the pages of a recording; without them every own HTML document is one.
    """

    base_url: str
    exchanges: Mapping[str, Exchange]
    store: BodyStore
    prefix: str = ""
    notices: tuple[Notice, ...] = ()
    page_urls: tuple[str, ...] = ()
    _sizes: dict[tuple[str, str], int] = field(default_factory=dict, repr=False)

    def __iter__(self) -> Iterator[Exchange]:
        return iter(self.exchanges.values())

    def __len__(self) -> int:
        return len(self.exchanges)

    def lookup(self, url: str) -> Exchange | None:
        """What a static server answers for this URL: the file, the folder's index, the file without its query.

        An accent may be written as a character of its own where no other file is meant: some file systems and tools
        spell names so.
        """
        try:
            key = canonical(url)
        except ValueError:  # it is no URL at all
            return None
        return self._at(key) or (self._at(self._spelled.get(composed(key), "")) if self._spelled else None)

    @cached_property
    def _spelled(self) -> dict[str, str]:
        """Addresses beyond ASCII by their composed spelling."""
        return {composed(url): url for url in reversed(list(self.exchanges)) if "%" in url}

    def _at(self, key: str) -> Exchange | None:
        result = self.exchanges.get(key) or self.exchanges.get(without_query(key))
        if result is None and without_query(key).endswith("/"):
            for index in ("index.html", "index.htm"):
                result = result or self.exchanges.get(without_query(key) + index)
        return result

    def fingerprint(self, url: str) -> str:
        """What is served at an address, in short; "" where nothing is."""
        exchange = self.lookup(url)
        return f"{exchange.encoding} {exchange.packed} {self.content(url)}" if exchange else ""

    def content(self, url: str) -> str:
        """The same however it is packed on its way, which no page can see."""
        exchange = self.lookup(url)
        if exchange is None:
            return ""
        fields = hashlib.sha256(repr(exchange.headers).encode()).hexdigest()[:12]
        return f"{exchange.status} {exchange.media_type} {exchange.digest} {fields}"

    def redirect(self, url: str) -> str | None:
        """The address with a slash, when a folder with an index was asked for without one."""
        plain = without_query(canonical(url))
        if not plain.endswith("/") and plain not in self.exchanges and self.lookup(plain + "/") is not None:
            return plain + "/"
        return None

    def body(self, exchange: Exchange) -> bytes:
        """The decoded body."""
        return self.store.get(exchange.digest)

    def sent(self, exchange: Exchange) -> tuple[bytes, str]:
        """The encoded body and its content encoding."""
        if exchange.packed:
            return self.store.get(exchange.packed), "br"
        return _sent(self.store, exchange.digest, exchange.encoding)

    def sent_size(self, exchange: Exchange) -> int:
        """Bytes of the encoded body."""
        if exchange.packed:
            return exchange.packed_size
        return self.sent_size_of(exchange.digest, exchange.size, exchange.encoding)

    def sent_size_of(self, digest: str, size: int, encoding: str) -> int:
        """Bytes of a body of the store, sent with this encoding; `size` is that of the body."""
        if not encoding:
            return size
        key = (digest, encoding)
        if key not in self._sizes:
            self._sizes[key] = len(_sent(self.store, digest, encoding)[0])
        return self._sizes[key]

    def pages(self) -> list[Exchange]:
        """The documents of the capture, the shallowest first and an index before its neighbours."""

        def order(exchange: Exchange) -> tuple[int, bool, str]:
            path = urlsplit(exchange.url).path
            return path.count("/"), not path.rsplit("/", 1)[-1].startswith("index."), path

        if self.page_urls:
            return [self.exchanges[url] for url in self.page_urls if url in self.exchanges]
        return sorted((e for e in self if is_page(e.media_type) and self.owns(e.url) and e.status == 200), key=order)

    def files(self) -> list[Exchange]:
        """What can be handed over: the site's own files, of several answers under one path the first."""
        exchanges: dict[str, Exchange] = {}
        for exchange in self:
            if self.owns(exchange.url) and exchange.status == 200:
                exchanges.setdefault(exchange.path, exchange)
        return list(exchanges.values())

    def owns(self, url: str) -> bool:
        """Whether an address lies under the site's own base, so that it can be handed over."""
        return url.startswith(self.base_url)

    def page(self, path: str) -> Exchange:
        """The page at a path like `/index.html`; raises `BadInput` when there is none."""
        exchange = self.lookup(url_of_site_path(self.base_url, path))
        if exchange is None or not is_page(exchange.media_type):
            raise BadInput(path, "the site has no such page")
        return exchange

    def to_index(self) -> dict[str, Any]:
        """Everything but the bodies as plain values, for `from_index`."""
        return {
            "base_url": self.base_url,
            "prefix": self.prefix,
            "notices": [[notice.name, notice.reason] for notice in self.notices],
            "page_urls": list(self.page_urls),
            "exchanges": [asdict(exchange) for exchange in self],
        }

    @classmethod
    def from_index(cls, index: dict[str, Any], store: BodyStore) -> Capture:
        """The capture that `to_index` gave, with the store that holds its bodies."""
        exchanges = {
            row["url"]: Exchange(**row | {"headers": tuple((name, value) for name, value in row["headers"])})
            for row in index["exchanges"]
        }
        notices = tuple(Notice(name, reason) for name, reason in index["notices"])
        return cls(index["base_url"], exchanges, store, index["prefix"], notices, tuple(index["page_urls"]))

    def with_changes(self, changed: Iterable[Exchange]) -> Capture:
        """A new capture in which these exchanges replace or join the others."""
        exchanges = dict(self.exchanges)
        for exchange in changed:
            exchanges[exchange.url] = exchange
        return replace(self, exchanges=exchanges)


def digest_in(mark: str) -> str:
    """The digest of the body in a mark that `Capture.content` gave, "" in that of a file that is not there."""
    return mark.split(" ")[-2] if mark else ""


@lru_cache(maxsize=64)
def _sent(store: BodyStore, digest: str, encoding: str) -> tuple[bytes, str]:
    return sent_body(store.get(digest), encoding)
