"""Uploaded logos, made harmless: a PNG is redrawn, an SVG keeps only shapes, colours and text.

Everything else in an SVG – scripts, styles, links, external pictures, entities, shapes that repeat shapes – is removed,
harmless or not: SVG 2, chapters 7 to 13, lists the elements of plain drawings, which are kept.
"""

import math
import re
from io import BytesIO
from xml.etree import ElementTree

from defusedxml import DefusedXmlException
from defusedxml import ElementTree as Defused
from PIL import Image

from zugzwang.core.reports.blocks import Logo
from zugzwang.errors import Invalid

BYTES_MAX, PIXELS_MAX, SIDE_MAX, ELEMENTS_MAX = 2_000_000, 25_000_000, 1_200, 5_000
_SVG = "{http://www.w3.org/2000/svg}"
_ELEMENTS = frozenset({
    "svg", "g", "defs", "title", "desc", "path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "text", "tspan",
    "linearGradient", "radialGradient", "stop", "clipPath",
})  # fmt: skip
_ATTRIBUTES = frozenset({
    "id", "viewBox", "width", "height", "x", "y", "x1", "y1", "x2", "y2", "cx", "cy", "r", "rx", "ry", "fx", "fy", "dx", "dy",
    "d", "points", "transform", "fill", "fill-opacity", "fill-rule", "stroke", "stroke-width", "stroke-opacity",
    "stroke-linecap", "stroke-linejoin", "stroke-miterlimit", "stroke-dasharray", "stroke-dashoffset", "opacity", "offset",
    "stop-color", "stop-opacity", "gradientUnits", "gradientTransform", "spreadMethod", "clip-path", "clip-rule",
    "clipPathUnits", "font-family", "font-size", "font-weight", "font-style", "text-anchor", "letter-spacing",
    "preserveAspectRatio", "color", "display", "visibility",
})  # fmt: skip
_INNER_REFERENCE = re.compile(r"url\(\s*#[\w.-]+\s*\)")
_LENGTH = re.compile(r"\s*([\d.]+)\s*(px|pt|mm|cm|in)?\s*")


def cleaned_logo(data: bytes) -> Logo:
    """The sanitised logo of a file. Raises Invalid where it is neither PNG nor SVG, is damaged, or is too large."""
    if len(data) > BYTES_MAX:
        raise _refused("The logo is larger than 2 MB.", "Save it smaller.")
    if data.startswith(b"\x89PNG\r\n\x1a\n"):
        return Logo("png", _drawn_anew(data))
    start = data[:1_000].lstrip(b"\xef\xbb\xbf \t\r\n")
    if start.startswith(b"<"):
        return Logo("svg", _only_shapes(data))
    raise _refused("The logo is neither PNG nor SVG.", "Save it as one of them.")


def _refused(message: str, remedy: str) -> Invalid:
    return Invalid(message, remedy, "logo")


def _drawn_anew(data: bytes) -> bytes:
    try:
        with Image.open(BytesIO(data), formats=["PNG"]) as picture:
            # The format found by the picture library, whatever the name says: nothing is decoded yet.
            if math.prod(picture.size) > PIXELS_MAX:
                raise _refused("The logo has too many pixels.", f"Make it {SIDE_MAX} pixels wide or less.")
            drawn = picture.convert("RGBA")
    except (OSError, SyntaxError, ValueError, Image.DecompressionBombError):
        raise _refused("The PNG cannot be read.", "Save it again.") from None
    drawn.thumbnail((SIDE_MAX, SIDE_MAX))
    out = BytesIO()
    drawn.save(out, "PNG", optimize=True)
    return out.getvalue()


def _only_shapes(data: bytes) -> bytes:
    try:
        root = Defused.fromstring(data, forbid_dtd=False, forbid_entities=True, forbid_external=True)
    except (DefusedXmlException, ElementTree.ParseError, ValueError, LookupError):
        raise _refused("The SVG cannot be read.", "Save it again as plain SVG.") from None
    if root.tag != f"{_SVG}svg":
        raise _refused("The file is not an SVG.", "Save the logo as SVG or PNG.")
    stored = sum(1 for _ in root.iter())
    if stored > ELEMENTS_MAX:
        raise _refused(f"The SVG has {stored:,} parts; {ELEMENTS_MAX:,} are read.", "Simplify it, or save it as PNG.")
    _refuse_nested_clips(root)
    made = _kept(root, 0)
    if not any(one.tag.removeprefix(_SVG) not in ("svg", "g", "defs", "title", "desc") for one in made.iter()):
        raise _refused("The SVG has no usable shapes.", "Save it as plain SVG, with its texts as paths, or as PNG.")
    _sized(made)
    ElementTree.register_namespace("", _SVG.strip("{}"))
    return bytes(ElementTree.tostring(made, encoding="utf-8"))


def _refuse_nested_clips(root: ElementTree.Element) -> None:
    """A clip path that is itself clipped doubles the drawing time at each level."""
    for clip in root.iter(f"{_SVG}clipPath"):
        for one in clip.iter():
            if "clip-path" in one.attrib or "clip-path" in one.attrib.get("style", ""):
                raise _refused("A clip path of the SVG is clipped itself.", "Save it as plain SVG without clips, or as PNG.")


def _kept(element: ElementTree.Element, depth: int) -> ElementTree.Element:
    result = {name: value for name, value in element.attrib.items() if _harmless(name, value)}
    # Styles written by editors become attributes.
    for piece in element.attrib.get("style", "").split(";"):
        name, _, value = (part.strip() for part in piece.partition(":"))
        if _harmless(name, value):
            result[name] = value
    made = ElementTree.Element(element.tag, result)
    made.text, made.tail = element.text, element.tail
    if depth < 30:
        made.extend(
            _kept(child, depth + 1)
            for child in element
            if isinstance(child.tag, str) and child.tag.startswith(_SVG) and child.tag.removeprefix(_SVG) in _ELEMENTS
        )
    return made


def _harmless(name: str, value: str) -> bool:
    if name not in _ATTRIBUTES or len(value) > 200_000:
        return False
    return "url" not in value.lower() or _INNER_REFERENCE.fullmatch(value.strip()) is not None


def _sized(root: ElementTree.Element) -> None:
    """A drawing without a view box gets one from its width and height; otherwise it could not be scaled."""
    if "viewBox" in root.attrib:
        return
    found = [_LENGTH.fullmatch(root.attrib.get(name, "")) for name in ("width", "height")]
    if found[0] is None or found[1] is None:
        raise _refused("The SVG does not say how large it is.", "Save it with a viewBox, or as PNG.")
    root.set("viewBox", f"0 0 {found[0][1]} {found[1][1]}")
