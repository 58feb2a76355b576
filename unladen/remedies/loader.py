"""What goes into the head of a page for things that browsers do not put off by themselves.

One small script, and styles.
"""

from __future__ import annotations

import re
from pathlib import Path

from unladen.capture import Exchange
from unladen.markup.edits import Edit
from unladen.markup.html import Document
from unladen.remedies.draft import AnyChange, Draft

MARGIN = 800  # CSS px from the window at which our script takes something for near
# `loader.js` and so on are those to read; `npm run loader` in web/ makes these of them, since every page pays for them.
LOADER, WAITER, STILLER = (
    (Path(__file__).parent / f"{name}.min.js").read_text().strip() for name in ("loader", "waiter", "stiller")
)
_POLICY = "content-security-policy"
_STOP = re.compile(r"\bscript-src\b|\bdefault-src\b", re.I)


def policies_of(exchange: Exchange, document: Document) -> list[str]:
    """What a page says of what may run and be fetched there (Content Security Policy Level 3)."""
    policies = [value for name, value in exchange.headers if name.lower() == _POLICY]
    policies += [
        e.attrs.get("content", "") for e in document.elements if e.attrs.get("http-equiv", "").lower() == _POLICY
    ]
    return policies


def may_run_inline(exchange: Exchange, document: Document) -> bool:
    """Whether no policy of the page keeps scripts within it from running."""
    policies = policies_of(exchange, document)
    return not any(_STOP.search(policy) and "'unsafe-inline'" not in policy for policy in policies)


def add_to_head(change: AnyChange, draft: Draft, page: Exchange, document: Document, text: str, slot: str) -> bool:
    """Put a text at the end of a page's head, or of a page that does not say where its head ends."""
    head = next((e for e in document.elements if e.tag == "head" and e.inner_end > e.end), None)
    position = head.inner_end if head else len(document.chars)
    return draft.edits.edit(change, page, Edit(position, position, text, slot=slot, adds=True))


def add_loader(change: AnyChange, draft: Draft, page: Exchange, document: Document) -> bool:
    """Put our script into a page, once however many changes need it; whether it may be there and can run."""
    return add_script(change, draft, page, document, "loader", LOADER)


def add_script(
    change: AnyChange, draft: Draft, page: Exchange, document: Document, name: str, script: str, attributes: str = ""
) -> bool:
    """Put a script of ours of this name into the head of a page; whether it may be there and can run."""
    if not may_run_inline(page, document):
        draft.notice(draft.path(page), "has a policy that keeps a script of ours from running")
        return False
    text = f"<script data-unladen={name}{attributes}>{script}</script>"
    return add_to_head(change, draft, page, document, text, f"unladen {name}")
