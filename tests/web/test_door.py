"""Beyond this machine: no start without a pass-phrase, nobody inside without it, no write from
another site, no way out of the site by `back`.
"""

import re
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from click.testing import CliRunner
from flask import Flask
from flask.testing import FlaskClient

from tall_heron.cli import main
from tall_heron.web import create_app, door, inside, pass_phrase, visits

PHRASE = "four herons by a weir"


@pytest.fixture
def locked(tmp_path: Path) -> FlaskClient:
    return made(tmp_path).test_client()


def made(folder: Path, behind_tls: bool = False) -> Flask:
    if not pass_phrase.kept(folder):
        pass_phrase.keep(folder, PHRASE)
    return create_app(folder / "x.sqlite", ["*"], folder, behind_tls)


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
        "at least 12 letters"
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
    assert PHRASE not in pass_phrase.kept(tmp_path)
    assert (tmp_path / pass_phrase.FILE).stat().st_mode & 0o077 == 0


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


class Clock:
    """Time that passes only while somebody waits."""

    def __init__(self) -> None:
        self.now, self.waited = 1000.0, [0.0]

    def sleep(self, seconds: float) -> None:
        self.now += seconds
        self.waited.append(round(seconds, 3))


def test_wrong_ones_are_slowed_and_a_right_one_always_opens() -> None:
    clock = Clock()
    tries = pass_phrase.Tries(lambda: clock.now, clock.sleep)
    for _ in range(12):
        assert tries.judged("203.0.113.9", lambda: False) is False
    assert clock.waited == [0.0, 0.5, 1.0, 2.0, 4.0, 8.0, 8.0, 8.0]
    before = clock.now
    assert tries.judged("203.0.113.10", lambda: True) is True
    assert clock.now == before, "who is elsewhere does not wait for others"
    assert tries.judged("203.0.113.9", lambda: True) is True
    assert tries.judged("203.0.113.9", lambda: False) is False
    assert clock.now == before + 8.0, "a right one wipes the slate"
    for last in range(6):
        tries.judged(f"2001:db8::{last}", lambda: False)
    assert clock.now == before + 8.5, "one household of IPv6 is one address"


def test_of_many_at_once_each_waits_its_turn() -> None:
    """Forty at the same time: no two from one address are judged together, and more than wait are
    asked to come again.
    """
    tries, judging, together = pass_phrase.Tries(), threading.Event(), list[int]()
    come = threading.Barrier(40, timeout=20)

    def right() -> bool:
        together.append(1)
        assert len(together) == 1
        judging.wait(20)  # until the others have come
        together.pop()
        return False

    def asks() -> bool | None:
        come.wait()
        answer = tries.judged("203.0.113.9", right)
        if answer is None:
            judging.set()
        return answer

    with ThreadPoolExecutor(40) as pool:
        answers = [f.result() for f in [pool.submit(asks) for _ in range(40)]]
    refused = answers.count(None)
    assert refused >= 1
    assert answers.count(False) == 40 - refused


def test_another_pass_phrase_counts_at_once_and_puts_everyone_outside(
    locked: FlaskClient, tmp_path: Path
) -> None:
    assert given(locked, PHRASE)[0] == 303
    assert locked.get("/shelf").status_code == 200
    pass_phrase.keep(tmp_path, PHRASE + " again")
    assert locked.get("/shelf").status_code == 302
    assert given(locked, PHRASE)[0] == 403
    assert given(locked, PHRASE + " again")[0] == 303
    assert "1 came in" in locked.get("/inside").text, "who came in with the other is outside"
    (tmp_path / pass_phrase.FILE).unlink()
    assert locked.get("/shelf").status_code == 302
    assert given(locked, "")[0] == 403, "with the file gone nobody comes in"


def test_one_goes_out_and_one_puts_everyone_outside(tmp_path: Path) -> None:
    app = made(tmp_path)
    one, other = app.test_client(), app.test_client()
    for client in (one, other):
        assert given(client, PHRASE)[0] == 303
    page = one.get("/").text
    assert "Log out" in page
    assert "Log everyone out" in page
    assert left(one) == "/enter"
    assert one.get("/shelf").status_code == 302
    assert other.get("/shelf").status_code == 200
    given(one, PHRASE)
    left(one, everyone="1")
    assert other.get("/shelf").status_code == 302
    assert one.get("/shelf").status_code == 302
    assert given(other, PHRASE)[0] == 303, "the pass-phrase is the same"


