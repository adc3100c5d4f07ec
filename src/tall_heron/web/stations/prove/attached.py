"""Files beside an entry: what they are is looked at, not believed; they are given back as nothing
but that.
"""

import io
import warnings

from flask import Response

MOST_BYTES = 12_000_000
MOST_PIXELS = 80_000_000
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


class NotTaken(ValueError):
    """A file that is not taken, and why."""


def media_of(data: bytes) -> str:
    """What a file is: a picture that can be read whole, a PDF, or plain text. Raises NotTaken."""
    if not data:
        raise NotTaken("The file is empty.")
    if len(data) > MOST_BYTES:
        raise NotTaken(
            f"The file has {len(data) / 1e6:.0f} MB; up to {MOST_BYTES / 1e6:.0f} MB are taken. Make the photograph smaller."
        )
    from PIL import Image, UnidentifiedImageError  # loaded by who sends a file

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=list(IMAGES)) as image:
                kind = image.format or ""
                if image.width * image.height > MOST_PIXELS:
                    raise NotTaken("The picture has too many pixels; make it smaller.")
                image.load()
        return IMAGES[kind]
    except NotTaken:
        raise
    except (UnidentifiedImageError, KeyError):
        pass
    except Exception as error:  # Pillow raises many kinds for a picture that is broken
        raise NotTaken("The picture is broken, or not the picture it says it is.") from error
    if data.startswith(b"%PDF-") and b"%%EOF" in data[-2048:]:
        return "application/pdf"
    if b"\0" not in data:
        try:
            data.decode("utf-8")
        except UnicodeDecodeError:
            pass
        else:
            return "text/plain"
    raise NotTaken(
        "Pictures (PNG, JPEG, WebP), PDF, and text such as CSV are taken; this is none of them."
    )


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
