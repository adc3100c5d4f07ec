"""Packs of parts through the pages: looked at, taken whole or not at all, handed on."""

import re

import pytest
from flask.testing import FlaskClient

GOOD = "kind,title,price,bore_mm,dash\nhose,Own hose A,18,11,-8\nfitting,Own tee,9,10,-8\n"


@pytest.fixture
def send(client: FlaskClient):  # type: ignore[no-untyped-def]
    token = re.search(r'name="csrf"[^>]*content="([^"]+)"', client.get("/shelf").text)
    assert token

    def sent(text: str, take: bool = False):  # type: ignore[no-untyped-def]
        return client.post(
            f"/shelf/pack{'?take=1' if take else ''}",
            data=text.encode(),
            headers={"X-CSRFToken": token[1], "Accept": "application/json"},
        ).json

    return sent


def test_a_pack_is_looked_at_taken_and_handed_on(client: FlaskClient, send) -> None:  # type: ignore[no-untyped-def]
    assert "2 new, 0 other" in send(GOOD)["piece"]
    assert "Own hose A" not in client.get("/shelf").text
    assert send(GOOD, take=True)["taken"] == 2
    assert "Own hose A" in client.get("/shelf").text
    dearer = send(GOOD.replace(",18,", ",21,"))["piece"]
    assert "0 new, 1 other than on the shelf, 1 as they are" in dearer
    assert "properties.price" in dearer
    out = client.get("/shelf/pack.csv").text
    assert client.get("/shelf/pack.json").json["format"] == "tall-heron-pack/1"
    assert "0 new, 0 other" in send(out)["piece"]
    assert "0 new, 0 other" in send(client.get("/shelf/pack.json").text)["piece"]
    assert client.get("/shelf/pack.schema.json").json["title"] == "tall-heron-pack/1"
    assert client.get("/shelf/pack.exe").status_code == 404


def test_of_a_spoilt_pack_nothing_is_taken(client: FlaskClient, send) -> None:  # type: ignore[no-untyped-def]
    answer = send(GOOD.replace(",11,", ",wide,"), take=True)
    assert answer["faults"][0][:2] == [2, "bore_mm"]
    assert "Nothing is taken" in answer["piece"]
    assert "Own tee" not in client.get("/shelf").text
    assert send(GOOD.replace(",-8", ",wide-8", 1))["faults"] == [
        [2, "dash", "“wide-8” is not a dash size. Write for example -8, or 1/2 in for its tube."]
    ]
