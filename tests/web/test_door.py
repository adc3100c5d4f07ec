"""Beyond this machine: no start without a pass-phrase, nobody inside without it, no write from
another site, no way out of the site by `back`.
"""

import re
from pathlib import Path

import pytest
from click.testing import CliRunner
from flask.testing import FlaskClient

from tall_heron.cli import main
from tall_heron.web import create_app, door

PHRASE = "four herons by a weir"


@pytest.fixture
def locked(tmp_path: Path) -> FlaskClient:
    door.keep(tmp_path, PHRASE)
    return create_app(tmp_path / "x.sqlite", ["*"], door.kept(tmp_path)).test_client()


def given(client: FlaskClient, phrase: str, back: str = "/") -> tuple[int, str, str]:
    token = re.search(r'name="csrf_token" value="([^"]+)"', client.get("/enter").text)
    assert token
    answer = client.post("/enter", data={"phrase": phrase, "back": back, "csrf_token": token[1]})
    return answer.status_code, answer.headers.get("Location", ""), answer.text


@pytest.mark.parametrize(
    ("host", "ours"),
    [
        ("127.0.0.1", True),
        ("::1", True),
        ("localhost", True),
        ("0.0.0.0", False),
        ("192.168.1.4", False),
        ("bench.example", False),
        ("::", False),
    ],
)
def test_what_is_reached_from_this_machine_alone(host: str, ours: bool) -> None:
    assert door.loopback(host) == ours


def test_no_start_beyond_this_machine_without_a_pass_phrase(tmp_path: Path) -> None:
    refused = CliRunner().invoke(main, ["serve", "--host", "0.0.0.0", "--data", str(tmp_path)])
    assert refused.exit_code != 0
    assert "tall-heron pass-phrase --data" in refused.output
    assert not (tmp_path / "tall-heron.sqlite").exists()
    assert (
        "at least 10 letters"
        in CliRunner()
        .invoke(main, ["pass-phrase", "--data", str(tmp_path), "--phrase", "short"])
        .output
    )
    assert (
        CliRunner()
        .invoke(main, ["pass-phrase", "--data", str(tmp_path), "--phrase", PHRASE])
        .exit_code
        == 0
    )
    assert PHRASE not in door.kept(tmp_path)
    assert (tmp_path / door.FILE).stat().st_mode & 0o077 == 0


def test_nobody_is_inside_without_it(locked: FlaskClient) -> None:
    assert locked.get("/shelf").headers["Location"] == "/enter?back=/shelf"
    for path in ("/builds", "/shelf", "/builds/x/undo"):
        assert locked.post(path, json={}).status_code == 401
    assert (
        locked.get("/read-line?text=x", headers={"Accept": "application/json"}).status_code == 401
    )
    assert given(locked, "five herons by a weir")[0] == 403
    assert locked.get("/shelf").status_code == 302
    status, where, _ = given(locked, PHRASE, "/shelf")
    assert (status, where) == (303, "/shelf")
    assert locked.get("/shelf").status_code == 200
    cookie = locked.get_cookie("session")
    assert cookie is not None
    assert cookie.http_only


def test_the_door_waits_after_five_wrong_ones(locked: FlaskClient) -> None:
    assert [given(locked, "wrong wrong wrong")[0] for _ in range(5)] == [403] * 5
    status, _, text = given(locked, PHRASE)
    assert status == 429
    assert "opens again in" in text


def test_another_pass_phrase_puts_everyone_outside(tmp_path: Path) -> None:
    door.keep(tmp_path, PHRASE)
    one = create_app(tmp_path / "x.sqlite", ["*"], door.kept(tmp_path)).test_client()
    assert given(one, PHRASE)[0] == 303
    cookie = one.get_cookie("session")
    assert cookie is not None
    door.keep(tmp_path, PHRASE + " again")
    other = create_app(tmp_path / "x.sqlite", ["*"], door.kept(tmp_path)).test_client()
    other.set_cookie("session", cookie.value)
    assert other.get("/shelf").status_code == 302


def test_a_write_from_another_site_is_refused(client: FlaskClient) -> None:
    answer = client.post("/builds", data={"name": "x"}, headers={"Origin": "http://evil.example"})
    assert answer.status_code == 403
    assert "another site" in answer.text


@pytest.mark.parametrize(
    "back",
    [
        "/%09/evil",
        "/\t/evil.example",
        "//evil.example",
        "/\\evil.example",
        "http://evil.example",
        "",
        "/\n/x",
    ],
)
def test_back_does_not_leave_the_site(locked: FlaskClient, back: str) -> None:
    where = given(locked, PHRASE, back)[1]
    assert (
        where == "/" or where == "/%09/evil"
    )  # that one is a path of ours, with its percent sign in it
    assert not where.startswith("//")
