"""Whether an application runs on a database: it holds a lock beside it for as long as it lives, on
any system, for SQLite keeps it.
"""

import sqlite3
from pathlib import Path

Lock = sqlite3.Connection


def hold(database: Path) -> Lock | None:
    """Hold the lock of a database until the connection is closed or the process ends; None where
    another holds it. Raises sqlite3.Error, OSError where it cannot be written.
    """
    database.parent.mkdir(parents=True, exist_ok=True)
    connection = sqlite3.connect(
        database.with_suffix(".lock"), isolation_level=None, timeout=0, check_same_thread=False
    )
    try:
        connection.execute("BEGIN EXCLUSIVE")
    except sqlite3.OperationalError as error:
        connection.close()
        if error.sqlite_errorcode == sqlite3.SQLITE_BUSY:
            return None
        raise
    return connection


def held(database: Path) -> bool:
    """Whether somebody holds it now."""
    mine = hold(database)
    if mine is not None:
        mine.close()
    return mine is None
