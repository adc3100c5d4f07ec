"""Station 6 over HTTP: its pages, its acts and what they refuse, its files."""

import csv
import io
import json
import re
from typing import Any

import pytest
from flask.testing import FlaskClient

from tall_heron.core.editing.demo import demo_builds
from tall_heron.web.stations.hoses.context import CONTEXTS


@pytest.mark.parametrize("slug", demo_builds())
def test_every_page_of_every_demo(client: FlaskClient, slug: str) -> None:
    for view in CONTEXTS:
        page = client.get(f"/builds/{slug}/hoses/{view}")
        assert page.status_code == 200, view
        text = re.sub(r"<[^>]*>", " ", page.text)
        assert not re.search(r"\b(None|nan|True|False)\b", text), view
        pieces = client.get(
            f"/builds/{slug}/hoses/{view}", headers={"Accept": "application/json"}
        ).json["pieces"]
        assert pieces["bench-view"]
    assert client.get(f"/builds/{slug}/hoses/nothing").status_code == 404
    assert client.get(f"/builds/{slug}/plate.dxf").status_code == (404 if slug == "plover" else 200)


def act(post: Any, view: str, **data: Any) -> Any:
    return post("/builds/bittern/hoses/act", page="hoses", view=view, **data)


def document(client: FlaskClient) -> Any:
    return json.loads(client.get("/builds/bittern/build.json").data)


def test_each_act_is_kept_named_and_undone(post: Any, client: FlaskClient) -> None:
    before = document(client)
    acts = [
        (
            {"act": "face", "part": "F2", "port": "end", "face": "metric M18x1.5"},
            "joints",
            "F2 end: metric M18x1.5",
        ),
        ({"act": "adapters", "joint": "H3.b", "names": "step-8-10"}, "joints", "H3.b: step-8-10"),
        ({"act": "made", "line": "H3", "where": "car"}, "cut", "H3: made in the car"),
        ({"act": "tape", "line": "H4", "measured": "15 ft 3 in"}, "cut", "H4: measured 15 ft 3 in"),
        (
            {"act": "have", "key": "nipple-8", "title": "nipple", "unit": "piece", "there": "1"},
            "buy",
            "nipple: there",
        ),
        (
            {
                "act": "price",
                "key": "marrow-340",
                "title": "Marrow",
                "unit": "piece",
                "price": "150,5",
            },
            "buy",
            "Marrow: price typed",
        ),
        ({"act": "money", "currency": "EUR", "rate": "0.92"}, "buy", "Prices in EUR"),
        ({"act": "stock", "stock": "coils"}, "buy", "Hose bought in coils"),
        (
            {"act": "offcuts", "name": "ptfe-10", "lengths": "1.2 m; 30 in"},
            "buy",
            "ptfe-10: 2 lengths of yours",
        ),
        ({"act": "later", "part": "H3", "later": "ptfe-12"}, "buy", "H3: ptfe-12 in spring"),
        (
            {
                "act": "plate part",
                "part": "F2",
                "x": "80 mm",
                "y": "4 in",
                "turned": "45°",
                "off": "no",
            },
            "plate",
            "Plate: F2 moved",
        ),
        (
            {
                "act": "plate size",
                "wide": "300",
                "high": "",
                "thick": "3 mm",
                "screw": "",
                "slot": "",
                "inset": "",
            },
            "plate",
            "Plate: its measures",
        ),
        ({"act": "plate fold", "side": "top", "fold": "20"}, "plate", "Plate: top folded"),
        (
            {
                "act": "injectors",
                "gap_mm": "34",
                "rail_bore_mm": "13.5",
                "manifold_bore_mm": "",
                "plug_room_mm": "50",
            },
            "fits",
            "Injectors: as measured",
        ),
        (
            {"act": "rail", "across_mm": "32", "bore_mm": "", "deep_mm": "1 in", "port": "port -8"},
            "fits",
            "Rail: as measured",
        ),
        ({"act": "tank gap", "tank": "S1", "gap": "1/2 in"}, "tank", "S1: gap under its pickup"),
    ]
    for data, view, name in acts:
        answer = act(post, view, **data)
        assert answer.status_code == 200, (data, answer.json)
        assert f"Undo: {name}" in answer.json["pieces"]["head"]
    shop = document(client)["shop"]
    assert shop["offcuts"]["ptfe-10"] == pytest.approx([1200, 762])
    assert shop["prices"]["marrow-340"] == pytest.approx(150.5)  # typed before the currency changed
    assert shop["plate"]["parts"][0] == {
        "part": "F2",
        "x_mm": pytest.approx(80),
        "y_mm": pytest.approx(101.6),
        "turned_deg": 45,
    }
    assert shop["tank_gap_mm"]["S1"] == pytest.approx(12.7)
    page = client.get("/builds/bittern/hoses/buy").text
    assert "€" in page
    assert act(post, "plate", act="plate anew").status_code == 200
    for _ in range(len(acts) + 1):
        assert post("/builds/bittern/undo", page="hoses").status_code == 200
    assert document(client) == before


