"""A build with the pictures that lie under its views, as one ZIP: the build file, and each picture
by its hash. What is read is looked at before anything is kept.
"""

import hashlib
import io
import json
import sqlite3
import zipfile
from pathlib import Path

from tall_heron.store import logs

BUILD = "build.json"
ENDINGS = {"image/jpeg": ".jpg", "image/png": ".png"}
Pictures = list[tuple[bytes, str]]  # each with what it is
MOST_FILES, MOST_BYTES, MOST_PIXELS = 8, 30_000_000, 8_000_000


class NotABundle(ValueError):
    """A ZIP that is no build with its pictures, and why."""


def pictures_of(document: str) -> list[str]:
    """The hashes of the pictures that a build's document names."""
    grounds = json.loads(document).get("space", {}).get("grounds", {})
    return sorted({str(x["sha256"]) for x in grounds.values()})


def packed(document: str, connection: sqlite3.Connection, database: Path) -> bytes:
    """A build's document and its pictures as a ZIP, the same bytes for the same build; a picture
    that is gone is left out.
    """
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as box:
        box.writestr(zipfile.ZipInfo(BUILD), document)
        for sha256 in pictures_of(document):
            row, data = logs.file_row(connection, sha256), logs.file_data(database, sha256)
            if row is not None and data is not None and row["media"] in ENDINGS:
                box.writestr(zipfile.ZipInfo(f"pictures/{sha256}{ENDINGS[row['media']]}"), data)
    return out.getvalue()


def opened(data: bytes) -> tuple[bytes, Pictures]:
    """The build file of a ZIP, and its pictures with what they are; what is no ZIP is a build file
    itself. Raises NotABundle.
    """
    if data[:4] != b"PK\x03\x04":
        return data, []
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as box:
            files = [i for i in box.infolist() if not i.is_dir()]
            if len(files) > MOST_FILES or sum(i.file_size for i in files) > MOST_BYTES:
                raise NotABundle("a build with its pictures has few files and at most 30 MB")
            if BUILD not in box.namelist():
                raise NotABundle(f"there is no {BUILD} in it")
            return box.read(BUILD), [
                _picture(i.filename, box.read(i)) for i in files if i.filename != BUILD
            ]
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, OSError, EOFError) as error:
        raise NotABundle("the ZIP is broken or locked") from error


def keep(connection: sqlite3.Connection, database: Path, pictures: Pictures) -> None:
    """Keep the pictures of a bundle by their hashes."""
    for data, media in pictures:
        logs.keep_file(connection, database, data, media)


def _picture(name: str, data: bytes) -> tuple[bytes, str]:
    """A picture of a ZIP, which is named by its own hash."""
    if Path(name).stem != hashlib.sha256(data).hexdigest():
        raise NotABundle(f"{name[:80]} is not the picture that its name says")
    from PIL import Image  # loaded by who opens a bundle

    try:
        with Image.open(io.BytesIO(data), formats=["JPEG", "PNG"]) as image:
            if image.width * image.height > MOST_PIXELS:
                raise NotABundle(f"{name[:80]} has too many pixels")
            kind = image.get_format_mimetype() or ""
            image.load()
    except NotABundle:
        raise
    except Exception as error:  # Pillow raises many kinds for a picture that is broken
        raise NotABundle(f"{name[:80]} is no picture that can be read") from error
    return data, kind
