"""Faults of file and disk, tried for real: each is told in words with what to do, and nothing is
changed.
"""

import io
import re
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner

from tall_heron.cli import main
from tall_heron.store import builds, db, lock, logs
from tall_heron.web import create_app
from tall_heron.web.server import add_demo


def refused(folder: Path) -> str:
    result = CliRunner().invoke(main, ["demo", "--data", str(folder), "--port", "0"])
    assert result.exit_code == 1
    assert "Traceback" not in result.output
    return result.output


def test_a_database_of_a_newer_version_is_refused_and_not_written(tmp_path: Path) -> None:
    file = tmp_path / "demo.sqlite"
    add_demo(file)
    with sqlite3.connect(file) as connection:
        connection.execute("PRAGMA user_version = 99")
    before = file.read_bytes()
    assert "written by a newer Tall Heron: it has form 99" in refused(tmp_path)
    assert file.read_bytes() == before


def test_a_file_that_is_no_database_is_left_as_it_is(tmp_path: Path) -> None:
    file = tmp_path / "demo.sqlite"
    file.write_bytes(b"a letter to a heron " * 400)
    assert "is damaged, or is no database" in refused(tmp_path)
    assert file.read_bytes() == b"a letter to a heron " * 400


def test_a_folder_that_is_a_file_says_what_to_do(tmp_path: Path) -> None:
    (tmp_path / "instance").write_text("no folder")
    assert "is no folder. Name another with --data" in refused(tmp_path / "instance")


def test_a_full_disk_says_so(tmp_path: Path) -> None:
    assert "no room left on the disk" in db.what_to_do(
        tmp_path / "x", sqlite3.OperationalError("database or disk is full")
    )
    assert "held by another program" in db.what_to_do(
        tmp_path / "x", sqlite3.OperationalError("database is locked")
    )
    assert "cannot be written" in db.what_to_do(
        tmp_path / "x", sqlite3.OperationalError("attempt to write a readonly database")
    )


def test_a_changed_letter_in_a_document_is_seen_and_hurts_no_other_build(tmp_path: Path) -> None:
    file = tmp_path / "demo.sqlite"
    add_demo(file)
    data = file.read_bytes()
    assert b"4.2 L straight six" in data
    file.write_bytes(data.replace(b"4.2 L straight six", b"4.3 L straight six"))
    client = create_app(file).test_client()
    page = client.get("/builds/bittern/circuit")
    assert page.status_code == 409
    assert "changed outside Tall Heron" in page.text
    assert client.get("/builds/egret/circuit").status_code == 200
    assert "changed outside Tall Heron" in client.get("/builds/bittern/place").json["place"]
    assert "Egret" in client.get("/").text


@pytest.mark.parametrize("left", ["", "0123abcd" * 8])
def test_a_key_that_a_full_disk_left_empty_is_made_anew(tmp_path: Path, left: str) -> None:
    key = tmp_path / "x.key"
    key.write_text(left)
    app = create_app(tmp_path / "x.sqlite")
    assert len(app.config["SECRET_KEY"]) == 64
    assert (app.config["SECRET_KEY"] == left) == bool(left)
    assert app.test_client().get("/").status_code == 200


def cli(*words: str) -> tuple[int, str]:
    result = CliRunner().invoke(main, list(words))
    return result.exit_code, result.output


def names(file: Path) -> list[str]:
    with db.opened(file) as connection:
        return [row["slug"] for row in builds.every(connection)]


def test_a_backup_is_taken_while_it_runs_and_restored(tmp_path: Path) -> None:
    file, kept = tmp_path / "demo.sqlite", tmp_path / "kept" / "all.backup"
    add_demo(file)
    running = db.connect(file)  # as the application holds it, its log not written back
    slug = builds.create(
        running, "Godwit", builds.find(running, "bittern")["document"], "Duplicated"
    )  # type: ignore[index]
    assert cli("backup", str(kept), "--data", str(tmp_path), "--demo")[0] == 0
    running.close()
    assert names(kept)[-1] == slug
    with db.opened(file) as connection:
        builds.create(
            connection, "Lost", builds.find(connection, "egret")["document"], "Duplicated"
        )  # type: ignore[index]
    code, said = cli("restore", str(kept), "--data", str(tmp_path), "--demo")
    assert code == 0, said
    assert names(file) == names(kept)
    assert names(file.with_suffix(".before-restore"))[-1] == "lost"
    assert create_app(file).test_client().get(f"/builds/{slug}/circuit").status_code == 200