REFUSED = [
    ({"act": "face", "part": "F2", "port": "end", "face": "port -9"}, "no thread that is known"),
    ({"act": "face", "part": "Z9", "port": "end", "face": "port -8"}, "no part Z9"),
    ({"act": "adapters", "joint": "RL.end", "names": "pipe-4"}, "does not join"),
    ({"act": "into circuit", "joint": "H4.b"}, "nothing between"),
    ({"act": "made", "line": "H3", "where": "pub"}, "bench or in the car"),
    ({"act": "tape", "line": "H3", "measured": "5 bar"}, "length"),
    ({"act": "have", "key": "x", "title": "x", "unit": "piece", "there": "many"}, "not a number"),
    (
        {"act": "price", "key": "x", "title": "x", "unit": "piece", "price": "-3"},
        "lies between 0 and",
    ),
    ({"act": "price", "key": "x", "title": "x", "unit": "piece", "price": "99999999"}, "1000000"),
    ({"act": "money", "currency": "XXX", "rate": "1"}, "Choose a currency"),
    ({"act": "money", "currency": "EUR", "rate": "0"}, "how much of it"),
    ({"act": "stock", "stock": "by the mile"}, "coils, by the foot"),
    ({"act": "offcuts", "name": "ptfe-10", "lengths": "1 mm"}, "between 10 mm and 100 m"),
    ({"act": "offcuts", "name": "ptfe-99", "lengths": "1 m"}, "Choose a hose"),
    ({"act": "later", "part": "H3", "later": "marrow-450"}, "cannot take the place"),
    (
        {"act": "plate part", "part": "P9", "x": "", "y": "", "turned": "", "off": "no"},
        "no part P9",
    ),
    (
        {"act": "plate part", "part": "F2", "x": "9 km", "y": "", "turned": "", "off": "no"},
        "not a unit",
    ),
    (
        {
            "act": "plate size",
            "wide": "1 mm",
            "high": "",
            "thick": "",
            "screw": "",
            "slot": "",
            "inset": "",
        },
        "20",
    ),
    ({"act": "plate fold", "side": "middle", "fold": "10"}, "Choose a side"),
    (
        {
            "act": "injectors",
            "gap_mm": "1 m",
            "rail_bore_mm": "",
            "manifold_bore_mm": "",
            "plug_room_mm": "",
        },
        "300",
    ),
    (
        {"act": "rail", "across_mm": "", "bore_mm": "", "deep_mm": "", "port": "hole"},
        "no thread that is known",
    ),
    ({"act": "tank gap", "tank": "S1", "gap": "3 m"}, "200"),
    ({"act": "dance"}, "not done here"),
]


@pytest.mark.parametrize(
    ("data", "says"), REFUSED, ids=[f"{d['act']}-{i}" for i, (d, _) in enumerate(REFUSED)]
)
def test_what_cannot_be_is_refused_in_words_and_nothing_is_kept(
    post: Any, client: FlaskClient, data: dict[str, str], says: str
) -> None:
    before = document(client)
    answer = act(post, "joints", **data)
    assert answer.status_code == 422, answer.json
    assert says in answer.json["message"]
    assert document(client) == before


def test_the_buy_list_as_csv_gives_the_totals_of_the_page(client: FlaskClient, post: Any) -> None:
    act(post, "buy", act="money", currency="EUR", rate="0.5")
    page = client.get("/builds/bittern/hoses/buy").text
    rows = list(csv.DictReader(io.StringIO(client.get("/builds/bittern/buy-list.csv").text)))
    total = float(rows[-1]["price"])
    assert sum(float(r["price"] or 0) for r in rows[:-1]) == pytest.approx(total, abs=0.01)
    foot = re.search(r"Together</th><td><b>([\d,.]+)</b>", page)
    assert foot
    assert float(foot[1].replace(",", "")) == pytest.approx(total, abs=0.3)
    assert {r["currency"] for r in rows} == {"EUR"}


