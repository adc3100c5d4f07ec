"""The builder's own suppliers, each with the stock list that was read in last."""

import sqlite3

from tall_heron.store.db import now, transaction


def every(connection: sqlite3.Connection) -> list[sqlite3.Row]:
    """Every supplier by name: what is known of him, and his list as it was read in."""
    return connection.execute(
        "SELECT name, document, listed, at FROM supplier ORDER BY name"
    ).fetchall()


def keep(connection: sqlite3.Connection, name: str, document: str) -> None:
    """Store what is known of a supplier; his list stays, and when it was read in."""
    with transaction(connection):
        connection.execute(
            "INSERT INTO supplier (name, document, at) VALUES (?, ?, ?) ON CONFLICT (name) DO UPDATE SET document = excluded.document",
            (name, document, now()),
        )


def keep_list(connection: sqlite3.Connection, name: str, listed: str) -> bool:
    """Store a supplier's list; False where there is no such supplier."""
    with transaction(connection):
        done = connection.execute(
            "UPDATE supplier SET listed = ?, at = ? WHERE name = ?", (listed, now(), name)
        )
    return done.rowcount == 1


def take_off(connection: sqlite3.Connection, name: str) -> bool:
    """Forget a supplier; False where there is none of that name."""
    with transaction(connection):
        done = connection.execute("DELETE FROM supplier WHERE name = ?", (name,))
    return done.rowcount == 1
