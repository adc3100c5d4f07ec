"""The logs of builds: entries that are only ever added, each with the hash of the one before; what
was signed; and files by their hash, kept beside the database.
"""

import hashlib
import os
import sqlite3
from collections.abc import Callable
from pathlib import Path

from tall_heron.store.db import (
    copy,
    digest,
    now,
    put_in_place,
    sync_names,
    transaction,
)


class Moved(Exception):
    """The build is not the one that was to be signed."""


def entries(connection: sqlite3.Connection, build: int) -> list[sqlite3.Row]:
    """Every entry of a build, the first first: number, when, text, the hash before and its own."""
    return connection.execute(
        "SELECT number, at, text, before, sha256 FROM entry WHERE build = ? ORDER BY number",
        (build,),
    ).fetchall()


def add(
    connection: sqlite3.Connection,
    build: int,
    kind: str,
    text: str,
    hashed: Callable[[str, int, str, str], str],
    at: str = "",
) -> int:
    """Add an entry; `hashed` makes its hash from that of the one before, its number, its time and
    its text. Returns its number.
    """
    with transaction(connection):
        return _add(connection, build, kind, text, hashed, at or now())


def sign(
    connection: sqlite3.Connection,
    build: int,
    head: int,
    make: Callable[[str], str],
    hashed: Callable[[str, int, str, str], str],
    frozen: tuple[str, ...],
    at: str = "",
) -> int:
    """Add a signature to a build at a head and keep what it freezes; `make` writes it from the hash
    of the last entry. Raises Moved where the head is another.
    """
    with transaction(connection):
        row = connection.execute("SELECT head FROM build WHERE id = ?", (build,)).fetchone()
        if row is None or row["head"] != head:
            raise Moved
        for text in frozen:
            connection.execute(
                "INSERT OR IGNORE INTO frozen (sha256, text) VALUES (?, ?)", (digest(text), text)
            )
        last = connection.execute(
            "SELECT sha256 FROM entry WHERE build = ? ORDER BY number DESC LIMIT 1", (build,)
        ).fetchone()
        return _add(
            connection, build, "sign-off", make(last["sha256"] if last else ""), hashed, at or now()
        )


def _add(
    connection: sqlite3.Connection,
    build: int,
    kind: str,
    text: str,
    hashed: Callable[[str, int, str, str], str],
    at: str,
) -> int:
    row = connection.execute(
        "SELECT number, sha256 FROM entry WHERE build = ? ORDER BY number DESC LIMIT 1", (build,)
    ).fetchone()
    number, before = (row["number"] + 1, row["sha256"]) if row else (1, "")
    connection.execute(
        "INSERT INTO entry (build, number, at, kind, text, before, sha256) VALUES (?, ?, ?, ?, ?, ?, ?)",
        (build, number, at, kind, text, before, hashed(before, number, at, text)),
    )
    return int(number)


def frozen(connection: sqlite3.Connection, sha256: str) -> str | None:
    """What was signed, by its hash; None where it is not there or is not what was signed."""
    row = connection.execute("SELECT text FROM frozen WHERE sha256 = ?", (sha256,)).fetchone()
    return row["text"] if row is not None and digest(row["text"]) == sha256 else None


def counts(connection: sqlite3.Connection) -> dict[int, tuple[int, str | None]]:
    """Of each build with a log: how many entries, and when it was signed."""
    rows = connection.execute(
        "SELECT build, count(*) AS n, min(CASE WHEN kind = 'sign-off' THEN at END) AS signed FROM entry GROUP BY build"
    )
    return {r["build"]: (r["n"], r["signed"]) for r in rows}


def folder(database: Path) -> Path:
    """Where files are kept: beside the database."""
    return database.with_suffix(".files")


def keep_file(connection: sqlite3.Connection, database: Path, data: bytes, media: str) -> str:
    """Keep a file by its hash; the same twice is kept once. Returns the hash."""
    sha256 = hashlib.sha256(data).hexdigest()
    place = _place(database, sha256)
    if file_data(database, sha256) is None:  # one that was cut short is written anew
        _put(place, data)
    with transaction(connection):
        connection.execute(
            "INSERT OR IGNORE INTO attachment (sha256, media, size, at) VALUES (?, ?, ?, ?)",
            (sha256, media, len(data), now()),
        )
    return sha256


def _put(place: Path, data: bytes) -> None:
    """A file in its place, whole or not at all, also where the power goes: it and the names that
    lead to it are on the disk before this returns.
    """
    made = [f for f in (place.parent.parent, place.parent) if not f.exists()]
    place.parent.mkdir(parents=True, exist_ok=True)
    half = place.with_suffix(f".{os.getpid()}-{os.urandom(4).hex()}")
    try:
        half.write_bytes(data)
        put_in_place(half, place)
    finally:
        half.unlink(missing_ok=True)
    for new in reversed(made):
        sync_names(new.parent)


def file_row(connection: sqlite3.Connection, sha256: str) -> sqlite3.Row | None:
    """What is known of a file: its media type and its size."""
    row: sqlite3.Row | None = connection.execute(
        "SELECT sha256, media, size FROM attachment WHERE sha256 = ?", (sha256,)
    ).fetchone()
    return row


def file_data(database: Path, sha256: str) -> bytes | None:
    """A file by its hash; None where it is gone or is not what was kept."""
    try:
        data = _place(database, sha256).read_bytes()
    except OSError:
        return None
    return data if hashlib.sha256(data).hexdigest() == sha256 else None


def missing(connection: sqlite3.Connection, database: Path) -> int:
    """How many files are named that are not there."""
    return sum(
        not _place(database, str(row["sha256"])).exists()
        for row in connection.execute("SELECT sha256 FROM attachment").fetchall()
    )


def copy_files(source: Path, target: Path) -> None:
    """The files beside one database put beside another; those that are there already stay."""
    for file in sorted(folder(source).glob("??/*")):
        place = folder(target) / file.parent.name / file.name
        if len(file.name) == 64 and not place.exists():
            _put(place, file.read_bytes())


def copy_whole(source: Path, target: Path) -> None:
    """A database copied with the files beside it, also of one in use. Raises db.Unusable,
    FileNotFoundError.
    """
    copy(source, target)
    copy_files(source, target)


def _place(database: Path, sha256: str) -> Path:
    if len(sha256) != 64 or not all(c in "0123456789abcdef" for c in sha256):
        raise ValueError("no hash")
    return folder(database) / sha256[:2] / sha256


def setting(connection: sqlite3.Connection, name: str) -> str | None:
    """Something that is remembered, by its name."""
    row = connection.execute("SELECT value FROM setting WHERE name = ?", (name,)).fetchone()
    return row["value"] if row is not None else None


def remember(connection: sqlite3.Connection, name: str, value: str) -> None:
    """Remember something under a name."""
    with transaction(connection):
        connection.execute(
            "INSERT INTO setting (name, value) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value",
            (name, value),
        )