def test_the_order_says_all_a_maker_needs_on_its_page_too(client: FlaskClient) -> None:
    for rule in ("seat to seat", "overall"):
        page = client.get(f"/builds/bittern/hoses/order?rule={rule}").text
        for row in csv.DictReader(
            io.StringIO(client.get(f"/builds/bittern/hose-order.csv?rule={rule}").text)
        ):
            shown = f"{float(row['length_mm']):,.1f} mm"
            assert shown in page, (rule, row["label"])
            assert row["label"] in page
            assert row["length_rule"].startswith(rule)
    assert "end B points up at 0, to the right at 90" in page


def test_texts_of_ones_own_stand_as_they_are_and_start_no_formula(
    client: FlaskClient, post: Any
) -> None:
    """A name and runs that look like a formula, a template or a tag."""
    post("/builds/bittern/rename", name="=1+1 {{x}} <b>")
    data = document(client)
    for e in data["circuit"]["elements"]:
        if e["id"] == "H3":
            e["runs"] = "=HYPERLINK(1) {brace} <i>"
            e["title"] = "@title"
    answer = client.post(
        "/builds",
        data={
            "file": (io.BytesIO(json.dumps(data).encode()), "x.json"),
            "csrf_token": re.search(r'name="csrf" content="([^"]+)"', client.get("/").text)[1],
        },
    )  # type: ignore[index]
    slug = answer.headers["Location"].split("/")[2]
    for view in ("order", "buy", "labels"):
        text = client.get(f"/builds/{slug}/hoses/{view}").text
        assert "<i>" not in text.replace("<i></i>", "")
    rows = list(csv.DictReader(io.StringIO(client.get(f"/builds/{slug}/cut-list.csv").text)))
    assert next(r for r in rows if r["hose"] == "H3")["runs"] == "'=HYPERLINK(1) {brace} <i>"


def test_a_length_that_claims_to_be_drawn_is_held_to_its_drawing(client: FlaskClient) -> None:
    """A file that says 900 mm of a line it draws longer is not believed; one that draws nothing is
    a guess.
    """

    def opened(data: dict[str, Any]) -> dict[str, Any]:
        csrf = re.search(r'name="csrf" content="([^"]+)"', client.get("/").text)
        assert csrf
        answer = client.post(
            "/builds",
            data={"file": (io.BytesIO(json.dumps(data).encode()), "x.json"), "csrf_token": csrf[1]},
        )
        again = client.get(f"/builds/{answer.headers['Location'].split('/')[2]}/build.json").json
        return next(e["length"] for e in again["circuit"]["elements"] if e["id"] == "H3")

    data = document(client)
    line = next(e for e in data["circuit"]["elements"] if e["id"] == "H3")
    assert line["length"]["source"] in ("route", "outline")
    drawn = line["length"]["mm"]
    assert opened(data)["mm"] == drawn
    line["length"]["mm"] = 900.0
    assert opened(data)["mm"] == drawn
    data["space"]["routes"].pop("H3")
    assert opened(data) | {"mm": 900.0, "source": "assumed"} == opened(data)


def test_own_ends_with_legs_are_drawn_with_them(client: FlaskClient, post: Any) -> None:
    fields = {
        "hose": "H3",
        "field": "own_b",
        "text": "",
        "angle": "45",
        "take": "38 mm",
        "bore": "10 mm",
        "leg_a": "20 mm",
        "leg_b": "30 mm",
        "inserted": "12 mm",
        "page": "hoses",
    }
    assert post("/builds/bittern/hose", **fields).status_code == 200
    end = next(e for e in document(client)["circuit"]["elements"] if e["id"] == "H3")["end_b"]
    assert (end["leg_a_mm"], end["leg_b_mm"], end["inserted_mm"], end["take_up_mm"]) == (
        20,
        30,
        12,
        38,
    )
    for more, says in (
        ({"take": "50 mm"}, "make 38 mm"),
        ({"leg_a": ""}, "both legs"),
        ({"leg_a": "x"}, "x"),
    ):
        answer = post("/builds/bittern/hose", **(fields | more))
        assert answer.status_code == 422
        assert says in answer.json["message"]
    row = next(
        csv.DictReader(
            io.StringIO(
                "\n".join(
                    [
                        (t := client.get("/builds/bittern/hose-order.csv").text).splitlines()[0],
                        *[x for x in t.splitlines() if x.startswith("H3")],
                    ]
                )
            )
        )
    )
    assert (row["end_b_seat_to_corner_mm"], row["end_b_corner_to_hose_mm"]) == ("20", "30")
