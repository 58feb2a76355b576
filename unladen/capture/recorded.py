"""Captures from recorded answers of real servers, whatever they were recorded by."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from urllib.parse import urlsplit

from unladen.capture.addresses import canonical, path_of_url
from unladen.capture.mediatypes import is_page, media_type_of
from unladen.capture.model import Capture, Exchange
from unladen.capture.store import BodyStore
from unladen.capture.unpacking import BodyRefused, decoded
from unladen.errors import BadInput, Notice

Headers = tuple[tuple[str, str], ...]
_LONGEST_FIELD = 16_000  # characters
_REDIRECTS = (301, 302, 303, 307, 308)


@dataclass(frozen=True, slots=True)
class Response:
    """A recorded answer: header names in lower case, the body unpacked, `encoding` as it was sent.

    `kept`: digest and size of a body that lies in the store already.
    """

    url: str
    status: int
    headers: Headers
    body: bytes
    encoding: str = ""
    method: str = "GET"
    kept: tuple[str, int] | None = None

    @property
    def size(self) -> int:
        """Bytes of the body."""
        return self.kept[1] if self.kept else len(self.body)


def address_of(url: str) -> str:
    """The canonical address of a recorded answer; raises `ValueError` for one that no browser opens."""
    try:
        address = canonical(url)
        if urlsplit(address).hostname and urlsplit(address).port != 0:
            address.encode("ascii")
            return address
    except ValueError:
        pass
    raise ValueError("has an address that no browser opens")


def clean_headers(fields: Iterable[tuple[str, str]]) -> Headers:
    """Header fields fit to be sent again: lower-case names, no line breaks, nothing endless."""
    return tuple(
        (name.strip().lower(), " ".join(value.encode("utf-8", "replace").decode().split()))
        for name, value in fields
        if name and not name.startswith(":") and name.isascii() and len(value) <= _LONGEST_FIELD
    )


def encoding_of(headers: Headers) -> str:
    """How the replay sends what was recorded with these headers: packed alike, by gzip where it cannot."""
    token = dict(headers).get("content-encoding", "").lower().split(",")[-1].strip()
    if token in ("br", "zstd"):
        return "br"
    return "gzip" if token in ("gzip", "x-gzip", "deflate", "compress") else ""


def unpacked(body: bytes, headers: Headers, limit: int) -> bytes:
    """The body without its content codings, of at most `limit` bytes; raises `BodyRefused`."""
    out = bytearray()
    for chunk in decoded([body] if body else [], dict(headers).get("content-encoding", "")):
        out += chunk
        if len(out) > limit:
            raise BodyRefused(f"unpacks to more than {limit // 1_000_000} MB")
    return bytes(out)


def exchange_of(response: Response, store: BodyStore, base_url: str) -> Exchange:
    """The exchange of a recorded answer."""
    url = canonical(response.url)
    stated = dict(response.headers).get("content-type", "").partition(";")[0].strip().lower()
    media_type = stated or (media_type_of(urlsplit(url).path) if response.status == 200 else "text/plain")
    path = path_of_url(base_url, url)
    if not path or path.endswith("/"):
        path += "index.html"
    encoding = response.encoding if response.size else ""
    digest, size = response.kept or (store.put(response.body), len(response.body))
    return Exchange(url, response.status, response.headers, media_type, digest, size, encoding, path, recorded=True)


def capture_of_responses(
    name: str,
    responses: Iterable[Response],
    store: BodyStore,
    notices: list[Notice],
    pages: Sequence[str] = (),
) -> Capture:
    """A capture; of several answers to one address a good one and a GET go first. Raises `BadInput` without a page.

    The site's base is the root of the host of the first page.
    """
    kept: dict[str, Response] = {}
    first_page = ""
    for response in responses:
        url = canonical(response.url)
        known = kept.get(url)
        if known is None or _rank(response) > _rank(known):
            kept[url] = response
        if not first_page and response.status == 200 and is_page(_media_type(response)):
            first_page = url
    wanted = [canonical(page) for page in pages]
    first_page = next((page for page in wanted if page in kept and kept[page].status == 200), first_page)
    if not first_page:
        why = f" ({notices[0]})" if notices else ""
        raise BadInput(name, f"holds no HTML page with its body among its {len(kept):,} responses{why}")
    parts = urlsplit(first_page)
    base_url = f"{parts.scheme}://{parts.netloc}/"
    exchanges = {url: exchange_of(response, store, base_url) for url, response in kept.items()}
    known_pages = tuple(dict.fromkeys(p for p in wanted if p in exchanges and is_page(exchanges[p].media_type)))
    return Capture(base_url, exchanges, store, "", tuple(notices), known_pages)


def _media_type(response: Response) -> str:
    return dict(response.headers).get("content-type", "").partition(";")[0].strip().lower()


def _rank(response: Response) -> tuple[bool, bool]:
    return response.status == 200 or response.status in _REDIRECTS, response.method == "GET"
