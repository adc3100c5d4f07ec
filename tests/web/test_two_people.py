"""Two people on one build: acts on different things are merged, the same field is refused to
whoever is late, and nothing that was kept is lost.
"""

import random
from typing import Any

import pytest
from flask.testing import FlaskClient

from tall_heron.core.document.merge import meet, touched


def document(client: FlaskClient) -> Any:
    return client.get("/builds/bittern/build.json").json


LINES = ("H1", "H2", "H3", "H4", "H5", "H6")
PARTS = ("F2", "PR", "RL", "P1", "P2")


def acts(rnd: random.Random) -> tuple[str, dict[str, Any], str]:
    """A random act of a shop: its path, its data, and the place it touches."""
    n = rnd.randrange(4)
    line, part, mm = rnd.choice(LINES), rnd.choice(PARTS), rnd.randrange(300, 2000)
    if n == 0:
        return "hoses/act", {"act": "tape", "line": line, "measured": f"{mm} mm"}, f"length {line}"
    if n == 1:
        return (
            "hoses/act",
            {
                "act": "price",
                "key": f"item {part}",
                "title": part,
                "unit": "piece",
                "price": str(mm),
            },
            f"price {part}",
        )
    if n == 2:
        return (
            "hoses/act",
            {
                "act": "supplier",
                "key": f"item {part}",
                "title": part,
                "unit": "piece",
                "supplier": f"shop {mm}",
                "days": "3",
            },
            f"supplier {part}",
        )
    return (
        "hoses/act",
        {"act": "made", "line": line, "where": rnd.choice(("bench", "car"))},
        f"made {line}",
    )


def stands(build: Any, data: dict[str, Any]) -> Any:
    """What a build holds at the place of an act."""
    shop = build["shop"]
    if data["act"] == "tape":
        return next(e for e in build["circuit"]["elements"] if e["id"] == data["line"])["length"][
            "mm"
        ]
    if data["act"] == "price":
        return shop["prices"].get(data["key"])
    if data["act"] == "supplier":
        return (shop["suppliers"].get(data["key"]) or {}).get("supplier")
    return shop["made"].get(data["line"])


def wanted(data: dict[str, Any]) -> Any:
    if data["act"] == "tape":
        return pytest.approx(float(data["measured"].split()[0]))
    return {
        "price": lambda: pytest.approx(float(data["price"])),
        "supplier": lambda: data["supplier"],
        "made": lambda: data["where"],
    }[data["act"]]()


def test_different_hoses_never_refuse_one_another_and_the_same_field_does(
    post: Any, client: FlaskClient
) -> None:
    head = client.get("/builds/bittern/head").json["head"]
    one = post(
        "/builds/bittern/hoses/act",
        page="hoses",
        act="tape",
        line="H3",
        measured="1111 mm",
        head=head,
    )
    other = post(
        "/builds/bittern/hoses/act",
        page="hoses",
        act="tape",
        line="H4",
        measured="2222 mm",
        head=head,
    )
    assert (one.status_code, other.status_code) == (200, 200)
    late = post(
        "/builds/bittern/hoses/act",
        page="hoses",
        act="tape",
        line="H3",
        measured="1212 mm",
        head=head,
    )
    assert late.status_code == 409
    assert "H3" in late.json["message"] or "H4" in late.json["message"]
    lengths = {
        e["id"]: e["length"]["mm"]
        for e in document(client)["circuit"]["elements"]
        if e["id"] in ("H3", "H4")
    }
    assert lengths == {"H3": pytest.approx(1111), "H4": pytest.approx(2222)}
    assert client.get("/builds/bittern/head").json["head"] == other.json["head"]


def test_two_people_work_at_random_and_nothing_is_lost(post: Any, client: FlaskClient) -> None:
    """Each knows only what his own answers told him. What is taken stands until somebody else
    changes that very place; what is refused was changed meanwhile.
    """
    rnd = random.Random(25)
    knows = [client.get("/builds/bittern/head").json["head"]] * 2
    since: list[set[str]] = [
        set(),
        set(),
    ]  # what the other has changed since each last saw the build
    last: dict[str, dict[str, Any]] = {}
    refused = merged = 0
    for _ in range(40):
        me = rnd.randrange(2)
        path, data, place = acts(rnd)
        answer = post(f"/builds/bittern/{path}", page="hoses", view="buy", **data, head=knows[me])
        if answer.status_code == 409:
            assert place in since[me], f"{place} was refused though nobody touched it"
            refused += 1
            knows[me], since[me] = answer.json["head"], set()
            continue
        assert answer.status_code == 200, answer.json
        merged += bool(since[me])
        knows[me], since[me] = answer.json["head"], set()
        since[1 - me].add(place)
        last[place] = data
    now = document(client)
    assert {place: stands(now, data) for place, data in last.items()} == {
        place: wanted(data) for place, data in last.items()
    }
    assert merged > 8
    assert refused < 12


def test_what_two_changes_touch_is_told_apart_by_name() -> None:
    before = {
        "a": [
            {"id": "H1", "length": {"mm": 1, "source": "assumed"}},
            {"id": "H2", "length": {"mm": 1, "source": "typed"}},
        ],
        "b": {"x": 1, "y": 2},
        "c": [1, 2],
    }
    mine = {**before, "a": [{"id": "H1", "length": {"mm": 9, "source": "typed"}}, before["a"][1]]}
    theirs = {**before, "b": {"x": 5, "y": 2}, "c": [1, 2, 3]}
    assert touched(before, mine) == {("a", "H1", "length", "mm"), ("a", "H1", "length", "source")}
    assert touched(before, theirs) == {("b", "x"), ("c",)}
    assert not meet(touched(before, mine), touched(before, theirs))
    assert meet(touched(before, mine), touched(before, {**before, "a": [before["a"][1]]}))
    follows = {
        **before,
        "a": [{"id": "H1", "length": {"mm": 7, "source": "outline"}}, before["a"][1]],
    }
    assert not touched(before, follows), "a length that follows the drawing was touched by nobody"
