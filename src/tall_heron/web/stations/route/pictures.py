"""Pictures and drawings of the builder's own vehicle: looked at, made smaller, freed of where and
when they were taken, turned, and kept by their hash.
"""

import io
from typing import TYPE_CHECKING

from flask import g

from tall_heron.core.base.constants import INCH_MM
from tall_heron.store import logs
from tall_heron.web.files import database, keep_file
from tall_heron.web.forms.reading import Refused
from tall_heron.web.stations.prove import attached
from tall_heron.web.stations.route.drawn_files import MOST_PX, Unread, pixels

if TYPE_CHECKING:
    from PIL import Image  # loaded by who brings a picture

KEPT = ("image/jpeg", "image/png")
TURNS = ("mirror", "quarter")


def keep_picture(data: bytes, page: int = 1) -> str:
    """Keep a photograph, or a drawing as lines: a page of a PDF, a DXF, an SVG; returns its hash.
    Refused where it is none.
    """
    try:
        if len(data) > attached.MOST_BYTES or data.startswith(attached.BEGINNINGS) or not data:
            return _kept(attached.picture(data, MOST_PX)[0].convert("RGB"), None)
        return _kept(*pixels(data, page))
    except (attached.NotTaken, Unread) as wrong:
        raise Refused("ground", str(wrong)) from None


def _kept(image: "Image.Image", mm_per_px: float | None, lines: bool = False) -> str:
    """Keep a picture without what a camera wrote beside it: a photograph as JPEG, one that knows
    its scale, or `lines`, as PNG with its pixels to the inch.
    """
    image.thumbnail((MOST_PX, MOST_PX))
    out = io.BytesIO()
    if mm_per_px is None and not lines:
        image.save(out, "JPEG", quality=82)
        return keep_file(out.getvalue(), "image/jpeg", None, "ground")
    image.save(out, "PNG", **({"dpi": (INCH_MM / mm_per_px,) * 2} if mm_per_px is not None else {}))
    return keep_file(out.getvalue(), "image/png", None, "ground")


def kept_picture(sha256: str) -> tuple[int, int, float | None]:
    """The size of a kept picture [px], and how many millimeters a pixel of it is where it knows.
    Refused where there is none.
    """
    with _opened(sha256) as image:
        return image.width, image.height, _scale_of(image)


def turned_picture(sha256: str, how: str) -> str:
    """A kept picture seen from the other side, or turned a quarter to the right, kept by its own
    hash. Refused where there is none.
    """
    from PIL import ImageOps

    with _opened(sha256) as image:
        other = ImageOps.mirror(image) if how == "mirror" else image.rotate(-90, expand=True)
        return _kept(other, _scale_of(image), lines=image.format == "PNG")


def _opened(sha256: str) -> "Image.Image":
    found = picture_data(sha256)
    if found is None:
        raise Refused("ground", "That picture is no longer there; send it again.")
    from PIL import Image

    return Image.open(io.BytesIO(found[0]))


def _scale_of(image: "Image.Image") -> float | None:
    dots = image.info.get("dpi") if image.format == "PNG" else None
    return INCH_MM / dots[0] if dots else None


def picture_data(sha256: str) -> tuple[bytes, str] | None:
    """A kept picture and what it is; None where there is none of that hash."""
    row = (
        logs.file_row(g.connection, sha256)
        if len(sha256) == 64 and set(sha256) <= set("0123456789abcdef")
        else None
    )
    data = logs.file_data(database(), sha256) if row is not None and row["media"] in KEPT else None
    return (data, str(row["media"])) if data is not None and row is not None else None
