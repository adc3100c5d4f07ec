"""Runs that were brought in: accelerations as a file held them. They belong to no build; one that
is taken away stays in the store.
"""

import sqlite3

from tall_heron.store.db import now, transaction


def every(connection: sqlite3.Connection) -> list[sqlite3.Row]:
    """The id and name of each, the newest first."""
    return connection.execute(
        "SELECT id, name FROM run WHERE gone_at IS NULL ORDER BY id DESC"
    ).fetchall()


def find(connection: sqlite3.Connection, run_id: int) -> sqlite3.Row | None:
    """One run with its text; None where there is none."""
    row: sqlite3.Row | None = connection.execute(
        "SELECT id, name, text FROM run WHERE id = ? AND gone_at IS NULL", (run_id,)
    ).fetchone()
    return row


def add(connection: sqlite3.Connection, name: str, text: str) -> int:
    """Store a run under its name, or a numbered one where that is taken; returns its id."""
    with transaction(connection):
        taken = {row["name"] for row in connection.execute("SELECT name FROM run")}
        free = next(
            n for n in (name, *(f"{name} {i}" for i in range(2, len(taken) + 3))) if n not in taken
        )
        done = connection.execute(
            "INSERT INTO run (name, text, at) VALUES (?, ?, ?)", (free, text, now())
        )
    return int(done.lastrowid or 0)


def take_off(connection: sqlite3.Connection, run_id: int) -> bool:
    """Take a run away; False where there is none of that id."""
    with transaction(connection):
        done = connection.execute(
            "UPDATE run SET gone_at = ? WHERE id = ? AND gone_at IS NULL", (now(), run_id)
        )
    return done.rowcount == 1
