"""The store keeps every revision, whole, and says when it was overtaken."""

import hashlib
import sqlite3
import subprocess
import sys
from pathlib import Path

import pytest
from flask.testing import FlaskClient

from tall_heron.store import archive, builds, db

WRITER = """
import sys
from pathlib import Path
from tall_heron.store import archive, builds, db
with db.opened(Path(sys.argv[1])) as c:
    row = builds.find(c, "b")
    on = row["head"]
    for i in range(100000):
        on = builds.save(c, row["id"], on, f"act {i}", '{"n": %d, "fill": "%s"}' % (i, "x" * 2000))
        print(on, flush=True)
"""


@pytest.fixture
def connection(tmp_path: Path) -> sqlite3.Connection:
    with db.opened(tmp_path / "b.sqlite"):
        pass
    found = db.connect(tmp_path / "b.sqlite")
    builds.create(found, "B", "{}", "made")
    return found


def test_pragmas_and_migrations(connection: sqlite3.Connection) -> None:
    assert connection.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
    assert connection.execute("PRAGMA synchronous").fetchone()[0] == 2  # FULL
    assert connection.execute("PRAGMA user_version").fetchone()[0] >= 1
    db.migrate(connection)  # a second time changes nothing
    assert len(builds.every(connection)) == 1


def test_a_revision_never_changes(connection: sqlite3.Connection) -> None:
    with pytest.raises(sqlite3.IntegrityError, match="never changes"):
        connection.execute("UPDATE revision SET act = 'x'")
    with pytest.raises(sqlite3.IntegrityError, match="never deleted"):
        connection.execute("DELETE FROM revision")


def test_saving_on_an_old_head_stores_nothing(connection: sqlite3.Connection) -> None:
    row = builds.find(connection, "b")
    assert row
    first = builds.save(connection, row["id"], row["head"], "one", '{"a": 1}')
    with pytest.raises(builds.ChangedElsewhere):
        builds.save(connection, row["id"], row["head"], "two", '{"a": 2}')
    assert connection.execute("SELECT max(id) FROM revision").fetchone()[0] == first
    builds.undo(connection, row["id"], first)
    assert builds.find(connection, "b")["document"] == "{}"  # type: ignore[index]
    with pytest.raises(LookupError):
        builds.undo(connection, row["id"], row["head"])
    builds.redo(connection, row["id"], row["head"])
    assert builds.find(connection, "b")["document"] == '{"a": 1}'  # type: ignore[index]


def test_killed_in_a_storm_of_edits_every_acknowledged_revision_is_there(
    connection: sqlite3.Connection, tmp_path: Path
) -> None:
    for _ in range(10):
        with subprocess.Popen(
            [sys.executable, "-c", WRITER, str(tmp_path / "b.sqlite")],
            stdout=subprocess.PIPE,
            text=True,
        ) as writer:
            assert writer.stdout
            lines = [writer.stdout.readline() for _ in range(50)]
            writer.kill()
            lines += writer.stdout.read().splitlines(keepends=True)
        acknowledged = [int(line) for line in lines if line.endswith("\n")]
        assert len(acknowledged) >= 50
        kept = {row["id"]: row for row in connection.execute("SELECT * FROM revision")}
        assert set(acknowledged) <= set(kept)
        for row in kept.values():
            assert hashlib.sha256(row["document"].encode()).hexdigest() == row["sha256"]
        assert connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
        assert connection.execute("SELECT head FROM build").fetchone()[0] in kept


def test_redo_takes_the_newest_of_two_children(connection: sqlite3.Connection) -> None:
    row = builds.find(connection, "b")
    assert row
    first = builds.save(connection, row["id"], row["head"], "one", '{"a": 1}')
    builds.undo(connection, row["id"], first)
    second = builds.save(connection, row["id"], row["head"], "two", '{"a": 2}')
    builds.undo(connection, row["id"], second)
    builds.redo(connection, row["id"], row["head"])
    now = builds.find(connection, "b")
    assert (now["head"], now["document"]) == (second, '{"a": 2}')  # type: ignore[index]
    assert {r["id"] for r in builds.revisions(connection, row["id"])} == {
        row["head"],
        first,
        second,
    }  # nothing is lost


@pytest.mark.parametrize(
    "statement",
    [
        "INSERT INTO revision (build, parent, act, at, document, sha256) VALUES (99, NULL, 'x', 'x', '{}', 'x')",
        "INSERT INTO revision (build, parent, act, at, document, sha256) VALUES (1, 99, 'x', 'x', '{}', 'x')",
        "INSERT INTO build (slug, made_at, forked_from) VALUES ('c', 'x', 99)",
    ],
)
def test_what_points_nowhere_is_refused(connection: sqlite3.Connection, statement: str) -> None:
    with pytest.raises(sqlite3.IntegrityError, match="FOREIGN KEY"):
        connection.execute(statement)


def test_a_thread_keeps_its_connection_and_the_log_beside_it(tmp_path: Path) -> None:
    """Five edits open the database once, and the write-ahead log is not written back and deleted
    between them, which costs four more waits for the disk each.
    """
    with db.opened(tmp_path / "k.sqlite") as made:
        builds.create(made, "K", "{}", "made")
    kept = db.Connections(tmp_path / "k.sqlite")
    sizes = []
    for i in range(5):
        row = builds.find(kept.here(), "k")
        assert row
        builds.save(kept.here(), row["id"], row["head"], f"act {i}", f'{{"a": {i}}}')
        sizes.append((tmp_path / "k.sqlite-wal").stat().st_size)
    assert kept.opened == 1
    assert sizes == sorted(sizes)
    assert sizes[0] > 0
    kept.close()


def test_everything_is_backed_up_from_the_bench(client: FlaskClient, tmp_path: Path) -> None:
    """The archive that the page gives holds every build as it is, and is one that the command line
    takes.
    """
    assert 'id="backup"' in client.get("/").text
    answer = client.get("/backup.zip")
    assert answer.status_code == 200
    file = tmp_path / "kept.zip"
    file.write_bytes(answer.data)
    answer.close()
    assert archive.is_archive(file)
    room = tmp_path / "room"
    room.mkdir()
    with db.opened(archive.unpack(file, room)) as connection:
        rows = {row["slug"]: builds.document_of(row) for row in builds.every(connection)}
    assert set(rows) >= {"bittern", "egret"}
    assert rows["bittern"] == client.get("/builds/bittern/build.json").text
