"""A site in the course of being changed: the site as found, edits of its texts, versions of its files."""

from unladen.remedies.draft.draft import Draft
from unladen.remedies.draft.edits import NO_EDITS, PINNED, SHARED, Copy, Pending, Stage, TextEdits, Transform
from unladen.remedies.draft.links import AddressOf, ContentsOf, LinkedEdit
from unladen.remedies.draft.site import AnyChange, SiteView
from unladen.remedies.draft.versions import FileVersions, Styled, Version, beside, made_file

__all__ = [
    "NO_EDITS",
    "PINNED",
    "SHARED",
    "AddressOf",
    "AnyChange",
    "ContentsOf",
    "Copy",
    "Draft",
    "FileVersions",
    "LinkedEdit",
    "Pending",
    "SiteView",
    "Stage",
    "Styled",
    "TextEdits",
    "Transform",
    "Version",
    "beside",
    "made_file",
]
