"""Backups by schedule, two servers on one folder, and what is said before there is no room."""

import shutil
import threading
from collections import namedtuple
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import click
import pytest
from click.testing import CliRunner
from flask.testing import FlaskClient
from running import start, stop

from tall_heron import cli
from tall_heron.cli import main
from tall_heron.store import backups, builds, db, logs, restored, room
from tall_heron.web import create_app
from tall_heron.web.backups import Schedule
from tall_heron.web.server import add_demo

NOON = datetime(2026, 12, 2, 12, tzinfo=UTC)
DAY = timedelta(hours=24)


@pytest.fixture
def file(tmp_path: Path) -> Path:
    add_demo(tmp_path / "data" / "tall-heron.sqlite")
    return tmp_path / "data" / "tall-heron.sqlite"


def test_of_thirty_days_the_newest_fourteen_stay_and_one_of_them_is_restored(
    file: Path, tmp_path: Path
) -> None:
    folder = tmp_path / "other disk"
    folder.mkdir()
    mine = folder / "tall-heron-before-winter.zip"
    mine.write_text("a backup of the owner's own")
    for day in range(30):
        assert backups.due_in(folder, DAY, NOON + day * DAY) == timedelta(0)
        last = backups.make(file, folder, 14, NOON + day * DAY)
        assert backups.due_in(folder, DAY, NOON + day * DAY + DAY / 4) == DAY * 3 / 4
    assert [at for at, _ in backups.made(folder)] == [NOON + day * DAY for day in range(16, 30)]
    assert mine.exists()
    assert sorted(p.name for p in folder.iterdir()) == sorted(
        [mine.name, *(p.name for _, p in backups.made(folder))]
    ), "nothing half made lies about"
    with db.opened(file) as connection:
        before = {r["slug"]: r["document"] for r in builds.every(connection)}
        builds.create(connection, "Later", next(iter(before.values())), "Begun")
    done = restored.take_up(last, file)
    assert done.missing == 0
    with db.opened(file) as connection:
        assert {r["slug"]: r["document"] for r in builds.every(connection)} == before


def test_a_clock_set_back_makes_a_backup_and_loses_none(file: Path, tmp_path: Path) -> None:
    folder = tmp_path / "kept"
    backups.make(file, folder, 3, NOON)
    early = NOON - 400 * DAY
    assert backups.due_in(folder, DAY, early) == timedelta(0)
    backups.make(file, folder, 3, early)
    assert [at for at, _ in backups.made(folder)] == [early, NOON]


def test_the_one_just_made_stays_though_others_are_of_a_time_to_come(
    file: Path, tmp_path: Path
) -> None:
    folder = tmp_path / "kept"
    for day in range(3):
        backups.make(file, folder, 2, NOON + day * DAY)
    made = backups.make(file, folder, 2, NOON - 400 * DAY)
    assert made.exists()
    assert len(backups.made(folder)) == 2


def test_a_backup_that_fails_is_said_on_the_bench_and_tried_again(
    file: Path, tmp_path: Path
) -> None:
    folder = tmp_path / "kept"
    folder.write_text("a file where the folder should be")
    app = create_app(file)
    schedule = app.extensions["backups"] = Schedule(file, folder, DAY, 2)
    client = app.test_client()
    assert "none yet" in client.get("/backup").text
    assert schedule.once(NOON) < DAY
    assert "The last backup was not made" in client.get("/").text
    folder.unlink()
    assert schedule.once(NOON) == DAY
    assert "The last backup was not made" not in client.get("/").text
    assert "the last 2026-12-02 12:00 UTC" in client.get("/backup").text


def test_the_first_is_made_at_once_and_none_after_the_end(
    file: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = threading.Event()
    real = backups.make

    def make(*of: Any) -> Path:
        done = real(*of)
        made.set()
        return done

    monkeypatch.setattr(backups, "make", make)
    schedule = Schedule(file, tmp_path / "kept", DAY, 2)
    working = threading.Thread(target=schedule.go_on)
    working.start()
    assert made.wait(60)
    schedule.end()
    working.join(60)
    assert not working.is_alive()
    assert len(backups.made(tmp_path / "kept")) == 1


def test_two_servers_on_one_folder_say_so(tmp_path: Path) -> None:
    process, _ = start(tmp_path)
    try:
        second = CliRunner().invoke(main, ["demo", "--data", str(tmp_path), "--port", "0"])
        assert second.exit_code == 1
        assert f"Another Tall Heron already serves {tmp_path}" in second.output
    finally:
        stop(process)
    process, _ = start(tmp_path)  # the lock went with the process
    stop(process)


@pytest.mark.parametrize(("text", "right"), [("soon", "Write for example"), ("2 s", "a minute")])
def test_a_period_that_is_none_is_asked_for(tmp_path: Path, text: str, right: str) -> None:
    asked = ["serve", "--data", str(tmp_path), "--port", "0", "--backup-every", text]
    result = CliRunner().invoke(main, asked)
    assert result.exit_code == 2
    assert right in result.output


@pytest.mark.parametrize(
    ("text", "hours"), [("24h", 24), ("7 d", 168), ("90 min", 1.5), ("12", 12)]
)
def test_a_period_is_read_as_it_is_typed(text: str, hours: float) -> None:
    """A week is 168 hours, by definition."""
    period = cli._period(click.Context(main), click.Option(["--x"]), text)
    assert period == timedelta(hours=hours)


Disk = namedtuple("Disk", "total used free")


def test_a_disk_is_said_to_be_nearly_full_before_it_is(
    file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    client = create_app(file).test_client()
    monkeypatch.setattr(shutil, "disk_usage", lambda _: Disk(250e9, 237e9, 13e9))
    assert "nearly full" not in client.get("/").text
    monkeypatch.setattr(shutil, "disk_usage", lambda _: Disk(250e9, 238e9, 12e9))
    assert "The disk is nearly full: 12 GB of 250 GB are free" in client.get("/").text


def sent(client: FlaskClient, data: bytes, slug: str) -> tuple[int, dict[str, str]]:
    token = client.get(f"/builds/{slug}/prove").text.split('name="csrf" content="')[1].split('"')[0]
    answer = client.post(
        f"/builds/{slug}/prove/file",
        data=data,
        headers={"X-CSRFToken": token, "Accept": "application/json"},
    )
    return answer.status_code, answer.json


def test_what_a_build_and_a_store_may_hold_is_said_before_it_is_refused(
    file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    client = create_app(file).test_client()
    with db.opened(file) as connection:
        row = builds.find(connection, "egret")
        assert row is not None
        held, all_held = room.in_build(connection, row["id"]), room.in_store(connection)
        every = connection.execute("SELECT sha256, size FROM attachment").fetchall()
        text = "".join(e["text"] for e in logs.entries(connection, row["id"]))
        assert held == sum(r["size"] for r in every if r["sha256"] in text) > 0
    monkeypatch.setattr(room, "BUILD_BYTES", held + 100)
    assert "Files of this build take" in client.get("/builds/egret/prove/log").text
    assert "Files of this build take" not in client.get("/builds/bittern/prove/log").text
    status, answer = sent(client, b"x" * 101, "egret")
    assert (status, answer["field"]) == (413, "files")
    assert "Nothing was kept" in answer["message"]
    assert sent(client, b"x" * 100, "egret")[0] == 200
    assert sent(client, b"y" * 101, "bittern")[0] == 200, "another build is not hurt"
    monkeypatch.setattr(room, "STORE_BYTES", all_held + 201)
    assert "Logs and pictures take" in client.get("/").text
    assert sent(client, b"z", "egret")[0] == 413
