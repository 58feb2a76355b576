"""A capture under other addresses: each of its hosts at one of ours, for a copy that runs in the user's own browser."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import replace
from functools import cached_property
from urllib.parse import urljoin, urlsplit

from unladen.capture import Capture
from unladen.capture.addresses import site_path
from unladen.capture.mediatypes import is_page
from unladen.markup.text import Undecodable, decode
from unladen.replay.answer import Answer, answer

MOST_HOSTS = 200
SCRIPT_PATH = "/.unladen/live.js"
_REWRITTEN = re.compile(
    r"^(text/(html|css|javascript|xml)|application/(xhtml\+xml|javascript|json|manifest\+json|xml)|image/svg\+xml)"
)
# Where our script goes: into the head, else before all but the document type.
_HEAD = re.compile(r"<head(\s[^>]*)?>", re.I)
_START = re.compile(r"\s*(<!doctype[^>]*>)?\s*(<html(\s[^>]*)?>)?", re.I)
# What would hold of the addresses and bytes of before only, in the tags that may say so.
_TAG = re.compile(r"<(?:script|link|meta)\b[^>]*>", re.I)
_BOUND = re.compile(r"(?<=\s)(integrity\s*=|http-equiv\s*=\s*[\"']?content-security-policy)", re.I)
_GONE = ("content-encoding", "content-length", "etag", "accept-ranges")


class Moved:
    """Serves a capture of several hosts: its own at "", the others at labels h1, h2, ... in the order of the capture.

    `address` gives the new origin of a label, without a slash at its end. Hosts beyond the first `MOST_HOSTS` are not
    moved. Addresses that stand in texts are changed there; those that scripts put together are for the script at
    `SCRIPT_PATH`, which each page gets and which is told `origins`.
    """

    def __init__(self, capture: Capture, address: Callable[[str], str]) -> None:
        self.capture = capture
        base = urlsplit(capture.base_url)
        self._origin_of = {"": f"{base.scheme}://{base.netloc}"}
        hosts = {base.netloc: ""}
        for exchange in capture:
            parts = urlsplit(exchange.url)
            if parts.netloc not in hosts and len(hosts) < MOST_HOSTS:
                hosts[parts.netloc] = f"h{len(hosts)}"
                self._origin_of[hosts[parts.netloc]] = f"{parts.scheme}://{parts.netloc}"
        self.origins: Mapping[str, str] = {host: address(label) for host, label in hosts.items()}

    @cached_property
    def _named(self) -> re.Pattern[str]:
        hosts = "|".join(re.escape(host) for host in sorted(self.origins, key=len, reverse=True))
        # Also as scripts and JSON write it, with escaped slashes; the end of the host must be one.
        return re.compile(rf"(?:https?:|(?<![\w:]))(//|\\/\\/)({hosts})(?::(?:80|443))?(?![\w.:@-])", re.I)

    def text(self, chars: str) -> str:
        """A text in which each address of a known host leads to where that is served now."""

        def moved(found: re.Match[str]) -> str:
            origin = self.origins[found[2].lower()]
            return origin if found[1] == "//" else origin.replace("/", "\\/")

        return self._named.sub(moved, chars)

    def answer(self, label: str, path: str, request_headers: dict[str, str], method: str = "GET") -> Answer:
        """What is served at a path (with its query) of a label; 404 for what is not in the capture."""
        url = self._url(label, path)
        exchange = self.capture.lookup(url) if url else None
        if exchange is None:
            target = self._elsewhere(label, path, url)
            return (
                Answer(302, (("location", self.text(target)),))
                if target
                else Answer(404, (("content-type", "text/plain"),))
            )
        if not _REWRITTEN.match(exchange.media_type):
            return self.file(url, request_headers, method)
        response = self.file(url, {}, method)
        try:
            text = decode(self.capture.body(exchange))
        except Undecodable:
            return response
        chars = self.text(text.chars)
        if is_page(exchange.media_type):
            chars = _with_script(_TAG.sub(lambda tag: _BOUND.sub(lambda m: f"data-{m[0]}", tag[0]), chars))
        headers = tuple(field for field in response.headers if field[0] not in _GONE)
        return replace(response, headers=headers, body=text.encode(chars))

    def _url(self, label: str, path: str) -> str:
        origin = self._origin_of.get(label)
        if origin is None:
            return ""
        under_base = self.capture.base_url + path.removeprefix("/")
        # A site that lies in a folder is asked for by its pages' own paths, and by addresses from its host's root.
        return under_base if not label and self.capture.lookup(under_base) else origin + path

    def _elsewhere(self, label: str, path: str, url: str) -> str:
        if url and (target := self.capture.redirect(url)):
            return target
        first = self.capture.pages()
        return site_path(self.capture.base_url, first[0].url) if not label and path == "/" and first else ""

    def file(self, url: str, request_headers: dict[str, str], method: str = "GET") -> Answer:
        """What was recorded under an address, unchanged; redirects lead to where their target is now, or nowhere."""
        response = answer(self.capture, method, url, request_headers)
        target = dict(response.headers).get("location")
        if target is None:
            return response
        to = urljoin(url, target)
        if urlsplit(to).netloc not in self.origins:
            return Answer(404, (("content-type", "text/plain"),))
        fields = tuple(field for field in response.headers if field[0] != "location")
        return replace(response, headers=(*fields, ("location", self.text(to))))


def _with_script(chars: str) -> str:
    head = _HEAD.search(chars) or _START.match(chars)
    at = head.end() if head else 0
    return f'{chars[:at]}<script src="{SCRIPT_PATH}"></script>{chars[at:]}'
