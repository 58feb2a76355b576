"""Pictures in the text of pages and style sheets, as base64."""

from __future__ import annotations

import base64

from unladen.capture import Exchange
from unladen.capture.mediatypes import is_page
from unladen.capture.model import sent_body
from unladen.markup.data_images import DataImage, data_images
from unladen.markup.edits import Edit, apply_edits
from unladen.remedies import Change
from unladen.remedies.images.data_images import recipe_for, smaller, stays_in_text
from unladen.remedies.images.replacing import Coding
from unladen.survey.findings import FilesFacts, Finding
from unladen.survey.spec import Context, Found, Surveyor

_LINK = "picture-01234567.webp"  # as long as what will stand there
_WORTH = 1_000  # bytes over a text


def find(context: Context) -> Found:
    """One excess for each text that gets lighter; every picture is tried out."""
    evidence = context.evidence
    texts = [evidence.capture.page(path) for path in evidence.pages]
    texts += [e for url in evidence.asked_for("styles") if (e := evidence.capture.lookup(url)) is not None]
    _try_out(context, [image.body for text in texts for image in _images(context, text)])
    return Found(tuple(excess for text in dict.fromkeys(texts) if (excess := _excess(context, text))))


def _images(context: Context, text: Exchange) -> list[DataImage]:
    read = context.evidence.texts.text(text)
    return data_images(read.chars, page=is_page(text.media_type)) if read else []


def _try_out(context: Context, bodies: list[bytes]) -> None:
    """Several at a time and within limits, as all images are; what lies in no store is there as long as it takes."""
    work_cache, recipe = context.work_cache, recipe_for(context.similarity)
    digests = [work_cache.made.put(body) for body in dict.fromkeys(bodies)]
    made = {
        outcome.digest
        for outcome in work_cache.outcomes([(d, recipe) for d in digests], context.progress, "survey").values()
    }
    for digest in digests:
        if digest not in made:
            work_cache.made.drop(digest)


def _excess(context: Context, text: Exchange) -> Finding | None:
    evidence, texts = context.evidence, context.evidence.texts
    read = texts.text(text)
    result = _images(context, text)
    users = {path for path in texts.pages_of(text) if path in evidence.pages}
    if read is None or not result or not users:
        return None
    edits, files, count = [], 0, 0
    for image in result:
        outcome = smaller(context.work_cache, image, context.similarity)
        if outcome is None:
            continue
        count += 1
        inside = stays_in_text(outcome)
        files += 0 if inside else outcome.size
        short = base64.b64encode(context.work_cache.body(outcome)).decode() if inside else _LINK
        edits.append(Edit(image.start, image.end, short))
    before, after = (
        len(sent_body(chars.encode(errors="replace"), text.encoding)[0])
        for chars in (read.chars, apply_edits(read.chars, edits))
    )
    saved = before - after - files
    if saved < _WORTH:
        return None
    path = evidence.path(text.url)
    params = Coding(similarity=context.similarity)
    change = Change(f"data-images:{path}", "data-images", (path,), tuple(sorted(users)), params)
    out = sum(1 for edit in edits if edit.text == _LINK)
    moved = f"in {out} files of their own" if out > 1 else "in a file of its own" if out else "still in its place"
    many = f"{count} pictures stand" if count > 1 else "A picture stands"
    return Finding(
        id=change.id,
        excess="picture-in-text",
        kind="styles" if text.media_type == "text/css" else "documents",
        title=f"{many} in the text of {path}",
        why=f"As base64 it holds up what is around it, in an older format. As WebP, {moved}, it was tried out.",
        pages=tuple(sorted(users)),
        bytes=saved,
        of_bytes=before,
        requests=0,
        tried=True,
        facts=FilesFacts(files={path: saved}),
        changes=(change,),
    )


SURVEYOR = Surveyor("pictures in texts", find, (FilesFacts,), remedies=("data-images",))
