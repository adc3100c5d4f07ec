"""Pictures of the builder's own vehicle: looked at, made smaller, freed of where and when they were taken, and kept by their hash."""

import io

from flask import g
from PIL import Image, ImageOps

from tall_heron.store import logs
from tall_heron.web.answers import Refused
from tall_heron.web.stations.prove import attached
from tall_heron.web.stations.prove.desk import database

MOST_PX = 2400  # the longer side of a picture that is kept


def keep_picture(data: bytes) -> str:
    """Keep a picture; returns its hash. Refused where it is none."""
    try:
        media = attached.media_of(data)
    except attached.NotTaken as wrong:
        raise Refused("ground", str(wrong)) from None
    if media not in attached.SHOWN:
        raise Refused("ground", "A picture is wanted here: PNG, JPEG or WebP. Of a PDF or a DXF, take a picture of the page.")
    with Image.open(io.BytesIO(data)) as image:
        upright = ImageOps.exif_transpose(image).convert("RGB")
    upright.thumbnail((MOST_PX, MOST_PX))
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=82)  # without what a camera wrote beside it
    return logs.keep_file(g.connection, database(), out.getvalue(), "image/jpeg")


def kept_picture(sha256: str) -> tuple[int, int]:
    """The size of a kept picture [px]. Refused where there is none."""
    data = picture_data(sha256)
    if data is None:
        raise Refused("ground", "That picture is no longer there; send it again.")
    with Image.open(io.BytesIO(data)) as image:
        return image.width, image.height


def picture_data(sha256: str) -> bytes | None:
    """A kept picture; None where there is none of that hash."""
    row = logs.file_row(g.connection, sha256) if len(sha256) == 64 and set(sha256) <= set("0123456789abcdef") else None
    return logs.file_data(database(), sha256) if row is not None and row["media"] == "image/jpeg" else None
