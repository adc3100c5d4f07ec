"""Builds and their revisions. Each change is a new revision; a build's head says which one holds."""

import re
import sqlite3

from tall_heron.store.db import digest, now, transaction

_HEAD = """SELECT b.id, b.slug, b.head, b.forked_from, r.parent, r.act, r.fresh, r.at, r.document, r.sha256,
  (SELECT c.id FROM revision c WHERE c.parent = b.head ORDER BY c.id DESC LIMIT 1) AS next,
  (SELECT c.act FROM revision c WHERE c.parent = b.head ORDER BY c.id DESC LIMIT 1) AS next_act
  FROM build b JOIN revision r ON r.id = b.head"""


class ChangedElsewhere(Exception):
    """The head is not the revision that the change was made on."""


class Signed(Exception):
    """The build is signed: it forks, and never changes."""


class Altered(Exception):
    """A document that is not what was stored: its hash has another value."""


ALTERED = "its document was changed outside Tall Heron, or the disk has lost a bit of it"


def document_of(row: sqlite3.Row) -> str:
    """The document of a row as it was stored. Raises Altered."""
    if not _sound(row):
        raise Altered(f"{ALTERED}: step back in its History, or take it from a backup")
    return str(row["document"])


def _sound(row: sqlite3.Row) -> bool:
    return digest(row["document"]) == row["sha256"]


def every(connection: sqlite3.Connection) -> list[sqlite3.Row]:
    """Every build at its head, the oldest first."""
    return connection.execute(f"{_HEAD} ORDER BY b.id").fetchall()


# A document that has lost a bit may be no JSON: it has no name then, and hurts no other.
_NAME = "CASE WHEN json_valid(r.document) THEN json_extract(r.document, '$.name') END"
_TITLE = "CASE WHEN json_valid(r.document) THEN json_extract(r.document, '$.brief.title') END"
ORDERS = {  # how the bench may be sorted
    "started": "b.id",
    "newest": "b.id DESC",
    "changed": "r.at DESC, b.id DESC",
    "name": f"lower({_NAME}), b.id",
    "worst": "CASE s.worst WHEN 'Stop' THEN 0 WHEN 'Check' THEN 1 WHEN '' THEN 3 ELSE 2 END, b.id",
}
_ASKED = f"""b.archived = :archived AND (:words = ''
    OR instr(lower(coalesce({_NAME}, '')), lower(:words)) > 0
    OR instr(lower(coalesce({_TITLE}, '')), lower(:words)) > 0)"""
_HEADS = "FROM build b JOIN revision r INDEXED BY revision_hash ON r.id = b.head"
_WORST = f"{_HEADS} LEFT JOIN summary s ON s.sha256 = r.sha256 AND s.edition = :edition"


def page(
    connection: sqlite3.Connection,
    first: int,
    most: int,
    words: str = "",
    order: str = "started",
    archived: bool = False,
    edition: str = "",
) -> list[sqlite3.Row]:
    """Builds at their heads without their documents, from `first` on: those whose name or title
    holds some `words`, in an order of ORDERS (the worst first by summaries of an `edition`), put
    away or not.
    """
    asked = {
        "archived": archived,
        "words": words,
        "edition": edition,
        "most": most,
        "first": first,
    }
    listed = connection.execute(
        f"SELECT b.id {_WORST if order == 'worst' else _HEADS} WHERE {_ASKED} ORDER BY {ORDERS[order]} LIMIT :most OFFSET :first",
        asked,
    ).fetchall()
    question = f"SELECT b.id, b.slug, b.head, r.at, r.sha256, {_NAME} AS name, {_TITLE} AS title {_HEADS} WHERE b.id = ?"
    return [connection.execute(question, (row["id"],)).fetchone() for row in listed]


def count(connection: sqlite3.Connection, words: str = "", archived: bool = False) -> int:
    """How many builds `page` would list."""
    return int(
        connection.execute(
            f"SELECT count(*) {_HEADS if words else 'FROM build b'} WHERE {_ASKED if words else 'b.archived = :archived'}",
            {"archived": archived, "words": words},
        ).fetchone()[0]
    )


def archive(connection: sqlite3.Connection, slug: str, away: bool) -> None:
    """Put a build away, or fetch it back."""
    with transaction(connection):
        connection.execute("UPDATE build SET archived = ? WHERE slug = ?", (away, slug.lower()))


def number(connection: sqlite3.Connection) -> int:
    """How many builds there are, those put away with them."""
    return int(connection.execute("SELECT count(*) FROM build").fetchone()[0])


def find(connection: sqlite3.Connection, slug: str) -> sqlite3.Row | None:
    """A build at its head, or None."""
    row: sqlite3.Row | None = connection.execute(
        f"{_HEAD} WHERE b.slug = ?", (slug.lower(),)
    ).fetchone()
    return row


def holding(connection: sqlite3.Connection, text: str) -> list[sqlite3.Row]:
    """Slug, name, head, document and hash of every build whose document holds a text, and whether
    it is signed, the oldest first.
    """
    return connection.execute(
        f"SELECT b.slug, b.head, {_NAME} AS name, r.document, r.sha256, EXISTS(SELECT 1 FROM entry e WHERE e.build = b.id AND e.kind = 'sign-off') AS signed"
        " FROM build b JOIN revision r ON r.id = b.head WHERE instr(r.document, ?) > 0 ORDER BY b.id",
        (text,),
    ).fetchall()


