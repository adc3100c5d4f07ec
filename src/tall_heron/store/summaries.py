"""What a document comes to in a few lines, kept by its hash, so that a page which lists builds
solves none of them twice. `edition` names the rules and figures it was made with: of another
edition it counts as not there.
"""

import sqlite3
from collections.abc import Iterable

from tall_heron.store.db import transaction


def find(connection: sqlite3.Connection, edition: str, hashes: Iterable[str]) -> dict[str, str]:
    """The summaries that are there, by hash."""
    wanted = list(hashes)
    marks = ", ".join("?" * len(wanted))
    rows = connection.execute(
        f"SELECT sha256, data FROM summary WHERE edition = ? AND sha256 IN ({marks})",
        (edition, *wanted),
    )
    return {row["sha256"]: row["data"] for row in rows}


def newest(connection: sqlite3.Connection, edition: str, build: int) -> str | None:
    """The summary of the newest revision of a build that has one."""
    row = connection.execute(
        """SELECT s.data AS data FROM revision r JOIN summary s ON s.sha256 = r.sha256
        WHERE r.build = ? AND s.edition = ? ORDER BY r.id DESC LIMIT 1""",
        (build, edition),
    ).fetchone()
    return None if row is None else str(row["data"])


def put(connection: sqlite3.Connection, edition: str, rows: Iterable[tuple[str, str, str]]) -> bool:
    """Keep summaries: hash, worst level, data. False where there is no room for them, or the file is
    read only: they are worked out again the next time.
    """
    try:
        with transaction(connection):
            connection.executemany(
                "INSERT OR REPLACE INTO summary (sha256, edition, worst, data) VALUES (?, ?, ?, ?)",
                [(s, edition, w, d) for s, w, d in rows],
            )
    except sqlite3.OperationalError:
        return False
    return True


def levels(connection: sqlite3.Connection, edition: str) -> dict[str, int]:
    """How many builds stand at each worst level at their head, those put away left out; under
    `None` those not looked at yet.
    """
    rows = connection.execute(
        """SELECT s.worst AS worst, count(*) AS n FROM build b
        JOIN revision r INDEXED BY revision_hash ON r.id = b.head
        LEFT JOIN summary s ON s.sha256 = r.sha256 AND s.edition = ?
        WHERE b.archived = 0 GROUP BY s.worst""",
        (edition,),
    )
    return {str(row["worst"]): row["n"] for row in rows}
