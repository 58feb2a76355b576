"""SVG texts in fewer bytes that draw the same. What could do harm or reach out is left as it is."""

from __future__ import annotations

import contextlib
import io
import re
from xml.etree.ElementTree import Element

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import ParseError, fromstring
from scour import scour

from unladen.raster.probe import ImageRefused

MAX_BYTES = 2_000_000
_MAX_ELEMENTS = 50_000
_XLINK = "{http://www.w3.org/1999/xlink}href"
_SVG = "{http://www.w3.org/2000/svg}svg"
_LENGTH = re.compile(r"\s*([0-9.eE+-]+)\s*(px)?\s*$")


def check_svg(data: bytes) -> tuple[int, int]:
    """Width and height in px as far as the file states them, else 0.

    Raises `ImageRefused` for what is not plain drawing.
    """
    if not data.strip():
        raise ImageRefused("is empty")
    if len(data) > MAX_BYTES:
        raise ImageRefused(f"is an SVG of more than {MAX_BYTES / 1e6:.0f} MB")
    try:
        root = fromstring(data, forbid_dtd=False, forbid_entities=True, forbid_external=True)
    except DefusedXmlException:
        raise ImageRefused("is an SVG with entities of its own") from None
    except (ParseError, ValueError, LookupError) as error:
        raise ImageRefused(f"is not a readable SVG ({error})") from None
    if root.tag != _SVG:
        raise ImageRefused("is not an SVG")
    for number, element in enumerate(root.iter()):
        if number > _MAX_ELEMENTS:
            raise ImageRefused(f"is an SVG of more than {_MAX_ELEMENTS:,} elements")
        _expect_plain(element)
    return _size(root)


def _expect_plain(element: Element) -> None:
    name = str(element.tag).rpartition("}")[2]
    if name in ("script", "foreignObject"):
        raise ImageRefused(f"is an SVG with a <{name}>")
    for attribute, value in element.attrib.items():
        if attribute.lower().startswith("on"):
            raise ImageRefused("is an SVG that runs scripts")
        if attribute in (_XLINK, "href") and not value.startswith(("#", "data:image/")):
            raise ImageRefused("is an SVG that refers to something outside of it")
        if "url(" in value and re.search(r"url\(\s*['\"]?(?!#|data:)", value):
            raise ImageRefused("is an SVG that refers to something outside of it")
    if name == "style" and element.text and re.search(r"@import|url\(\s*['\"]?(?!#|data:)", element.text):
        raise ImageRefused("is an SVG that refers to something outside of it")


def _size(root: Element) -> tuple[int, int]:
    result = []
    box = re.split(r"[\s,]+", root.get("viewBox", "").strip())
    for place, name in ((2, "width"), (3, "height")):
        match = _LENGTH.match(root.get(name, ""))
        text = match[1] if match else box[place] if len(box) == 4 else "0"
        try:
            result.append(min(round(float(text)), 10**6))
        except (ValueError, OverflowError):
            result.append(0)
    return result[0], result[1]


def minified_svg(data: bytes) -> bytes:
    """The same drawing without comments, editors' data and needless digits; raises `ImageRefused`.

    Names (ids, classes) stay, since pages and styles may use them; so do titles and descriptions.
    """
    check_svg(data)
    options = scour.sanitizeOptions()
    options.remove_metadata = False  # licences live there; editors' data goes all the same
    options.strip_comments = True
    options.strip_xml_prolog = True
    options.strip_xml_space_attribute = False
    options.indent_type, options.newlines = "none", False
    options.strip_ids = options.shorten_ids = False
    options.enable_viewboxing = False
    options.group_create = options.group_collapse = False
    options.keep_defs = True
    options.embed_rasters = False  # it would read files of ours
    options.style_to_xml = False
    options.digits = options.cdigits = 6
    options.quiet = True
    try:
        with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(io.StringIO()):
            text = scour.scourString(data.decode("utf-8-sig"), options)
    except Exception as error:  # it was not made for every odd file
        raise ImageRefused(f"is an SVG that could not be minified ({type(error).__name__})") from error
    out = str(text).strip().encode()
    check_svg(out)
    return out
