"""A run over HTTP: the fuel of a tank along it, the tank's inside as it is typed, and runs that are
brought in.
"""

import json
import re
from typing import Any

import pytest
from flask.testing import FlaskClient

from tall_heron.core.editing.demo import demo_builds

SEMICOLONS = "time (s);ax (g);ay (g)\n" + "".join(
    f"{i / 2:.1f};{0.6 if i < 20 else -0.9};0,1\n".replace(".", ",") for i in range(60)
)


def data_of(page: str) -> dict[str, Any]:
    found = re.search(r'id="slosh-data">(.*?)</script>', page, re.DOTALL)
    assert found
    data: dict[str, Any] = json.loads(found[1])
    return data


@pytest.mark.parametrize("slug", demo_builds())
def test_every_demo_build_runs(client: FlaskClient, slug: str) -> None:
    for run in ("lap", "launch", "descent"):
        data = data_of(client.get(f"/builds/{slug}/cases/run?run={run}&fill=30 %25").text)
        assert (
            len(data["slopes"]) == len(data["heights"]) == len(data["covered"]) == len(data["rail"])
        )


def test_bitterns_outlet_in_front_is_dry_in_braking_and_holds_from_more(
    client: FlaskClient,
) -> None:
    page = client.get("/builds/bittern/cases/run?run=lap&fill=35 L").text
    assert "the pump first draws air 6.2 s into the run" in page
    assert page.count("fuel runs forward, away from the outlet") >= 4
    full = client.get("/builds/bittern/cases/run?run=lap&fill=60 L").text
    assert "the outlet stays covered all the way" in full


def test_a_run_with_semicolons_and_decimal_commas_is_brought_in_kept_and_taken_away(
    post: Any, client: FlaskClient
) -> None:
    answer = post("/runs", name="My <b>lap</b>", text=SEMICOLONS)
    assert answer.status_code == 200
    key = answer.json["key"]
    page = client.get(f"/builds/egret/cases/run?run={key}").text
    assert "My &lt;b&gt;lap&lt;/b&gt;" in page
    assert "29.5 s" in page
    assert "“ax (g)” is acceleration ahead" in page
    assert data_of(page)["slopes"][0][0] == pytest.approx(-0.6)
    assert post("/runs", name="My <b>lap</b>", text=SEMICOLONS).json["key"] != key
    assert post("/runs/off", key=key).status_code == 200
    assert post("/runs/off", key=key).status_code == 422
    assert client.get(f"/builds/egret/cases/run?run={key}").status_code == 200


@pytest.mark.parametrize(
    ("sent", "field"),
    [
        ({"name": "", "text": SEMICOLONS}, "name"),
        ({"name": "x", "text": "no table"}, "text"),
        ({"name": "x", "text": SEMICOLONS.replace("ax (g)", "ax (furlong)")}, "text"),
    ],
)
def test_a_run_that_cannot_be_read_is_refused_beside_its_field(
    post: Any, client: FlaskClient, sent: dict[str, str], field: str
) -> None:
    answer = post("/runs", **sent)
    assert answer.status_code == 422
    assert answer.json["field"] == field
    assert "Lap of a circuit" in client.get("/builds/bittern/cases/run").text


def test_the_inside_of_a_tank_is_typed_drawn_and_undone(post: Any, client: FlaskClient) -> None:
    before = client.get("/builds/stonechat/build.json").json
    typed = {
        "tank": "S1",
        "ahead": "4 in",
        "right": "",
        "lies": "across",
        "walls": "across 150 mm, 6 cm2, back\nalong 300 mm, 400 mm2",
        "side": "",
        "hump_high": "",
        "hump_wide": "",
    }
    head = int(re.search(r'data-head="(\d+)"', client.get("/builds/stonechat/circuit").text)[1])  # type: ignore[index]
    assert post("/builds/stonechat/cases/inside", head=head, **typed).status_code == 200
    page = client.get("/builds/stonechat/cases/run").text
    assert "across 150 mm, 6 cm2, back\nalong 300 mm, 4 cm2</textarea>" in page
    data = data_of(page)
    assert (data["long"], data["wide"], data["outlet"][0]) == (420, 640, 101.6)
    assert len({p[0] for p in data["prisms"]}) == 4
    assert "Assumed:</b> its outlet in the middle of its width" in page
    head = int(re.search(r'data-head="(\d+)"', page)[1])  # type: ignore[index]
    assert post("/builds/stonechat/undo", head=head).status_code == 200
    assert client.get("/builds/stonechat/build.json").json["circuit"] == before["circuit"]


@pytest.mark.parametrize(
    ("typed", "field", "says"),
    [
        ({"ahead": "3 psi"}, "ahead", "unit of pressure"),
        ({"walls": "a wall"}, "walls", "across 380 mm"),
        ({"walls": "across 100 mm, 2 cm2, left"}, "walls", "forward or back"),
        ({"walls": "across 100 mm, 2 cm2\nacross 101 mm, 2 cm2"}, "walls", "at least 5 mm"),
        ({"side": "0 0; 600 0"}, "side", "three points"),
        ({"side": "0 0; 600 0; 0 200; 600 200"}, "side", "crosse"),
        ({"side": "0 0; a b"}, "side", "ahead and up in mm"),
        ({"hump_high": "100 mm"}, "hump_high", "height and its width"),
    ],
)
def test_an_inside_that_cannot_be_is_refused_beside_its_field(
    post: Any, typed: dict[str, str], field: str, says: str
) -> None:
    answer = post("/builds/bittern/cases/inside", tank="S1", **typed)
    assert answer.status_code == 422
    assert answer.json["field"] == field
    assert says in answer.json["message"]


@pytest.mark.parametrize("fill", ["", "0", "500 L", "3 bar", "−4 L", "101 %", "1e9"])
def test_a_fill_that_cannot_be_is_said_and_the_page_stands(client: FlaskClient, fill: str) -> None:
    page = client.get("/builds/bittern/cases/run", query_string={"fill": fill})
    assert page.status_code == 200
    assert ('class="wrong" role="alert">' in page.text.split("</form>")[0]) == bool(fill)
