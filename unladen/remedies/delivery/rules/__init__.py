"""What web servers have to be told to hand a site out as it was weighed."""

from __future__ import annotations

from pathlib import Path
from urllib.parse import quote

from unladen.capture import Capture
from unladen.remedies.delivery.lifetimes import BY_CONTENT, FOR_GOOD, lifetime_of, says_its_content, seldom_changes

SERVERS = {"nginx": "nginx.conf", "apache": "htaccess.txt"}
_SELDOM = "png|jpe?g|gif|webp|avif|svg|ico|woff2?|ttf|otf|mp4|webm|mp3|ogg"
_PACKED = r"(\.br|\.gz)?"


def rules_for(server: str, seconds: int = 0) -> str:
    """For a web server, one of `SERVERS`: packed files, and lifetimes of so many seconds, 0 for none."""
    text = (Path(__file__).parent / SERVERS[server]).read_text()
    return text.replace("{lifetimes}", _LIFETIMES[server](seconds) if seconds else "")


def _nginx(seconds: int) -> str:
    # The first that matches counts.
    return f'    "~{BY_CONTENT}" "{FOR_GOOD}";\n    "~*\\.({_SELDOM}){_PACKED}$" "{lifetime_of(seconds)}";\n'


def _apache(seconds: int) -> str:
    def rule(pattern: str, lifetime: str) -> str:
        return f'<FilesMatch "{pattern}">\nHeader set Cache-Control "{lifetime}"\n</FilesMatch>\n'

    # Of several that match the last one counts.
    return rule(rf"(?i)\.({_SELDOM}){_PACKED}$", lifetime_of(seconds)) + rule(BY_CONTENT, FOR_GOOD)


_LIFETIMES = {"nginx": _nginx, "apache": _apache}


def rules_beside(capture: Capture, seconds: int = 0) -> dict[str, str]:
    """What goes with a site whose files were packed ahead of time or have lifetimes, by file name; nothing for
    others.
    """
    if not seconds and not any(exchange.packed for exchange in capture):
        return {}
    rules = {f"server-rules/{name}": rules_for(server, seconds) for server, name in SERVERS.items()}
    return rules | ({"server-rules/_headers": static_headers(capture, seconds)} if seconds else {})


def static_headers(capture: Capture, seconds: int) -> str:
    """For hosts of static files that read a file `_headers` at the root: paths, and under each what is sent with it.

    Each file by itself, since such hosts do not agree on patterns. They pack texts by themselves.
    """
    rows = []
    for exchange in sorted(capture.files(), key=lambda e: e.path):
        by_content = says_its_content(exchange.path)
        if by_content or seldom_changes(exchange):
            lifetime = FOR_GOOD if by_content else lifetime_of(seconds)
            rows.append(f"{quote('/' + exchange.path)}\n  Cache-Control: {lifetime}\n")
    return "".join(rows)
