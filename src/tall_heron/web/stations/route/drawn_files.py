"""A page of a PDF, a DXF or an SVG as pixels to lie under a view: read by well-known packages,
within bounds that no honest drawing meets.
"""

import io
import math
import threading
from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from PIL import Image  # loaded by who sends a drawing

MOST_PX = 2400  # the longer side of a picture that is kept
MOST_STROKES, MOST_POINTS = 60_000, 600_000
MOST_SVG, MOST_DXF = 2_000_000, 8_000_000  # bytes
TRUE_MM = (200.0, 60_000.0)  # what a vehicle drawn at its own size is between
STEPS = 12  # points that a curve is drawn with
PEN_PX = 6  # so that it is still seen when the whole picture is as wide as a view
Stroke = list[tuple[float, float]]
ONE_AT_A_TIME = threading.Lock()  # pdfium bears no two at once


class Unread(ValueError):
    """A drawing that is not taken, and why."""


def pixels(data: bytes, page: int = 1) -> tuple["Image.Image", float | None]:
    """A PDF's page, a DXF or an SVG as a picture, and how many millimeters a pixel of it is where
    the drawing itself says: a DXF with units. Raises Unread.
    """
    if data.startswith(b"%PDF-"):
        return _pdf(data, page), None
    head = data[:4096].lstrip(b"\xef\xbb\xbf \r\n\t").lower()
    if head.startswith((b"<?xml", b"<svg", b"<!--")) and b"<svg" in data[:65536].lower():
        return _drawn(_svg(_within(data, MOST_SVG)))[0], None
    if head.startswith(b"0") and b"section" in head:
        return _dxf(_within(data, MOST_DXF))
    raise Unread("A picture is wanted here: PNG, JPEG or WebP, a PDF, a DXF as text or an SVG.")


def _within(data: bytes, most: int) -> bytes:
    if len(data) > most:
        raise Unread(
            f"The drawing has {len(data) / 1e6:.1f} MB; up to {most / 1e6:.0f} MB are taken. Leave in it only the outline and what you want to see."
        )
    return data


def _pdf(data: bytes, page: int) -> "Image.Image":
    import pypdfium2  # megabytes that only who sends a PDF needs

    with ONE_AT_A_TIME:
        try:
            document = pypdfium2.PdfDocument(data)
        except pypdfium2.PdfiumError:
            raise Unread(
                "That PDF cannot be read: it is broken, or locked by a password."
            ) from None
        try:
            if not 1 <= page <= len(document):
                raise Unread(
                    f"That PDF has {len(document)} {'page' if len(document) == 1 else 'pages'}; there is no page {page}."
                )
            sheet = document[page - 1]
            wide, high = sheet.get_size()
            image: Image.Image = (
                sheet.render(scale=MOST_PX / max(wide, high, 1.0)).to_pil().convert("RGB")
            )
            sheet.close()
            return image
        finally:
            document.close()


def _dxf(data: bytes) -> tuple["Image.Image", float | None]:
    from ezdxf.disassemble import recursive_decompose, to_primitives
    from ezdxf.enums import InsertUnits
    from ezdxf.filemanagement import read
    from ezdxf.lldxf.const import DXFError
    from ezdxf.units import conversion_factor

    try:
        document = read(io.StringIO(data.decode("utf-8", "replace").replace("\r\n", "\n")))
        kinds = {"LINE", "LWPOLYLINE", "POLYLINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE"}
        strokes = []
        for made in _few(to_primitives(recursive_decompose(document.modelspace()))):
            if made.entity.dxftype() in kinds and made.path is not None:
                across = math.dist(*_corners([(v.x, v.y) for v in made.path.control_vertices()]))
                strokes.append([(v.x, v.y) for v in made.path.flattening(max(across / 400, 1e-6))])
    except (
        DXFError,
        ValueError,
        KeyError,
        IndexError,
        TypeError,
        AttributeError,
        RecursionError,
        OverflowError,
    ):
        raise Unread("That DXF cannot be read; save it as DXF of R2010 or so, as text.") from None
    mm = (
        conversion_factor(InsertUnits(document.units), InsertUnits.Millimeters)
        if document.units
        else None
    )
    image, per_px = _drawn(strokes)
    true = per_px * mm if mm else None
    return image, true if true is not None and TRUE_MM[0] <= true * max(image.size) <= TRUE_MM[
        1
    ] else None


def _svg(data: bytes) -> list[Stroke]:
    from svgelements import SVG, Close, Line, Move, Path, Shape

    low = data.lower()
    for word in (b"<!doctype", b"<!entity", b"<use", b"<symbol"):
        if word in low:
            raise Unread(
                f"That SVG has {word.decode()}> in it, which is not read here; save it as plain SVG, its copies made into outlines."
            )
    strokes = list[Stroke]()
    try:
        for shape in _few(
            x for x in SVG.parse(io.BytesIO(data)).elements() if isinstance(x, Shape)
        ):
            stroke: Stroke = []
            for piece in Path(shape).segments():
                if isinstance(piece, Move):
                    strokes.append(stroke)
                    stroke = []
                steps = (
                    (1.0,)
                    if isinstance(piece, Move | Line | Close)
                    else tuple((k + 1) / STEPS for k in range(STEPS))
                )
                stroke += [
                    (float(p.x), -float(p.y))
                    for p in (piece.point(t) for t in steps)
                    if p is not None
                ]
            strokes.append(stroke)
    except (
        SyntaxError,
        ValueError,
        TypeError,
        KeyError,
        AttributeError,
        IndexError,
        ZeroDivisionError,
        RecursionError,
        OverflowError,
    ):
        raise Unread("That SVG cannot be read; save it as plain SVG.") from None
    return [s for s in strokes if len(s) > 1]


def _few(found: Iterable[Any]) -> Iterator[Any]:
    for count, x in enumerate(found):
        if count > MOST_STROKES:
            raise Unread(
                "That drawing has too many lines; leave in it only the outline and what you want to see."
            )
        yield x


def _corners(
    points: Iterable[tuple[float, float]],
) -> tuple[tuple[float, float], tuple[float, float]]:
    xs, ys = zip(*points, strict=True)
    return (min(xs), min(ys)), (max(xs), max(ys))


def _drawn(strokes: list[Stroke]) -> tuple["Image.Image", float]:
    """Strokes with y upward as black lines on white, and how much of their own measure a pixel is."""
    points = [p for s in strokes for p in s]
    if (
        not points
        or len(points) > MOST_POINTS
        or not all(math.isfinite(v) for p in points for v in p)
    ):
        raise Unread(
            "No line was found in that drawing."
            if not points
            else "That drawing is too large to be shown."
        )
    (left, low), (right, high) = _corners(points)
    largest = max(right - left, high - low)
    if largest <= 0:
        raise Unread("No line was found in that drawing.")
    from PIL import Image, ImageDraw

    per_px = largest / MOST_PX
    size = (max(math.ceil((right - left) / per_px), 8), max(math.ceil((high - low) / per_px), 8))
    image = Image.new("RGB", size, "white")
    pen = ImageDraw.Draw(image)
    for s in strokes:
        pen.line(
            [((x - left) / per_px, (high - y) / per_px) for x, y in s], fill="black", width=PEN_PX
        )
    return image, per_px