def head(connection: sqlite3.Connection, slug: str) -> sqlite3.Row | None:
    """The number of a build's head and the act that made it, without its document; None where there
    is no such build.
    """
    row: sqlite3.Row | None = connection.execute(
        "SELECT b.head, r.act FROM build b JOIN revision r ON r.id = b.head WHERE b.slug = ?",
        (slug.lower(),),
    ).fetchone()
    return row


def create(
    connection: sqlite3.Connection,
    name: str,
    document: str,
    act: str,
    forked_from: int | None = None,
    then: tuple[str, str] | None = None,
) -> str:
    """Store a first revision under a new slug made from the name, and at once the act `then` with
    its document on top of it, which leaves it fresh: all it has came from its line; returns the
    slug.
    """
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40] or "build"
    with transaction(connection):
        taken = {
            row["slug"]
            for row in connection.execute("SELECT slug FROM build WHERE slug LIKE ?", (base + "%",))
        }
        slug = next(
            s for s in (base, *(f"{base}-{i}" for i in range(2, len(taken) + 3))) if s not in taken
        )
        build = connection.execute(
            "INSERT INTO build (slug, made_at, forked_from) VALUES (?, ?, ?)",
            (slug, now(), forked_from),
        ).lastrowid
        revision = _insert(connection, build, None, act, document)
        if then is not None:
            revision = _insert(connection, build, revision, *then, fresh=True)
        connection.execute("UPDATE build SET head = ? WHERE id = ?", (revision, build))
    return slug


def revisions(
    connection: sqlite3.Connection, build: int, first: int = 0, most: int = -1
) -> list[sqlite3.Row]:
    """Revisions of a build, the newest first, without their documents: from `first` on, all or at
    `most` so many.
    """
    return connection.execute(
        "SELECT id, parent, act, at FROM revision WHERE build = ? ORDER BY id DESC LIMIT ? OFFSET ?",
        (build, most, first),
    ).fetchall()


def sound_revisions(connection: sqlite3.Connection, build: int) -> dict[int, bool]:
    """Of every revision of a build whether its document is what was stored."""
    rows = connection.execute("SELECT id, document, sha256 FROM revision WHERE build = ?", (build,))
    return {row["id"]: _sound(row) for row in rows}


def revision(connection: sqlite3.Connection, number: int) -> sqlite3.Row | None:
    """One revision with its document and its build's slug, or None."""
    row: sqlite3.Row | None = connection.execute(
        "SELECT r.id, r.build, r.act, r.at, r.document, r.sha256, b.slug FROM revision r JOIN build b ON b.id = r.build WHERE r.id = ?",
        (number,),
    ).fetchone()
    return row


def save(
    connection: sqlite3.Connection,
    build: int,
    on: int,
    act: str,
    document: str,
    fresh: bool = False,
) -> int:
    """Store a revision made on revision `on` and move the head to it; `fresh` where all that the
    build has still came from its line. Raises ChangedElsewhere where the head has moved, Signed
    where the build is; then nothing is stored.
    """
    with transaction(connection):
        _unsigned(connection, build)
        revision = _insert(connection, build, on, act, document, fresh)
        _move(connection, build, on, revision)
    return revision


def undo(connection: sqlite3.Connection, build: int, on: int) -> None:
    """Move the head to its parent. Raises ChangedElsewhere, Signed; LookupError where there is
    none.
    """
    _step(connection, build, on, "SELECT parent AS there FROM revision WHERE id = ?")


def redo(connection: sqlite3.Connection, build: int, on: int) -> None:
    """Move the head to its newest child. Raises ChangedElsewhere, Signed; LookupError where there
    is none.
    """
    _step(connection, build, on, "SELECT max(id) AS there FROM revision WHERE parent = ?")


def _step(connection: sqlite3.Connection, build: int, on: int, question: str) -> None:
    with transaction(connection):
        _unsigned(connection, build)
        row = connection.execute(question, (on,)).fetchone()
        if row is None or row["there"] is None:
            raise LookupError("there is nothing further that way")
        _move(connection, build, on, row["there"])


def _unsigned(connection: sqlite3.Connection, build: int | None) -> None:
    row = connection.execute(
        "SELECT at FROM entry WHERE build = ? AND kind = 'sign-off' ORDER BY number LIMIT 1",
        (build,),
    ).fetchone()
    if row is not None:
        raise Signed(
            f"This build was signed on {row['at'][:10]} and stays as it is. Make a variant of it in its History, and change that."
        )


def _insert(
    connection: sqlite3.Connection,
    build: int | None,
    parent: int | None,
    act: str,
    document: str,
    fresh: bool = False,
) -> int:
    row = connection.execute(
        "INSERT INTO revision (build, parent, act, at, document, sha256, fresh) VALUES (?, ?, ?, ?, ?, ?, ?)",
        (build, parent, act, now(), document, digest(document), fresh),
    ).lastrowid
    assert row is not None
    return row


def _move(connection: sqlite3.Connection, build: int, on: int, to: int) -> None:
    moved = connection.execute(
        "UPDATE build SET head = ? WHERE id = ? AND head = ?", (to, build, on)
    )
    if moved.rowcount != 1:
        raise ChangedElsewhere
