"""A walk over the whole store: what is sound, what is damaged, and what can be saved of it."""

import re
import sqlite3
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from tall_heron.store import builds, logs


@dataclass(frozen=True)
class Damaged:
    """A build whose head, or some older revisions, are not what was stored; `saved` is the newest
    sound revision with its act, None where there is none.
    """

    slug: str
    build: int
    head: int
    is_head: bool
    older: int
    saved: tuple[int, str] | None


@dataclass(frozen=True)
class StoreState:
    """What a walk found: how many builds, revisions and files there are, the builds that are
    damaged, the files that are gone or altered, and what SQLite says of its own pages.
    """

    builds: int
    revisions: int
    files: int
    damaged: tuple[Damaged, ...]
    lost_files: int
    pages: str

    @property
    def sound(self) -> bool:
        """Whether nothing is damaged."""
        return not self.damaged and not self.lost_files and self.pages == "ok"

    def words(self) -> list[str]:
        """What was found, a line each."""
        out = [
            f"{self.builds} builds with {self.revisions} revisions, {self.files} attached files: "
            + ("all sound." if self.sound else "not all sound.")
        ]
        if self.pages != "ok":
            out.append(f"The database file itself is damaged: {self.pages}. Take a backup.")
        for d in self.damaged:
            if not d.is_head:
                out.append(f"{d.slug}: sound as it stands; {d.older} older revisions are damaged.")
            elif d.saved is None:
                out.append(f"{d.slug}: damaged, and no older revision is sound. Take a backup.")
            else:
                out.append(
                    f"{d.slug}: damaged as it stands. Revision {d.saved[0]}, “{d.saved[1]}”, is sound: --mend takes it up."
                )
        if self.lost_files:
            out.append(f"{self.lost_files} attached files are gone or altered. Take a backup.")
        return out


def walk(connection: sqlite3.Connection, database: Path) -> StoreState:
    """Look at every page, every revision and every file."""
    pages = str(connection.execute("PRAGMA integrity_check").fetchone()[0])
    damaged, revisions = [], 0
    rows = connection.execute("SELECT id, slug, head FROM build ORDER BY id").fetchall()
    for row in rows:
        state = builds.sound_revisions(connection, row["id"])
        revisions += len(state)
        if not all(state.values()):
            sound = max((number for number, good in state.items() if good), default=None)
            saved = builds.revision(connection, sound) if sound is not None else None
            damaged.append(
                Damaged(
                    row["slug"],
                    row["id"],
                    row["head"],
                    not state.get(row["head"], False),
                    sum(not good for number, good in state.items() if number != row["head"]),
                    (saved["id"], saved["act"]) if saved is not None else None,
                )
            )
    files = [r["sha256"] for r in connection.execute("SELECT sha256 FROM attachment").fetchall()]
    lost = sum(logs.file_data(database, sha256) is None for sha256 in files)
    return StoreState(len(rows), revisions, len(files), tuple(damaged), lost, pages)


def mend(connection: sqlite3.Connection, state: StoreState) -> list[str]:
    """Take up the newest sound revision of each build whose head is damaged, as a new one; says
    what was done. A build that is signed stays as it is.
    """
    out = []
    for d in state.damaged:
        if not d.is_head or d.saved is None:
            continue
        old = builds.revision(connection, d.saved[0])
        assert old is not None
        act = f"Back to “{d.saved[1][:80]}”, the newest that is sound"
        try:
            builds.save(connection, d.build, d.head, act, builds.document_of(old))
        except (builds.Altered, builds.Signed, builds.ChangedElsewhere) as error:
            out.append(f"{d.slug}: not mended. {error}")
        else:
            out.append(f"{d.slug}: mended with revision {d.saved[0]}, “{d.saved[1]}”.")
    return out


def save(database: Path, folder: Path) -> list[str]:
    """Write each build of a database, of which parts may be unreadable, as a build file into a
    folder: as it stands, or its newest revision that can be read and is sound; says what was done.
    Nothing in the database is changed. Raises OSError where the folder cannot be written.
    """
    folder.mkdir(parents=True, exist_ok=True)
    with closing(sqlite3.connect(f"file:{database}?mode=ro", uri=True)) as connection:
        connection.row_factory = sqlite3.Row
        try:
            last = connection.execute("SELECT max(id) FROM revision").fetchone()[0] or 0
        except sqlite3.DatabaseError:
            return ["Nothing can be read any more, not even how many revisions there are."]
        newest, heads = dict[int, sqlite3.Row](), dict[int, int]()
        unread = 0
        for number in range(1, last + 1):  # one by one: a page that is lost takes its own along
            try:
                row = connection.execute(
                    "SELECT id, build, act, document, sha256 FROM revision WHERE id = ?", (number,)
                ).fetchone()
                if row is not None:
                    builds.document_of(row)
                    build = row["build"]
                    if build not in heads:
                        heads[build] = _of_build(connection, build, "head", 0)
                    if build not in newest or newest[build]["id"] != heads[build]:
                        newest[build] = row
            except (sqlite3.DatabaseError, builds.Altered, UnicodeDecodeError):
                unread += 1
        out = [f"{unread} of {last} revisions cannot be read, or are not what was stored."]
        for build, row in sorted(newest.items()):
            slug = str(_of_build(connection, build, "slug", ""))
            name = f"{slug if re.fullmatch('[a-z0-9-]{1,80}', slug) else f'build-{build}'}.json"
            (folder / name).write_text(builds.document_of(row), encoding="utf-8")
            out.append(f"{name}: revision {row['id']}, “{row['act']}”.")
        return out


def _of_build(connection: sqlite3.Connection, build: int, column: str, lost: Any) -> Any:
    """What stands of a build in a column; `lost` where that cannot be read."""
    try:
        row = connection.execute(f"SELECT {column} FROM build WHERE id = ?", (build,)).fetchone()
    except sqlite3.DatabaseError:
        return lost
    return lost if row is None else row[column]
