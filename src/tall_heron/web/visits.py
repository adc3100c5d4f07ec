"""Who came and what was changed from beyond this machine: a line each in `visits.log` beside the
database, for its owner's eyes only. No pass-phrase, nothing typed and no figure stands there.
"""

import logging
import os
from logging.handlers import RotatingFileHandler
from pathlib import Path

from flask import Flask, Response, current_app, request

FILE = "visits.log"
MOST_BYTES, FILES = 1_000_000, 5


class _Private(RotatingFileHandler):
    """A log that only its owner reads."""

    def _open(self):  # type: ignore[no-untyped-def]
        os.close(os.open(self.baseFilename, os.O_CREAT | os.O_WRONLY, 0o600))
        return super()._open()


def follow(app: Flask, folder: Path) -> None:
    """Write down from now on; raises OSError where the folder cannot be written."""
    folder.mkdir(parents=True, exist_ok=True)
    log = logging.getLogger(f"tall_heron.visits.{folder}")
    for before in log.handlers[:]:
        before.close()
        log.removeHandler(before)
    written = _Private(
        folder / FILE, maxBytes=MOST_BYTES, backupCount=FILES, encoding="utf-8", delay=True
    )
    written.setFormatter(logging.Formatter("%(asctime)s %(message)s", "%Y-%m-%dT%H:%M:%S%z"))
    log.addHandler(written)
    log.propagate = False
    log.setLevel(logging.INFO)
    app.extensions["visits"] = log
    app.after_request(_changes)


def note(what: str) -> None:
    """A line about this request."""
    log = current_app.extensions.get("visits")
    if log is not None:
        log.info("%s %s", request.remote_addr or "-", what)


def _changes(response: Response) -> Response:
    if request.method not in ("GET", "HEAD", "OPTIONS") and request.endpoint != "door.enter":
        path = "".join(c if c.isprintable() and c != " " else "?" for c in request.path[:200])
        note(f"{request.method} {path} {response.status_code}")
    return response
