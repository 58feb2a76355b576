"""Texts packed ahead of time, beside the files themselves."""

from __future__ import annotations

from unladen.capture.mediatypes import is_compressible
from unladen.remedies.change import Change, Params
from unladen.remedies.draft import Draft
from unladen.remedies.spec import Remedy


def apply(change: Change[Params], draft: Draft) -> None:
    """Have the targets packed once all else is done to them."""
    for path, exchange in draft.targets(change):
        if exchange.status != 200 or not is_compressible(exchange.media_type):
            draft.notice(path, "is not a text file that could be compressed")
        else:
            draft.packed[exchange.url] = change.id


REMEDY = Remedy(
    name="precompress",
    phase="delivery",
    params=Params,
    title="Compress text ahead of time",
    what="Text files compressed once, as small as possible",
    detail=(
        "Adds brotli (quality 11) and gzip (level 9) versions beside each text, which servers send as they are. The "
        "archive holds rules for nginx and Apache."
    ),
    apply=apply,
    needs_new_names=True,
)