def test_one_sees_who_is_inside_and_puts_one_of_them_outside(tmp_path: Path) -> None:
    app = made(tmp_path)
    one, other, third = app.test_client(), app.test_client(), app.test_client()
    for client in (one, other):
        assert given(client, PHRASE)[0] == 303
    page = one.get("/inside").text
    assert "2 came in with the pass-phrase" in page
    numbers = re.findall(r'name="number" value="(\w+)"', page)
    assert len(numbers) == 2
    with other.session_transaction() as session:
        theirs = session["number"]
    token = re.search(r'name="csrf_token" value="([^"]+)"', page)
    assert token
    assert third.post("/inside", data={"number": theirs}).status_code in (400, 401)
    sent = {"csrf_token": token[1], "number": theirs}
    assert one.post("/inside", data=sent).status_code == 303
    assert other.get("/shelf").status_code == 302
    assert one.get("/shelf").status_code == 200
    assert "1 came in" in one.get("/inside").text
    assert one.post("/inside", data=sent).status_code == 303, "twice does no harm"
    again = made(tmp_path)  # started again: who was outside stays outside
    for client, status in ((one, 200), (other, 302)):
        cookie = client.get_cookie("session")
        assert cookie is not None
        fresh = again.test_client()
        fresh.set_cookie("session", cookie.value)
        assert fresh.get("/shelf").status_code == status
    assert (tmp_path / "inside.json").stat().st_mode & 0o077 == 0


def test_on_a_full_disk_one_comes_in_all_the_same(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    client = made(tmp_path).test_client()

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(inside, "write_private", full)
    assert given(client, PHRASE)[0] == 303
    assert client.get("/shelf").status_code == 200


def test_a_cookie_that_was_copied_is_worth_nothing_once_its_owner_went_out(tmp_path: Path) -> None:
    app = made(tmp_path)
    one, thief = app.test_client(), app.test_client()
    given(one, PHRASE)
    cookie = one.get_cookie("session")
    assert cookie is not None
    thief.set_cookie("session", cookie.value)
    assert thief.get("/shelf").status_code == 200
    left(one)
    assert thief.get("/shelf").status_code == 302


def test_on_its_own_machine_there_is_no_door(client: FlaskClient) -> None:
    assert client.get("/inside").status_code == 404


def left(client: FlaskClient, **fields: str) -> str:
    token = re.search(r'name="csrf_token" value="([^"]+)"', client.get("/").text)
    assert token
    return client.post("/leave", data={"csrf_token": token[1], **fields}).headers["Location"]


@pytest.mark.parametrize(("hours", "inside"), [(11.9, True), (12.1, False), (-0.1, False)])
def test_a_session_ends_after_twelve_hours_whatever_one_does(
    locked: FlaskClient, hours: float, inside: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    given(locked, PHRASE)
    now = time.time()
    monkeypatch.setattr(door.time, "time", lambda: now + hours * 3600)
    assert (locked.get("/shelf").status_code == 200) == inside


def test_a_cookie_goes_over_a_certificate_alone_behind_one(tmp_path: Path) -> None:
    client = made(tmp_path, behind_tls=True).test_client()
    page = client.get("/enter", base_url="https://bench.example")
    assert "Secure" in page.headers["Set-Cookie"]
    assert "max-age=" in page.headers["Strict-Transport-Security"]
    assert page.headers["Cross-Origin-Opener-Policy"] == "same-origin"


@pytest.mark.parametrize(
    ("phrase", "why"),
    [
        ("1234567890", "at least 12"),
        ("123456789012", "row of the keyboard"),
        ("qwertyuiop asdf", "row of the keyboard"),
        ("0987654321 0987", "row of the keyboard"),
        ("qwertyuiop12", "row of the keyboard"),
        ("2026-password-!", "common ones"),
        ("836491857261", ""),
        ("aaaaaaaabbbbbb", "same few letters"),
        ("heron1heron1heron1", "again and again"),
        ("Password 12345", "common ones"),
        ("Correct horse battery staple", "common ones"),
        ("Tall Heron 2026!", "common ones"),
        (PHRASE, ""),
        ("weir-otter-7-mill", ""),
    ],
)
def test_a_pass_phrase_that_is_soon_guessed_is_refused(phrase: str, why: str) -> None:
    """ASVS 5.0, 6.2: length, and lists of common ones; from memory."""
    found = pass_phrase.weakness(phrase)
    assert why in found if why else found == ""


def test_who_came_and_what_was_changed_is_written_down(locked: FlaskClient, tmp_path: Path) -> None:
    given(locked, "five herons by a weir")
    given(locked, PHRASE)
    locked.post("/units", data={"csrf_token": "x"})
    left(locked)
    lines = (tmp_path / visits.FILE).read_text(encoding="utf-8").splitlines()
    assert [line.split(" ", 2)[2] for line in lines] == [
        "wrong pass-phrase",
        "came in",
        "POST /units 400",
        "went out",
        "POST /leave 303",
    ]
    assert all(line.split(" ")[1] == "127.0.0.1" for line in lines)
    assert "herons" not in "".join(lines)
    assert (tmp_path / visits.FILE).stat().st_mode & 0o077 == 0


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
