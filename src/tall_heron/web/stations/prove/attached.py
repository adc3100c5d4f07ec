"""Files beside an entry: what they are is looked at, not believed; they are given back as nothing
but that.
"""

import io
import threading
from typing import TYPE_CHECKING

from flask import Response

if TYPE_CHECKING:
    from PIL import Image  # loaded by who sends a picture

MOST_BYTES = 12_000_000
MOST_PX = 3000  # the longer side of a photograph that is kept
MOST_PIXELS = {
    "JPEG": 100_000_000,
    "PNG": 25_000_000,
    "WEBP": 25_000_000,
}  # a JPEG is read at the size it is kept
BEGINNINGS = (b"\xff\xd8", b"\x89PNG", b"RIFF")
ONE_AT_A_TIME = threading.Lock()  # a picture that is read takes up to a hundred megabytes
IMAGES = {"PNG": "image/png", "JPEG": "image/jpeg", "WEBP": "image/webp"}
SHOWN = tuple(IMAGES.values())
NARROW = "default-src 'none'; sandbox; frame-ancestors 'none'"
ENDINGS = {
    "image/png": ".png",
    "image/jpeg": ".jpg",
    "image/webp": ".webp",
    "application/pdf": ".pdf",
    "text/plain": ".txt",
}


BROKEN = "The picture is broken, or not the picture it says it is."


class NotTaken(ValueError):
    """A file that is not taken, and why."""


def taken(data: bytes) -> tuple[bytes, str]:
    """A file as it is kept, and what it is: a photograph as `picture` has it; a PDF or plain text
    as it came. Raises NotTaken.
    """
    _of_a_size(data)
    if data.startswith(BEGINNINGS):
        image, kind = picture(data, MOST_PX)
        out = io.BytesIO()
        try:
            image.save(out, kind, **({"quality": 88} if kind == "JPEG" else {}))
        except (OSError, ValueError) as error:  # colors that its own format cannot hold
            raise NotTaken(BROKEN) from error
        return out.getvalue(), IMAGES[kind]
    if data.startswith(b"%PDF-") and b"%%EOF" in data[-2048:]:
        return data, "application/pdf"
    if b"\0" not in data:
        try:
            data.decode("utf-8")
        except UnicodeDecodeError:
            pass
        else:
            return data, "text/plain"
    raise NotTaken(
        "Pictures (PNG, JPEG, WebP), PDF, and text such as CSV are taken; this is none of them."
    )


def _of_a_size(data: bytes) -> None:
    if not data:
        raise NotTaken("The file is empty.")
    if len(data) > MOST_BYTES:
        raise NotTaken(
            f"The file has {len(data) / 1e6:.0f} MB; up to {MOST_BYTES / 1e6:.0f} MB are taken. Make the photograph smaller."
        )


def picture(data: bytes, most_px: int) -> tuple["Image.Image", str]:
    """A photograph upright and no larger than `most_px`, without what the camera wrote of place and
    time, and its format; one is read at a time. Raises NotTaken.
    """
    from PIL import Image, ImageOps  # loaded by who sends a picture

    _of_a_size(data)
    try:
        with ONE_AT_A_TIME, Image.open(io.BytesIO(data), formats=list(IMAGES)) as image:
            kind = image.format or ""
            most = MOST_PIXELS[kind]
            if image.width * image.height > most:
                raise NotTaken(
                    f"The picture has {image.width * image.height / 1e6:.0f} million pixels; up to {most / 1e6:.0f} are taken. Make it smaller."
                )
            image.draft(None, (most_px, most_px))  # a JPEG is read no larger than it is kept
            upright = ImageOps.exif_transpose(image)
            upright.thumbnail((most_px, most_px))
            upright.info = {}  # neither Exif nor comments nor a profile
            return upright.convert("RGB") if kind == "JPEG" else upright, kind
    except NotTaken:
        raise
    except Exception as error:  # Pillow raises many kinds for a picture that is broken
        raise NotTaken(BROKEN) from error


def given_back(data: bytes, media: str, name: str) -> Response:
    """A file as what it is: pictures are shown, all else is saved and never run."""
    response = Response(data, mimetype=media if media in ENDINGS else "application/octet-stream")
    response.headers["Content-Security-Policy"] = NARROW
    response.headers["X-Content-Type-Options"] = "nosniff"
    plain = (
        "".join(
            c if c.isascii() and (c.isalnum() or c in "-_") else "_" for c in name.rsplit(".", 1)[0]
        )[:60]
        or "file"
    )
    how = "inline" if media in SHOWN else "attachment"
    response.headers["Content-Disposition"] = f"{how}; filename={plain}{ENDINGS.get(media, '.bin')}"
    return response
