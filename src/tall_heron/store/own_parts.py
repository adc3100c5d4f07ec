"""The builder's own parts: what no shelf sells, or what is on hand. Builds keep copies, so a part
taken off the shelf changes no build.
"""

import sqlite3

from tall_heron.store.db import now, transaction


def every(connection: sqlite3.Connection) -> list[sqlite3.Row]:
    """Every own part on the shelf, the newest first."""
    return connection.execute(
        "SELECT id, name, document, at FROM own_part WHERE gone_at IS NULL ORDER BY id DESC"
    ).fetchall()


def add(connection: sqlite3.Connection, stem: str, document: str) -> str:
    """Store a part under a name made from a stem; returns the name."""
    with transaction(connection):
        taken = {row["name"] for row in connection.execute("SELECT name FROM own_part")}
        name = next(
            n for n in (stem, *(f"{stem}-{i}" for i in range(2, len(taken) + 3))) if n not in taken
        )
        connection.execute(
            "INSERT INTO own_part (name, document, at) VALUES (?, ?, ?)", (name, document, now())
        )
    return name


def merge(connection: sqlite3.Connection, parts: list[tuple[str, str]]) -> None:
    """Store parts under their names, all or none; one of a name that is there takes its place, and
    one that was taken off is on the shelf again.
    """
    with transaction(connection):
        connection.executemany(
            "INSERT INTO own_part (name, document, at) VALUES (?, ?, ?) ON CONFLICT (name) DO UPDATE SET document = excluded.document, at = excluded.at, gone_at = NULL",
            [(name, document, now()) for name, document in parts],
        )


def take_off(connection: sqlite3.Connection, name: str) -> bool:
    """Take a part off the shelf; False where there is none of that name."""
    with transaction(connection):
        done = connection.execute(
            "UPDATE own_part SET gone_at = ? WHERE name = ? AND gone_at IS NULL", (now(), name)
        )
    return done.rowcount == 1
