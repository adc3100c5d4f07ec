"""The bench with many builds: found, sorted, copied, put away and fetched back."""

import re
from collections.abc import Callable
from pathlib import Path

from flask import Flask
from flask.testing import FlaskClient

from tall_heron.core.prove.entry import Note, entry_hash, entry_text
from tall_heron.store import builds, db, logs


def shown(page: str) -> list[str]:
    return re.findall(r'<section class="place[^"]*" aria-label="([^"]+)"', page)


def csrf(client: FlaskClient) -> dict[str, str]:
    page = client.get("/").text
    found = re.search(r'name="csrf_token" value="([^"]+)"', page)
    assert found
    return {"csrf_token": found[1]}


def test_builds_are_found_by_name_and_title_and_sorted(
    client: FlaskClient, bench: Callable[..., str]
) -> None:
    every = shown(bench())
    assert every == ["Bittern", "Curlew", "Dunlin", "Egret", "Plover", "Stonechat"]
    assert shown(client.get("/?q=floatplane").text) == ["Egret"]
    assert shown(client.get("/?q=PLOV").text) == ["Plover"]
    assert "No build holds “zzz”" in client.get("/?q=zzz").text
    assert shown(client.get("/?by=name").text) == sorted(every)
    worst = shown(client.get("/?by=worst").text)
    assert set(worst[:2]) == {"Bittern", "Egret"}, "the two with Stops"
    assert shown(client.get("/?by=nonsense").text) == every
    assert shown(client.get("/?q=%25").text) == [], "a sign of the database is a letter like others"


def test_a_long_history_and_a_long_log_are_paged_and_nothing_of_them_is_left_out(
    app: Flask, client: FlaskClient
) -> None:
    with db.opened(app.config["DATABASE"]) as connection:
        row = builds.find(connection, "plover")
        assert row is not None
        head = row["head"]
        other = row["document"].replace("Plover", "Lover")
        for i in range(130):
            document = other if i % 2 == 0 else row["document"]
            head = builds.save(connection, row["id"], head, f"act {i}.", document)
            text = entry_text(Note(note=f"note {i}.", by="A"))
            logs.add(connection, row["id"], "note", text, entry_hash)
    found = [client.get(f"/builds/plover/history?page={at}").text for at in (1, 2, 3, 4)]
    acts = [re.findall(r"<th scope=\"row\">(act \d+)\.", page) for page in found]
    assert [x for page in acts for x in page] == [f"act {i}" for i in reversed(range(130))]
    assert [len(a) for a in acts] == [60, 60, 10, 0]
    assert [("Newer" in p, "Older" in p) for p in found] == [
        (False, True),
        (True, True),
        (True, False),
        (True, False),
    ]
    pages = [client.get(f"/builds/plover/prove/log?page={at}").text for at in (1, 2, 3)]
    notes = [re.findall(r"<p>(note \d+)\.</p>", page) for page in pages]
    assert [x for page in notes for x in page] == [f"note {i}" for i in reversed(range(130))]
    assert len(notes[0]) == 60
    assert all("130 entries" in page for page in pages)


def test_of_many_builds_those_to_lay_beside_are_found_by_name(
    app: Flask, client: FlaskClient
) -> None:
    with db.opened(app.config["DATABASE"]) as connection:
        row = builds.find(connection, "plover")
        assert row is not None
        for i in range(40):
            builds.create(
                connection, f"Knot {i}", row["document"].replace("Plover", f"Knot {i}"), "Begun"
            )
    page = client.get("/builds/plover/history").text
    assert "Knot 39" in page
    assert "Knot 5<" not in page
    assert "30 started last" in page
    assert "Knot 5<" in client.get("/builds/plover/history?q=knot+5").text
    assert "No other build holds “zzz”" in client.get("/builds/plover/history?q=zzz").text


def test_a_copy_has_the_parts_and_no_log(client: FlaskClient) -> None:
    answer = client.post("/builds/bittern/copy", data=csrf(client))
    assert answer.headers["Location"].endswith("/builds/bittern-copy/brief")
    one, other = (client.get(f"/builds/{s}/build.json").json for s in ("bittern", "bittern-copy"))
    assert other == one | {"name": "Bittern copy"}
    assert "11 entries" in client.get("/").text.split("Bittern copy")[0]
    assert "entries in its log" not in client.get("/?q=copy").text
    assert client.post("/builds/nobody/copy", data=csrf(client)).status_code == 404


def test_what_is_archived_is_off_the_bench_and_comes_back_whole(client: FlaskClient) -> None:
    before = client.get("/builds/dunlin/build.json").json
    client.post("/builds/dunlin/archive", data=csrf(client) | {"away": "yes"})
    page = client.get("/").text
    assert "Dunlin" not in shown(page)
    assert "5 builds on the bench" in page
    assert "Archived: 1" in page
    assert shown(client.get("/?away=yes").text) == ["Dunlin"]
    assert client.get("/builds/dunlin/circuit").status_code == 200
    client.post("/builds/dunlin/archive", data=csrf(client) | {"away": "no"})
    assert "Dunlin" in shown(client.get("/").text)
    assert client.get("/builds/dunlin/build.json").json == before


def test_two_hundred_builds_are_listed_by_sixty(app: Flask, client: FlaskClient) -> None:
    with db.opened(Path(app.config["DATABASE"])) as connection:
        document = builds.find(connection, "plover")["document"]  # type: ignore[index]
        for i in range(194):
            builds.create(connection, f"Knot {i}", document, "Started")
    page = client.get("/?by=changed").text
    assert len(shown(page)) == 60
    assert "1 of 4" in page
    last = client.get("/?by=changed&page=4").text
    assert len(shown(last)) == 20
    assert "by=changed" in re.findall(r'href="([^"]+)">Earlier builds', last)[0]
