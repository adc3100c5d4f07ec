"""Whether an application runs on a database: it holds a lock beside it for as long as it lives, on
any system, for SQLite keeps it.
"""

import sqlite3
from pathlib import Path


def hold(database: Path) -> sqlite3.Connection | None:
    """Hold the lock of a database until the connection is closed or the process ends; None where
    another holds it.
    """
    database.parent.mkdir(parents=True, exist_ok=True)
    connection = sqlite3.connect(
        database.with_suffix(".lock"), isolation_level=None, timeout=0, check_same_thread=False
    )
    try:
        connection.execute("BEGIN EXCLUSIVE")
    except sqlite3.OperationalError:
        connection.close()
        return None
    return connection


def held(database: Path) -> bool:
    """Whether somebody holds it now."""
    mine = hold(database)
    if mine is not None:
        mine.close()
    return mine is None
