"""The marks of the stations: kept by document, as they were before a change until the page asks."""

import re
import sqlite3
from collections.abc import Iterator

import pytest
from flask.testing import FlaskClient

from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.rules import every_finding
from tall_heron.core.study.study import Study, make_study
from tall_heron.web.station import run_of_stations

ASKED = "/builds/bittern/marks?page=brief&here=/builds/bittern/brief"
MARK = re.compile(
    r'data-station="(\d)".*?class="under( old)?"[^>]*>(?:<svg class="sign sign-(\w+)".*?</svg>)?\s*'
    r'(\w+)(?: <span class="count"[^>]*>(\d+))?'
)


def marks(page: str) -> list[tuple[str, ...]]:
    """Of each station: whether its mark is of before, its sign, its name, its count."""
    found = [m[1:] for m in MARK.findall(page)]
    assert len(found) == len(run_of_stations())
    return found


def test_after_a_change_a_page_shows_what_was_and_asks_for_what_is(
    client: FlaskClient, post
) -> None:  # type: ignore[no-untyped-def]
    """E100 in place of E70 at 9 V: other Stops than before, on the stations that were not open."""
    client.get("/builds/bittern/marks?page=brief")
    before = marks(client.get("/builds/bittern/brief").text)
    assert not any(old for old, *_ in before)
    assert post("/builds/bittern/brief", field="voltage_v", text="9").json["head"]
    page = client.get("/builds/bittern/brief").text
    assert "data-old" in page
    now = marks(page)
    slow = {s.name for s in run_of_stations() if s.slow}
    assert {name for old, _, name, _ in now if old} == slow
    assert [x[1:] for x in now if x[0]] == [x[1:] for x in before if x[2] in slow]
    asked = client.get(ASKED, headers={"Accept": "application/json"})
    fresh = marks(asked.json["pieces"]["head"])
    assert fresh != before
    assert "back=/builds/bittern/brief" in asked.json["pieces"]["head"]
    page = client.get("/builds/bittern/route").text
    assert "data-old" not in page
    assert marks(page) == fresh


@pytest.mark.parametrize("page", ["cases", "route", "wiring"])
def test_a_station_looks_at_itself(client: FlaskClient, post, page: str) -> None:  # type: ignore[no-untyped-def]
    client.get("/builds/bittern/marks?page=brief")
    post("/builds/bittern/brief", field="power_kw", text="655 hp")
    here = next(
        x for x in marks(client.get(f"/builds/bittern/{page}").text) if x[2].lower() == page
    )
    client.get("/builds/bittern/marks?page=brief")
    fresh = next(
        x for x in marks(client.get(f"/builds/bittern/{page}").text) if x[2].lower() == page
    )
    assert not here[0]
    assert here == fresh


def test_no_page_but_its_own_runs_the_rules_of_a_station(
    client: FlaskClient,
    post,
    monkeypatch: pytest.MonkeyPatch,  # type: ignore[no-untyped-def]
) -> None:
    asked: list[str] = []
    for module, rules in (
        ("cases", "check_cases"),
        ("route", "check_route"),
        ("wiring", "check_wiring"),
    ):
        real = getattr(__import__("tall_heron.core.design", fromlist=[rules]), rules)

        def seen(study: Study, real=real, module: str = module):  # type: ignore[no-untyped-def]
            asked.append(module)
            return real(study)

        monkeypatch.setattr(f"tall_heron.core.design.{rules}", seen)
    post("/builds/bittern/brief", field="power_kw", text="640 hp")
    for page in ("brief", "layout", "circuit", "hoses"):
        assert client.get(f"/builds/bittern/{page}").status_code == 200
    assert asked == []
    client.get("/builds/bittern/route")
    assert set(asked) == {"route"}


def test_what_is_kept_of_the_marks_is_what_they_come_to(client: FlaskClient) -> None:
    """A demo build's kept marks against its rules run anew."""
    client.get("/builds/egret/marks?page=brief")
    kept = marks(client.get("/builds/egret/hoses").text)
    findings = every_finding(make_study(demo_builds(wired=True)["egret"]))
    for station in run_of_stations():
        here = [f.level for f in findings if f.station == station.key]
        _, sign, _, count = next(x for x in kept if x[2] == station.name)
        worst = next((level for level in ("Stop", "Check", "Note") if level in here), "")
        assert count == (str(here.count(worst)) if worst else ""), station.key
        assert sign in ("", "pass", worst.lower()), station.key


def test_a_disk_without_room_still_shows_what_is(
    client: FlaskClient,
    post,
    monkeypatch: pytest.MonkeyPatch,  # type: ignore[no-untyped-def]
) -> None:
    def full(*_: object) -> Iterator[None]:
        raise sqlite3.OperationalError("database or disk is full")

    post("/builds/bittern/brief", field="power_kw", text="644 hp")
    monkeypatch.setattr("tall_heron.store.summaries.transaction", full)
    asked = client.get(ASKED, headers={"Accept": "application/json"})
    head = asked.json["pieces"]["head"]
    assert "data-old" not in head
    assert any(sign == "stop" for _, sign, _, _ in marks(head))
    assert "Bittern" in client.get("/builds/bittern/place").json["place"]


@pytest.mark.parametrize("here", ["//else.where/x", "https://else.where", "/builds/egret/brief"])
def test_a_head_leads_back_to_no_other_place(client: FlaskClient, here: str) -> None:
    asked = client.get(
        f"/builds/bittern/marks?page=route&here={here}", headers={"Accept": "application/json"}
    )
    assert "back=/builds/bittern/route" in asked.json["pieces"]["head"]
