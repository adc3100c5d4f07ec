"""Files that somebody sends, kept beside the store as far as a build and the store may hold them."""

from pathlib import Path

from flask import current_app, g

from tall_heron.store import logs, room
from tall_heron.web.forms.reading import Refused


def database() -> Path:
    """Where the store is, beside which files are kept."""
    return Path(current_app.config["DATABASE"])


def keep_file(data: bytes, media: str, build: int | None, field: str) -> str:
    """Keep a file by its hash, of the log of a `build` or of none; what there is no room for is
    refused beside its field.
    """
    try:
        room.take(g.connection, build, len(data))
    except room.NoRoom as full:
        raise Refused(field, str(full), 413) from None
    return logs.keep_file(g.connection, database(), data, media)
