"""Opening the database: pragmas, numbered migrations, transactions."""

import hashlib
import os
import shutil
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import closing, contextmanager
from datetime import UTC, datetime
from pathlib import Path

LEAST_ROOM = 65_536  # bytes: the index of the log takes half of it
MIGRATIONS = Path(__file__).parent / "migrations"


Fault = sqlite3.Error  # what the database itself says when it cannot go on


class Unusable(Exception):
    """A database that cannot be used as it is, in words with what to do. Nothing was changed in it."""


def now() -> str:
    """The moment, as it is stored: UTC, whole seconds."""
    return datetime.now(UTC).isoformat(timespec="seconds")


def digest(text: str) -> str:
    """The hash by which a text is known."""
    return hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()


def sync_names(folder: Path) -> None:
    """The names in a folder put on the disk: a file that was put in its place is there after a
    power cut only then. Windows has no such call, and needs none.
    """
    if os.name == "posix":
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def put_in_place(half: Path, target: Path) -> None:
    """A file that is complete under another name put in its place, on the disk before this returns."""
    with half.open("rb+") as file:
        os.fsync(file.fileno())
    half.replace(target)
    sync_names(target.parent)


def write_private(target: Path, text: str) -> None:
    """A text in a file that only its owner reads, whole or not at all."""
    target.parent.mkdir(parents=True, exist_ok=True)
    half = target.with_name(target.name + "-new")
    half.touch(mode=0o600)
    half.write_text(text, encoding="ascii")
    put_in_place(half, target)


def connect(path: Path) -> sqlite3.Connection:
    """A connection in WAL with full synchronisation, its schema brought up to date."""
    path.parent.mkdir(parents=True, exist_ok=True)
    connection = sqlite3.connect(path, timeout=10, isolation_level=None, check_same_thread=False)
    connection.row_factory = sqlite3.Row
    connection.text_factory = _text
    connection.execute("PRAGMA journal_mode = WAL")
    connection.execute("PRAGMA synchronous = FULL")
    connection.execute("PRAGMA foreign_keys = ON")
    return connection


def _text(data: bytes) -> str:
    """A text as it is stored; one in which the disk has lost a bit is read all the same, and its
    hash says so.
    """
    return data.decode("utf-8", "replace")


class Connections:
    """One connection a thread, kept open: the last one to close would write the log back and delete
    it, which takes as long as all else of an edit.
    """

    def __init__(self, path: Path) -> None:
        self.path, self.opened = path, 0
        self._here = threading.local()
        self._all: list[sqlite3.Connection] = []

    def here(self) -> sqlite3.Connection:
        """This thread's connection."""
        known: sqlite3.Connection | None = getattr(self._here, "connection", None)
        if known is None:
            known = self._here.connection = connect(self.path)
            self._all.append(known)
            self.opened += 1
        return known

    def close(self) -> None:
        """Close every thread's."""
        while self._all:
            self._all.pop().close()
        self._here = threading.local()


@contextmanager
def opened(path: Path) -> Iterator[sqlite3.Connection]:
    """A connection with the schema brought up to date, closed at the end."""
    try:
        connection = connect(path)
        migrate(connection)
    except (sqlite3.Error, OSError) as error:
        raise Unusable(what_to_do(path, error)) from error
    try:
        yield connection
    finally:
        connection.close()


def copy(source: Path, target: Path) -> None:
    """A whole and sound copy of a database, also of one in use; `target` stands only once it is
    complete. Raises Unusable, FileNotFoundError.
    """
    if not source.exists():
        raise FileNotFoundError(f"there is no {source}")
    target.parent.mkdir(parents=True, exist_ok=True)
    half = target.with_name(target.name + ".half")
    half.unlink(missing_ok=True)
    try:
        one, other = sqlite3.connect(f"file:{source}?mode=ro", uri=True), sqlite3.connect(half)
        with closing(one), closing(other):
            one.backup(other)
            other.execute("PRAGMA journal_mode = DELETE")
            wrong = other.execute("PRAGMA integrity_check").fetchone()[0]
            if wrong != "ok":
                raise sqlite3.DatabaseError(f"malformed: {wrong}")
            _known_form(other)
    except (sqlite3.Error, OSError) as error:
        half.unlink(missing_ok=True)
        raise Unusable(what_to_do(source, error)) from error
    except Unusable:
        half.unlink(missing_ok=True)
        raise
    put_in_place(half, target)


@contextmanager
def transaction(connection: sqlite3.Connection) -> Iterator[None]:
    """All of it or nothing: a write lock from the start, so that a check and the change it allows
    stay together.
    """
    connection.execute("BEGIN IMMEDIATE")
    try:
        yield
    except BaseException:
        connection.execute("ROLLBACK")
        raise
    connection.execute("COMMIT")


def migrate(connection: sqlite3.Connection) -> None:
    """Run each migration that the database has not had, each with its number in one transaction."""
    for file in _known_form(connection):
        number = int(file.name[:4])
        with transaction(connection):
            if connection.execute("PRAGMA user_version").fetchone()[0] >= number:
                continue
            for statement in _statements(file.read_text(encoding="utf-8")):
                connection.execute(statement)
            connection.execute(f"PRAGMA user_version = {number}")


def _known_form(connection: sqlite3.Connection) -> list[Path]:
    """The migrations there are, where they reach as far as the database. Raises Unusable for one of
    a newer version.
    """
    files = sorted(MIGRATIONS.glob("[0-9]*.sql"))
    has, knows = connection.execute("PRAGMA user_version").fetchone()[0], int(files[-1].name[:4])
    if has > knows:
        raise Unusable(
            f"The database was written by a newer Tall Heron: it has form {has}, and this one knows {knows}. Start the newer one, or name another folder with --data."
        )
    return files


def what_to_do(path: Path, error: Exception) -> str:
    """A fault of the disk or of the file in words."""
    said = str(error).lower()
    if "not a database" in said or "malformed" in said:
        return f"{path} is damaged, or is no database of Tall Heron's. Put a backup in its place, or name another folder with --data."
    if (
        "readonly" in said
        or "permission" in said
        or "unable to open" in said
        or "read-only" in said
    ):
        return f"{path} cannot be written. Give yourself the right to write in {path.parent}, or name another folder with --data."
    if "full" in said or "no space" in said or ("i/o" in said and _no_room(path.parent)):
        return f"There is no room left on the disk for {path}. Make some, and start again."
    if "file exists" in said or "not a directory" in said:
        return f"{path.parent} is no folder. Name another with --data."
    if "locked" in said:
        return f"{path} is held by another program. Close it, and start again."
    return f"{path}: {error}. Name another folder with --data, or put a backup in its place."


def _no_room(folder: Path) -> bool:
    """Whether a disk has not even the room that SQLite needs to begin; it says no more then than
    that input or output failed.
    """
    try:
        return shutil.disk_usage(folder).free < LEAST_ROOM
    except OSError:
        return False


def _statements(script: str) -> Iterator[str]:
    """The statements of a script, one at a time: executescript would end the transaction."""
    statement = ""
    for line in script.splitlines(keepends=True):
        statement += line
        if sqlite3.complete_statement(statement):
            yield statement
            statement = ""
    if statement.strip():
        raise ValueError(f"a migration ends in the middle of a statement: {statement.strip()[:60]}")