def test_a_backup_that_is_damaged_or_newer_changes_nothing(tmp_path: Path) -> None:
    file, bad, newer = tmp_path / "demo.sqlite", tmp_path / "bad", tmp_path / "newer"
    add_demo(file)
    before = names(file)
    bad.write_bytes(file.read_bytes()[:9000] + b"heron" * 3000)
    newer.write_bytes(file.read_bytes())
    with sqlite3.connect(newer) as connection:
        connection.execute("PRAGMA user_version = 99")
    for wrong, says in ((bad, "is damaged"), (newer, "newer Tall Heron")):
        code, said = cli("restore", str(wrong), "--data", str(tmp_path), "--demo")
        assert code == 2
        assert says in said
        assert names(file) == before
    assert cli("backup", str(tmp_path / "x"), "--data", str(tmp_path / "none"))[0] == 2
    assert not (tmp_path / "x").exists()


def test_a_disk_that_fills_while_it_runs_is_told_in_words_and_keeps_what_was_typed(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Tried by hand on a full tmpfs as well: SQLite then says no more than that input or output
    failed.
    """
    file = tmp_path / "demo.sqlite"
    add_demo(file)
    client = create_app(file).test_client()
    page = client.get("/builds/bittern/hoses?hose=H3").text
    token, head = (
        re.search(r'name="csrf" content="([^"]+)"', page),
        re.search(r'data-head="(\d+)"', page),
    )
    assert token
    assert head

    def full(*_: object) -> int:
        raise sqlite3.OperationalError("database or disk is full")

    body = {"head": int(head[1]), "page": "hoses", "hose": "H3", "field": "length", "text": "2 m"}
    with monkeypatch.context() as patch:
        patch.setattr(builds, "save", full)
        answer = client.post(
            "/builds/bittern/hose",
            json=body,
            headers={"X-CSRFToken": token[1], "Accept": "application/json"},
        )
    assert answer.status_code == 503
    assert "Nothing was changed. There is no room left on the disk" in answer.json["message"]
    assert (
        client.post(
            "/builds/bittern/hose",
            json=body,
            headers={"X-CSRFToken": token[1], "Accept": "application/json"},
        ).status_code
        == 200
    )


def test_a_disk_without_room_to_begin_is_told_from_a_broken_one(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    fault = sqlite3.OperationalError("disk I/O error")
    assert "no room left" not in db.what_to_do(tmp_path / "x", fault)
    monkeypatch.setattr(db, "LEAST_ROOM", 2**80)
    assert "no room left" in db.what_to_do(tmp_path / "x", fault)


def test_a_backup_is_one_archive_never_written_over_and_says_what_is_missing(
    tmp_path: Path,
) -> None:
    file = tmp_path / "demo.sqlite"
    add_demo(file)
    there = ("--data", str(tmp_path), "--demo")
    kept, whole = tmp_path / "kept.backup", tmp_path / "kept.zip"
    code, said = cli("backup", str(kept), *there)
    assert code == 0
    beside = kept.with_suffix(".files")
    assert str(beside) in said
    files = list(beside.glob("??/*"))
    assert f"{len(files)} files" in said
    assert cli("backup", str(kept), *there)[0] == 2
    assert cli("backup", str(kept), "--force", *there)[0] == 0
    assert cli("backup", str(whole), *there)[0] == 0
    before = names(file)
    shutil.rmtree(file.with_suffix(".files"))
    file.unlink()
    code, said = cli("restore", str(whole), *there)
    assert (code, "missing" in said) == (0, False)
    assert names(file) == before
    assert sorted(f.name for f in file.with_suffix(".files").glob("??/*")) == sorted(
        f.name for f in files
    )
    shutil.rmtree(file.with_suffix(".files"))
    files[0].unlink()
    code, said = cli("restore", str(kept), *there)
    assert code == 0
    assert "1 file of logs or pictures is missing" in said
    (tmp_path / "no.zip").write_bytes(b"PK\x03\x04 nothing")
    assert cli("restore", str(tmp_path / "no.zip"), *there)[0] == 2
    assert names(file) == before


def test_nothing_is_restored_under_a_running_application(tmp_path: Path) -> None:
    file = tmp_path / "demo.sqlite"
    add_demo(file)
    assert cli("backup", str(tmp_path / "kept"), "--data", str(tmp_path), "--demo")[0] == 0
    holds = lock.hold(file)  # as the server does while it runs
    assert holds is not None
    code, said = cli("restore", str(tmp_path / "kept"), "--data", str(tmp_path), "--demo")
    assert code == 2
    assert "stop it first" in said
    holds.close()
    assert not lock.held(file)
    assert cli("restore", str(tmp_path / "kept"), "--data", str(tmp_path), "--demo")[0] == 0


def test_everything_is_taken_away_and_brought_back_from_the_page_while_it_runs(
    tmp_path: Path,
) -> None:
    """What is here is replaced in one step and kept beside it, each time under a name of its own; a
    page that another thread shows reads on; with a fault nothing is changed.
    """
    file = tmp_path / "demo.sqlite"
    add_demo(file)
    app = create_app(file)
    client = app.test_client()
    with client.get("/backup.zip") as taken:
        whole, was = taken.data, names(file)
    with db.opened(file) as connection:
        builds.create(
            connection, "Later", builds.find(connection, "egret")["document"], "Duplicated"
        )  # type: ignore[index]
    other = db.connect(file)  # as a thread of the server holds it
    assert builds.find(other, "later") is not None
    token = re.search(r'name="csrf_token" value="([^"]+)"', client.get("/backup").text)
    assert token

    def send(data: bytes, **more: str) -> Any:
        return client.post(
            "/backup",
            data={"csrf_token": token[1], "file": (io.BytesIO(data), "mine.zip"), **more},
            headers={"Referer": "http://localhost/backup"},
        )

    for data, more, says in (
        (whole, {}, "may be replaced"),
        (b"PK\x03\x04 nothing", {"sure": "yes"}, "is damaged"),
        (b"", {"sure": "yes"}, "no backup of Tall Heron"),
    ):
        answer = send(data, **more)
        assert (answer.status_code, says in answer.text) == (422, True), answer.text
        assert names(file) == [*was, "later"]
    done = send(whole, sure="yes")
    assert f"Restored: {len(was)} builds" in done.text
    assert names(file) == was
    assert builds.find(other, "later") is None
    other.close()
    assert client.get("/builds/bittern/circuit").status_code == 200
    assert names(file.with_suffix(".before-restore")) == [*was, "later"]
    send(whole, sure="yes")
    assert names(file.with_suffix(".before-restore")) == [*was, "later"], (
        "the first is not written over"
    )
    assert names(tmp_path / "demo.before-restore-2") == was


@contextmanager
def unguarded(file: Path) -> Iterator[sqlite3.Connection]:
    """A store without the triggers that keep what is written: a disk that loses a bit asks nobody."""
    with closing(sqlite3.connect(file)) as connection:
        guards = connection.execute(
            "SELECT name, sql FROM sqlite_master WHERE type = 'trigger'"
        ).fetchall()
        for name, _ in guards:
            connection.execute(f"DROP TRIGGER {name}")
        yield connection
        for _, sql in guards:
            connection.execute(sql)
        connection.commit()


def spoilt(file: Path, slug: str, data: bytes) -> None:
    """The head of a build with some bytes in the place of some of its document."""
    with unguarded(file) as connection:
        connection.execute(
            "UPDATE revision SET document = CAST(? || substr(CAST(document AS BLOB), ?) AS TEXT) WHERE id = (SELECT head FROM build WHERE slug = ?)",
            (data, len(data) + 1, slug),
        )


@pytest.mark.parametrize("data", [b'{"name": "other"', b"\xff\xfe\xfa"])
def test_of_a_damaged_build_its_history_says_what_can_be_saved(tmp_path: Path, data: bytes) -> None:
    """No way out gives a damaged document without a word; its History lists what is sound, and one
    press takes that up.
    """
    file = tmp_path / "demo.sqlite"
    add_demo(file)
    app = create_app(file)
    client = app.test_client()
    with db.opened(file) as connection:
        row = builds.find(connection, "plover")
        assert row is not None
        sound = row["document"]
        builds.save(connection, row["id"], row["head"], "A title", sound.replace("Plover", "Heron"))
    spoilt(file, "plover", data)
    assert client.get("/").status_code == 200
    for path in (
        "/builds/bittern/circuit",
        "/builds/bittern/history",
        "/builds/bittern/history?q=e",
        *(f"/?by={order}" for order in builds.ORDERS),
        "/?q=e",
        "/shelf",
        "/backup",
    ):
        assert client.get(path).status_code == 200, path
    assert "Bittern" in client.get("/?q=bitt").text
    for path in ("build.json", "build.zip"):
        answer = client.get(f"/builds/plover/{path}")
        assert answer.status_code == 409
        assert "cannot be trusted" in answer.text
    code, said = cli("export", "plover", "--data", str(tmp_path), "--demo")
    assert code == 2
    assert "changed outside Tall Heron" in said
    page = client.get("/builds/plover/history")
    assert page.status_code == 200
    assert page.text.count("<td>damaged</td>") == 1
    assert page.text.count("<td>sound</td>") == 1
    assert client.get("/builds/plover/build.json?damaged=1").data[:1] in (b"{", b"\xef")
    token = re.search(r'name="csrf_token" value="([^"]+)"', page.text)
    number = re.search(r'name="revision" value="(\d+)"', page.text)
    assert token
    assert number
    asked = {"csrf_token": token[1], "revision": number[1]}
    assert client.post("/builds/plover/back", data=asked).status_code == 302
    assert client.get("/builds/plover/build.json").text == sound


def test_what_is_sound_of_a_signed_build_goes_on_beside_it(tmp_path: Path) -> None:
    file = tmp_path / "demo.sqlite"
    add_demo(file)
    with db.opened(file) as connection:
        row = builds.find(connection, "egret")
        assert row is not None
    with unguarded(file) as bare:
        text = row["document"] + " "
        older = bare.execute(
            "INSERT INTO revision (build, act, at, document, sha256, fresh) VALUES (?, 'Laid', ?, ?, ?, 0)",
            (row["id"], row["at"], text, db.digest(text)),
        ).lastrowid
    spoilt(file, "egret", b"{ ")
    client = create_app(file).test_client()
    page = client.get("/builds/egret/history").text
    token = re.search(r'name="csrf_token" value="([^"]+)"', page)
    assert token
    saved = client.post("/builds/egret/back", data={"csrf_token": token[1], "revision": str(older)})
    assert saved.headers["Location"].startswith("/builds/egret-saved/")
    assert client.get(saved.headers["Location"]).status_code == 200
    assert client.get("/builds/egret/circuit").status_code == 409


def test_the_whole_store_is_walked_and_mended(tmp_path: Path) -> None:
    file = tmp_path / "demo.sqlite"
    add_demo(file)
    code, said = cli("check", "--data", str(tmp_path), "--demo")
    assert code == 0
    assert "all sound." in said
    with db.opened(file) as connection:
        for slug in ("plover", "curlew"):
            row = builds.find(connection, slug)
            assert row is not None
            builds.save(connection, row["id"], row["head"], "A title", row["document"] + " ")
        kept = logs.keep_file(connection, file, b"a note", "text/plain")
    spoilt(file, "plover", b"{ ")
    spoilt(file, "dunlin", b"{ ")
    (logs.folder(file) / kept[:2] / kept).write_bytes(b"another note")
    code, said = cli("check", "--data", str(tmp_path), "--demo")
    assert code == 1
    assert "not all sound." in said
    assert re.search(r"plover: damaged as it stands\. Revision \d+, “.+”, is sound", said)
    assert "dunlin: damaged, and no older revision is sound. Take a backup." in said
    assert "curlew" not in said
    assert "1 attached files are gone or altered" in said
    code, said = cli("check", "--data", str(tmp_path), "--demo", "--mend")
    assert code == 0
    assert "plover: mended with revision" in said
    client = create_app(file).test_client()
    assert client.get("/builds/plover/circuit").status_code == 200
    assert client.get("/builds/dunlin/circuit").status_code == 409


def test_of_a_database_of_which_pages_are_lost_what_can_be_read_is_saved(tmp_path: Path) -> None:
    """A page of noise where one build's document stood: the others are written out as they were."""
    file = tmp_path / "demo.sqlite"
    add_demo(file)
    with db.opened(file) as connection:
        row = builds.find(connection, "plover")
        assert row is not None
        other = row["document"].replace("Plover", "Lover")
        head = builds.save(connection, row["id"], row["head"], "Renamed", other)
        builds.undo(connection, row["id"], head)
        before = {r["slug"]: r["document"] for r in builds.every(connection)}
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    data = bytearray(file.read_bytes())
    page = data.index(b"Stonechat") // 4096 * 4096
    data[page + 100 : page + 1100] = bytes(range(250)) * 4
    file.write_bytes(data)
    code, said = cli("check", "--data", str(tmp_path), "--demo", "--save", str(tmp_path / "saved"))
    assert code == 0, said
    saved = {p.stem: p.read_text(encoding="utf-8") for p in (tmp_path / "saved").glob("*.json")}
    assert set(before) - {"stonechat"} <= set(saved)
    assert all(saved[slug] == before[slug] for slug in saved if slug != "stonechat")
    assert "cannot be read" in said
    file.write_bytes(bytes(range(256)) * 1000)
    assert cli("check", "--data", str(tmp_path), "--demo", "--save", str(tmp_path / "none")) == (
        0,
        "Nothing can be read any more, not even how many revisions there are.\n",
    )


def test_a_disk_that_is_full_while_the_demo_is_laid_says_so(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """As on a tmpfs of 300 kB."""

    def full(*_: object, **__: object) -> str:
        raise sqlite3.OperationalError("database or disk is full")

    monkeypatch.setattr(builds, "create", full)
    assert "There is no room left on the disk" in refused(tmp_path)
