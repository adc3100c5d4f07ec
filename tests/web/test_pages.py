"""Pages and changes: status and wording; the numbers are the core's."""

import csv
import html
import io
import json
import re
import sqlite3
from pathlib import Path
from typing import Any

import click
import pytest
from flask import Flask
from flask.testing import FlaskClient

from tall_heron.core.design import design
from tall_heron.core.document.build import dump
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import remove
from tall_heron.core.rules import CASE_RULES, ROUTE_RULES, RULES, WIRING_RULES
from tall_heron.store import builds, db
from tall_heron.web import create_app
from tall_heron.web.server import bind

PAGES = [
    "/",
    "/builds/bittern/brief",
    "/builds/bittern/circuit",
    "/builds/bittern/circuit?part=P1&case=idle",
    "/builds/bittern/hoses?hose=H3",
    "/builds/bittern/layout",
    "/builds/dunlin/layout",
    "/builds/dunlin/circuit?part=C1",
    "/builds/bittern/sheet?case=idle",
    "/shelf",
]


@pytest.mark.parametrize("path", PAGES)
def test_pages_open_with_a_strict_policy(client: FlaskClient, path: str) -> None:
    response = client.get(path)
    assert response.status_code == 200
    policy = response.headers["Content-Security-Policy"]
    assert "script-src 'self';" in policy
    assert "unsafe" not in policy
    assert not re.search(r"<script(?![^>]*src=)|\sstyle=|\son[a-z]+=", response.text)
    assert "Before you touch fuel" in response.text


def test_a_change_of_power_brings_a_finding_and_a_revision(post: Any, client: FlaskClient) -> None:
    answer = post("/builds/bittern/brief", field="power_kw", text="700 hp")
    assert answer.status_code == 200
    assert "cannot keep up at low voltage" in answer.json["pieces"]["findings"]
    assert "Undo: Power wanted: 620 hp to 700 hp" in answer.json["pieces"]["head"]
    assert answer.json["fields"]["power_kw"] == "700 hp"
    back = post("/builds/bittern/undo")
    assert "the rail sags" in answer.json["pieces"]["findings"]
    assert "the rail sags" not in back.json["pieces"]["findings"]
    again = post("/builds/bittern/undo", way="redo")
    assert "cannot keep up" in again.json["pieces"]["findings"]
    assert post("/builds/bittern/undo", way="redo").status_code == 409
    assert post("/builds/bittern/undo", head="x").status_code == 400


@pytest.mark.parametrize(
    ("field", "text", "says"),
    [
        ("power_kw", "-5 hp", "lies between"),
        ("power_kw", "1e9 hp", "lies between"),
        ("power_kw", "", "is empty"),
        ("power_kw", "58 psi", "unit of pressure"),
        ("power_kw", "lots", "not a number"),
        ("fuel", "diesel", "E0 to E100"),
        ("base_kpa", "4000 bar", "lies between"),
        ("cylinders", "six", "whole number"),
        ("cylinders", "0", "lies between 1 and 48"),
        ("cylinders", "", "Write a whole number"),
        ("title", "x" * 121, "at most 120 characters"),
        ("voltage_v", "1,400 V", "1400 or 1.400"),
        ("altitude_m", "40000 ft", "lies between"),
        ("season", "monsoon", "summer"),
        ("horn", "loud", "no such field"),
    ],
)
def test_a_bad_value_is_refused_beside_its_field_and_nothing_is_kept(
    post: Any, client: FlaskClient, field: str, text: str, says: str
) -> None:
    before = client.get("/builds/bittern/build.json").text
    answer = post("/builds/bittern/brief", field=field, text=text)
    assert answer.status_code == 422
    assert says in answer.json["message"]
    assert client.get("/builds/bittern/build.json").text == before


@pytest.mark.parametrize(
    ("path", "data", "says"),
    [
        ("fit", {"part": "F2", "name": "marrow-340"}, "cannot take the place"),
        ("fit", {"part": "F9", "name": "reedmace-10g"}, "no part F9"),
        ("fit", {"part": "F2"}, "missing"),
        ("hose", {"hose": "H3", "field": "length", "text": "-2 m"}, "between 1 mm"),
        ("hose", {"hose": "H3", "field": "length", "text": "3 psi"}, "unit of pressure"),
        ("hose", {"hose": "H3", "field": "end_a", "text": "35"}, "no 35° end"),
        ("hose", {"hose": "H3", "field": "size", "text": "-7"}, "not a usual size"),
        ("hose", {"hose": "H3", "field": "size", "text": "-20"}, "cannot take the place"),
    ],
)
def test_a_part_or_hose_that_cannot_be_is_refused(
    post: Any, path: str, data: dict[str, str], says: str
) -> None:
    answer = post(f"/builds/bittern/{path}", **data)
    assert answer.status_code == 422
    assert says in answer.json["message"]


def test_fitting_a_part_and_changing_a_hose(post: Any, client: FlaskClient) -> None:
    answer = post("/builds/bittern/fit", part="F2", name="reedmace-10g")
    assert "paper will not last" not in answer.json["pieces"]["findings"]
    answer = post("/builds/bittern/hose", page="hoses", hose="H3", field="length", text="4 m")
    assert "3,918" in answer.json["pieces"]["cuts"]
    answer = post("/builds/bittern/hose", page="hoses", hose="H3", field="end_a", text="0")
    assert "3,937" in answer.json["pieces"]["cuts"]
    assert (
        "−8 braided PTFE"
        in post("/builds/bittern/hose", page="hoses", hose="H3", field="size", text="1/2 in").json[
            "pieces"
        ]["hose-card"]
    )
    assert (
        post("/builds/bittern/hose", page="hoses", hose="H3", field="size", text="-10").status_code
        == 200
    )
    table = client.get("/builds/bittern/cut-list.csv").text
    assert "H3,filter to rail,F,-10" in table
    assert ",3937.0," in table


def test_a_change_on_an_old_revision_is_told_and_nothing_is_kept(post: Any) -> None:
    post("/builds/bittern/brief", field="power_kw", text="640 hp")
    late = post("/builds/bittern/brief", field="power_kw", text="660 hp", head=1)
    assert late.status_code == 409
    assert "changed elsewhere" in late.json["message"]
    assert (
        post("/builds/bittern/brief", field="fuel", text="E70").json["fields"]["power_kw"]
        == "640 hp"
    )


def test_a_change_that_lands_while_another_is_answered_is_never_taken_for_it(
    post: Any, client: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The build of one document was kept under the hash of the next where that was saved before the
    first was answered.
    """
    save = builds.save

    def overtaken(
        connection: sqlite3.Connection,
        build: int,
        on: int,
        act: str,
        document: str,
        fresh: bool = False,
    ) -> int:
        first = save(connection, build, on, act, document, fresh)
        save(
            connection,
            build,
            first,
            "by another",
            document.replace('"fuel": "E85"', '"fuel": "E50"'),
        )
        return first

    monkeypatch.setattr(builds, "save", overtaken)
    assert post("/builds/bittern/brief", field="fuel", text="E85").json["fields"]["fuel"] == "E50"
    assert "620 hp · E50" in client.get("/builds/bittern/brief").text


def test_requests_from_outside_are_refused(client: FlaskClient) -> None:
    assert (
        client.post("/builds/bittern/brief", json={"field": "fuel", "text": "E0"}).status_code
        == 400
    )
    assert client.post("/builds", data={"name": "x"}).status_code == 400
    assert client.get("/", headers={"Host": "evil.example"}).status_code == 400
    assert client.get("/builds/nightjar/circuit").status_code == 404


def start(client: FlaskClient, **data: Any) -> Any:
    token = re.search(r'name="csrf_token" value="([^"]+)"', client.get("/").text)
    assert token
    return client.post(
        "/builds", data={"csrf_token": token.group(1)} | data, content_type="multipart/form-data"
    )


def test_new_builds_by_name_and_by_file(client: FlaskClient) -> None:
    name = '<script>alert("x")</script> & Co'
    answer = start(client, name=name)
    assert answer.status_code == 302
    page = client.get(answer.headers["Location"])
    assert page.status_code == 200
    assert "<script>alert" not in page.text
    assert "&lt;script&gt;alert" in page.text
    assert start(client, name="").status_code == 422
    text = dump(demo_builds()["bittern"])
    assert (
        start(client, file=(io.BytesIO(text.encode()), "b.json")).headers["Location"]
        == "/builds/bittern-2/brief"
    )
    wrong = start(client, file=(io.BytesIO(b"{}"), "b.json"))
    assert wrong.status_code == 422
    assert "/circuit: is missing" in wrong.text
    big = client.post(
        "/builds", data=b"x" * 2_000_000, content_type="multipart/form-data; boundary=x"
    )
    assert big.status_code == 413
    assert "too large" in big.text


def test_a_build_without_pumps_or_brief_explains_and_does_not_fail(
    app: Flask, client: FlaskClient
) -> None:
    build = demo_builds()["bittern"]
    with db.opened(app.config["DATABASE"]) as connection:
        builds.create(connection, "No pumps", dump(remove(remove(build, "P1"), "P2")), "made")
        builds.create(
            connection, "No brief", dump(build.model_copy(update={"brief": None})), "made"
        )
    for page in ("brief", "circuit", "hoses", "circuit?part=K1&case=idle"):
        answer = client.get(f"/builds/no-pumps/{page}")
        assert answer.status_code == 200, page
    text = client.get("/builds/no-pumps/circuit").text
    assert "The circuit does not solve" in text
    assert "nothing is joined to it there" in text
    assert client.get("/builds/no-brief/circuit").status_code == 409
    assert "no brief" in client.get("/builds/no-brief/place").json["place"]


def test_an_empty_bench_says_how_to_begin(tmp_path: Path) -> None:
    client = create_app(tmp_path / "new.sqlite").test_client()
    assert "No build yet" in client.get("/").text


def test_the_shown_conversion(client: FlaskClient) -> None:
    answer = client.get("/convert?text=4+bar&quantity=pressure&unit=psi&shown=psi").json
    assert answer == {"shown": "58.0 psi", "message": ""}
    assert (
        "US or imperial"
        in client.get("/convert?text=20+gal&quantity=volume&unit=l").json["message"]
    )
    assert json.loads(client.get("/convert?text=x&quantity=horn&unit=l").text)["shown"] == ""


def test_a_finding_is_accepted_only_with_a_reason_and_shows_it(
    post: Any, client: FlaskClient
) -> None:
    bare = post("/builds/bittern/accept", rule="P-01", part_found="P1", text=" ")
    assert bare.status_code == 422
    assert "Write the reason" in bare.json["message"]
    kept = post(
        "/builds/bittern/accept", rule="P-01", part_found="P1", text="raced in <winter> only"
    )
    assert "raced in &lt;winter&gt; only" in kept.json["pieces"]["findings"]
    assert "P-01 P1 accepted" in kept.json["pieces"]["head"]
    back = post("/builds/bittern/accept", rule="P-01", part_found="P1", text="", way="back")
    assert "raced in" not in back.json["pieces"]["findings"]


def test_the_house_rules_are_those_that_run(client: FlaskClient) -> None:
    text = client.get("/rules").text
    for rule in (*RULES, *CASE_RULES, *ROUTE_RULES, *WIRING_RULES):
        assert f'id="{rule.id}"' in text
    assert "Rules" in client.get("/").text


def form(client: FlaskClient, path: str, page: str, **data: Any) -> Any:
    token = re.search(r'name="csrf_token" value="([^"]+)"', client.get(page).text)
    assert token
    return client.post(path, data={"csrf_token": token.group(1)} | data)


def test_history_names_every_act_and_an_old_revision_is_taken_up_again(
    post: Any, client: FlaskClient
) -> None:
    post("/builds/bittern/brief", field="power_kw", text="700 hp")
    post("/builds/bittern/fit", part="F2", name="reedmace-10g")
    page = client.get("/builds/bittern/history").text
    for act in (
        "Laid on the bench",
        "Power wanted: 620 hp to 700 hp",
        "F2: Reedmace 10 µm glass fiber, 150 mm",
    ):
        assert act in page
    before = client.get("/builds/bittern/build.json").text
    assert (
        form(client, "/builds/bittern/back", "/builds/bittern/history", revision=1).status_code
        == 302
    )
    assert "620 hp" in client.get("/builds/bittern/circuit").text
    assert "Back to “Laid on the bench”" in client.get("/builds/bittern/history").text
    post("/builds/bittern/undo")
    assert client.get("/builds/bittern/build.json").text == before
    assert (
        form(client, "/builds/bittern/back", "/builds/bittern/history", revision=999).status_code
        == 404
    )


def test_a_variant_is_compared_side_by_side(post: Any, client: FlaskClient) -> None:
    assert (
        form(client, "/builds/bittern/variant", "/builds/bittern/history", name="").status_code
        == 422
    )
    assert (
        form(
            client, "/builds/bittern/variant", "/builds/bittern/history", name="Bittern on E85"
        ).headers["Location"]
        == "/builds/bittern-on-e85/circuit"
    )
    post("/builds/bittern/fit", part="F2", name="reedmace-10g")
    post("/builds/bittern/brief", field="power_kw", text="700 hp")
    page = client.get("/compare?a=bittern&b=bittern-on-e85").text
    for text in (
        "Power wanted",
        "700 hp",
        "620 hp",
        "Reedmace 10 µm glass fiber",
        "Reedmace 10 µm paper",
        "right only",
        "the whole circuit supports",
    ):
        assert text in page
    assert "Nothing." in client.get("/compare?a=1&b=bittern-on-e85").text
    assert client.get("/compare?a=bittern&b=nightjar").status_code == 404
    assert client.get("/compare?a=bittern&b=99").status_code == 404


def test_a_price_makes_an_hour_cost(post: Any) -> None:
    answer = post("/builds/bittern/price", page="brief", fuels=True, fuel="E70", text="1,50 $/L")
    assert "481." in answer.json["pieces"]["fuels"] or "480." in answer.json["pieces"]["fuels"]
    for text in ("dear", "-1", "5000"):
        assert post("/builds/bittern/price", page="brief", fuel="E70", text=text).status_code == 422
    assert post("/builds/bittern/price", page="brief", fuel="diesel", text="1").status_code == 422
    assert (
        "480."
        not in post("/builds/bittern/price", page="brief", fuels=True, fuel="E70", text="").json[
            "pieces"
        ]["fuels"]
    )


def test_a_taken_port_gives_way_to_the_next() -> None:
    with bind("127.0.0.1", 0) as taken:
        port = taken.getsockname()[1]
        with bind("127.0.0.1", port) as other:
            assert port < other.getsockname()[1] <= port + 9
    with pytest.raises(click.ClickException, match="Name another with --port"):
        bind("192.0.2.1", 8080)


def test_a_layout_is_chosen_and_undone(post: Any, client: FlaskClient) -> None:
    asked = post("/builds/bittern/layout", layout="C1", rails="dead-end")
    assert (asked.status_code, asked.json["field"]) == (422, "sure")
    assert (
        "gives up H1 −10 fuel rubber R9, F2 Reedmace 10 µm paper" in asked.json["message"]
    )  # both are a Stop where they are
    answer = post("/builds/bittern/layout", layout="C1", rails="dead-end", sure=True)
    assert answer.status_code == 200
    assert (
        "Undo: Layout: return, regulator after the rail, second rail at a dead end"
        in answer.json["pieces"]["head"]
    )
    assert 'id="choice-C1-dead-end"' in answer.json["pieces"]["choices"]
    assert "RL2" in client.get("/builds/bittern/circuit").text
    back = post("/builds/bittern/layout", layout="C1", rails="single", sure=True)
    assert "without H7, RL2, J2" in back.json["pieces"]["head"]
    for layout, rails in (("C5", "series"), ("B9", "single"), ("C4", "parallel")):
        assert post("/builds/bittern/layout", layout=layout, rails=rails).status_code == 422


PUMP = {
    "kind": "pump",
    "title": "Pump from the tin",
    "provenance": "sheet",
    "pump_kind": "turbine",
    "mount": "in-tank",
}
TANK = {
    "kind": "tank",
    "title": "alloy tank",
    "provenance": "measured",
    "sort": "tank",
    "holds": "40 L",
    "inside": "",
    "breathes": "line",
}
SHEET = "flow (L/h); pressure (kPa); current (A)\n0; 900; 17\n300; 600; 13\n500; 0; 5"


def test_a_pump_of_ones_own_is_kept_fitted_and_taken_off(post: Any, client: FlaskClient) -> None:
    wrong = post("/shelf", **PUMP, points=SHEET.replace("kPa", "bar"))
    assert (wrong.status_code, wrong.json["field"]) == (422, "points")
    assert (
        "Line 2: 900 bar is more than any fuel pump gives. Is the column in kpa?"
        in wrong.json["message"]
    )
    assert (
        "Is the column in kpa?"
        in post("/shelf/preview", points=SHEET.replace("kPa", "bar")).json["piece"]
    )
    assert "<polyline" in post("/shelf/preview", points=SHEET).json["piece"]
    kept = post("/shelf", **PUMP, points=SHEET)
    assert kept.json["name"] == "own-pump-from-the-tin"
    assert (
        post("/shelf", **PUMP, points=SHEET, second="yes").json["name"] == "own-pump-from-the-tin-2"
    )
    assert (
        "Try Pump from the tin"
        in client.get("/builds/bittern/swaps?part=P1&page=circuit").json["pieces"]["swaps"]
    )
    tried = client.get(
        "/builds/bittern/circuit?part=P1&try=own-pump-from-the-tin",
        headers={"Accept": "application/json"},
    ).json
    assert "Trying Pump from the tin" in tried["pieces"]["card"]
    assert post("/builds/bittern/fit", part="P1", name=kept.json["name"]).status_code == 200
    assert post("/shelf/off", name=kept.json["name"]).status_code == 200
    assert post("/shelf/off", name=kept.json["name"]).status_code == 422
    assert "Pump from the tin" in client.get("/builds/bittern/circuit?part=P1").text


@pytest.mark.parametrize(
    ("data", "field", "says"),
    [
        ({"kind": "anvil"}, "kind", "Choose what it is"),
        (PUMP | {"points": SHEET, "title": ""}, "title", "is empty"),
        (PUMP | {"points": SHEET, "relief": "9 L"}, "relief", "unit of volume"),
        (PUMP | {"points": SHEET, "ethanol": "900 %"}, "title", "less than or equal to 100"),
        (PUMP | {"points": ""}, "points", "Give a line of headers"),
        (PUMP | {"points": SHEET, "mount": "roof"}, "mount", "choose one of"),
        (
            {"kind": "hose", "title": "stock line", "provenance": "guessed", "bore": "0"},
            "bore",
            "above zero",
        ),
        (
            {
                "kind": "hose",
                "title": "stock line",
                "provenance": "guessed",
                "bore": "8 mm",
                "dash": "-7",
            },
            "dash",
            "not a usual size",
        ),
        (
            {
                "kind": "check",
                "title": "k",
                "provenance": "guessed",
                "bore": "8",
                "cracking": "2",
                "loss": "few",
            },
            "loss",
            "not a number",
        ),
        (TANK | {"holds": "0"}, "holds", "above zero"),
        (TANK | {"holds": "12 gal"}, "holds", "US or imperial"),
        (TANK | {"sump": "2 L"}, "deep", "both"),
        (TANK | {"sump": "45 L", "deep": "50"}, "sump", "less than that"),
        (TANK | {"long": "300", "wide": "300", "high": "300"}, "holds", "holds 27 L at most"),
        (TANK | {"openings": "4.5"}, "openings", "whole number"),
        (
            {
                "kind": "regulator",
                "title": "r",
                "provenance": "sheet",
                "holds": "inlet",
                "low": "6 bar",
                "high": "2 bar",
                "rise": "3",
                "over": "300",
                "seat": "6",
                "reference": "manifold",
            },
            "high",
            "below the lowest",
        ),
    ],
)
def test_a_part_of_ones_own_that_cannot_be_is_refused_at_its_field(
    post: Any, data: dict[str, str], field: str, says: str
) -> None:
    answer = post("/shelf", **data)
    assert (answer.status_code, answer.json["field"]) == (422, field)
    assert says in answer.json["message"]


@pytest.mark.parametrize(
    "data",
    [
        {
            "kind": "filter",
            "flow": "300 l/h",
            "drop": "1 psi",
            "micron": "10",
            "medium": "glass fiber",
        },
        {"kind": "line", "bore": "5/16 in", "dash": "-6", "working": "100 psi"},
        {
            "kind": "regulator",
            "holds": "inlet",
            "low": "35 psi",
            "high": "90 psi",
            "rise": "2 psi",
            "over": "300",
            "seat": "6",
            "reference": "manifold",
        },
        {"kind": "injectors", "rated": "1000", "rated_at": "3 bar", "body": "48"},
        {"kind": "fitting", "bore": "7 mm", "loss": "1,5", "dash": "-10"},
        {"kind": "hanger", "bore": "7 mm", "loss": "2"},
        {
            "kind": "tank",
            "sort": "cell",
            "holds": "12 usgal",
            "long": "20 in",
            "wide": "16 in",
            "high": "9 in",
            "inside": "foam",
            "breathes": "line",
            "openings": "5",
        },
    ],
    ids=lambda d: d["kind"],
)
def test_other_parts_of_ones_own_take_their_place(
    post: Any, client: FlaskClient, data: dict[str, str]
) -> None:
    name = post("/shelf", title=f"my {data['kind']}", provenance="guessed", **data).json["name"]
    part = {
        "filter": "F2",
        "line": "H3",
        "regulator": "PR",
        "injectors": "J1",
        "fitting": "N1",
        "hanger": "N11",
        "tank": "S1",
    }[data["kind"]]
    if data["kind"] == "fitting":
        assert (
            post("/builds/bittern/rework", at="H2", act="behind", value="elbow-90-10").status_code
            == 200
        )
        part = "N3"
    if data["kind"] == "line":
        assert (
            post(
                "/builds/bittern/hose", page="hoses", hose="H3", field="size", text="-6"
            ).status_code
            == 200
        )
    answer = post("/builds/bittern/fit", part=part, name=name)
    assert answer.status_code == 200, answer.json
    assert f"my {data['kind']}" in client.get(f"/builds/bittern/circuit?part={part}").text


def test_units_are_the_readers(client: FlaskClient, post: Any) -> None:
    client.set_cookie("units", "pressure=bar&power=kw&length=in")
    page = client.get("/builds/bittern/circuit?part=H3").text
    assert "rail, target 5.52" in page
    assert "Power supported, whole and part by part, kW" in page
    assert 'data-unit="bar"' in page
    cut = next(c.cut_mm for c in design(demo_builds()["bittern"]).cuts if c.element.id == "H3")
    assert f"{(cut or 0) / 25.4:.2f}" in client.get("/builds/bittern/hoses").text
    answer = post("/builds/bittern/brief", field="base_kpa", text="4,2")
    assert answer.json["fields"]["base_kpa"] == "4,2 bar"
    assert (
        post("/builds/bittern/brief", field="power_kw", text="900000")
        .json["message"]
        .startswith("Power wanted lies between 1 and 5,000 kW")
    )
    client.set_cookie("units", "pressure=furlong&nonsense")
    assert "rail, target 82.9" in client.get("/builds/bittern/circuit").text


def test_a_fuel_of_ones_own_is_described_and_run_on(post: Any) -> None:
    sheet = {
        "name": "R 102",
        "density": "0,72",
        "ratio": "13.2",
        "heat": "41",
        "viscosity_20": "0.5",
        "viscosity_40": "0.4",
        "reid": "7 psi",
        "ethanol": "0",
        "methanol": "no",
    }
    data = {f"fuel_{k}": v for k, v in sheet.items()}
    assert (
        post("/builds/bittern/own-fuel", page="brief", **(data | {"fuel_density": "720"})).json[
            "field"
        ]
        == "density"
    )
    assert (
        post(
            "/builds/bittern/own-fuel", page="brief", **(data | {"fuel_viscosity_40": "0.9"})
        ).json["field"]
        == "viscosity_40"
    )
    answer = post("/builds/bittern/own-fuel", page="brief", **data)
    assert answer.status_code == 200
    assert "L/h of R 102" in answer.json["pieces"]["burn"]
    assert post("/builds/bittern/brief", field="fuel", text="E70").status_code == 200
    assert (
        post("/builds/curlew/brief", field="fuel", text="own", head=2)
        .json["message"]
        .startswith("describe your own fuel")
    )


def test_files_that_cannot_be_builds(client: FlaskClient) -> None:
    """Too large, nested too deep, not JSON, no way through, a length of nothing: refused in words,
    and nothing is stored.
    """
    token = re.search(r'name="csrf_token" value="([^"]+)"', client.get("/").text)
    assert token
    good = client.get("/builds/bittern/build.json").text
    zero = re.sub(r'"mm": [\d.]+', '"mm": 0', good, count=1)
    for content, status, says in (
        (b"[" * 10_000 + b"]" * 10_000, 422, "nested too deeply"),
        (b'{"a":' * 10_000 + b"1" + b"}" * 10_000, 422, "nested too deeply"),
        (b"hose, 3 m", 422, "not JSON"),
        (zero.encode(), 422, "must be greater"),
        (b"\xff\xfe\x00", 422, "not text in UTF-8"),
    ):
        answer = client.post(
            "/builds",
            data={"csrf_token": token.group(1), "file": (io.BytesIO(content), "build.json")},
        )
        assert answer.status_code == status, says
        assert says in answer.text
    huge = client.post(
        "/builds", data=b"x" * 50_000_000, content_type="multipart/form-data; boundary=y"
    )
    assert (huge.status_code, "too large" in huge.text) == (413, True)
    assert client.get("/").text.count('class="place') == len(demo_builds())


@pytest.mark.parametrize(
    ("at", "act", "value", "shown", "name"),
    [
        (
            "H3",
            "behind",
            "reedbed-damper-10",
            "D1",
            "D1 Reedbed pulse damper, in line, −10 put in behind H3",
        ),
        ("F2", "before", "shutoff-8", "V1", "V1 shut-off valve, quarter turn, −8 put in before F2"),
        ("H3", "tap", "gauge-10bar", "T2", "T2 put on H3"),
        ("F2", "out", "", "", "F2 taken out"),
        ("H3", "split", "", "H7", "H3 split into H3 and H7"),
        ("P1", "second", "", "P3", "P3 set beside P1, with checks and a Y"),
        ("K1", "turn", "", "K1", "K1 turned round"),
        ("RL", "height", "end 14 in", "RL", "RL: its end at 14 in"),
        ("S1", "level", "200", "S1", "S1: filled to 200 over its outlet"),
        ("H4", "rejoin", "end pot", "H4", "H4: its end routed to pot"),
    ],
)
def test_what_is_joined_is_changed_in_one_act_and_undone_whole(
    post: Any, client: FlaskClient, at: str, act: str, value: str, shown: str, name: str
) -> None:
    before = client.get("/builds/bittern/build.json").data
    answer = post("/builds/bittern/rework", at=at, act=act, value=value)
    assert answer.status_code == 200, answer.json
    assert answer.json["shown"] == shown
    assert f"Undo: {name}" in answer.json["pieces"]["head"]
    assert client.get("/builds/bittern/build.json").data != before
    assert post("/builds/bittern/undo").status_code == 200
    assert client.get("/builds/bittern/build.json").data == before


@pytest.mark.parametrize(
    ("at", "act", "value", "says"),
    [
        ("X9", "out", "", "no part X9"),
        ("S1", "out", "", "cannot be taken out"),
        ("Y1", "out", "", "joins more than two lines"),
        ("F2", "split", "", "no hose or line"),
        ("F2", "second", "", "no pump"),
        ("F2", "behind", "pot-3", "not a part that goes into a line"),
        ("J1", "behind", "shutoff-8", "nothing can go into a line"),
        ("F2", "height", "end high", "not a number"),
        ("F2", "height", "end 4 miles", "not a unit known here"),
        ("F2", "rejoin", "end filter in", "same node"),
        ("F2", "rejoin", "end nowhere", "no place"),
        ("F2", "weld", "", "no such change"),
    ],
)
def test_a_change_that_cannot_be_is_refused_in_words(
    post: Any, client: FlaskClient, at: str, act: str, value: str, says: str
) -> None:
    before = client.get("/builds/bittern/build.json").data
    answer = post("/builds/bittern/rework", at=at, act=act, value=value)
    assert (answer.status_code, says in answer.json["message"]) == (422, True), answer.json
    assert client.get("/builds/bittern/build.json").data == before


def test_sizes_are_proposed_with_progress_and_fitted_as_one_act(
    post: Any, client: FlaskClient
) -> None:
    assert "Stays as it is" in client.get("/builds/curlew/size").text
    reports = [
        json.loads(line)
        for line in post("/builds/curlew/size", by="cost", keep=["H3"]).text.splitlines()
    ]
    assert [r["looked"] for r in reports[:-1]] == sorted(r["looked"] for r in reports[:-1])
    assert len(reports) > 2
    chosen = reports[-1]["chosen"]["now"]
    assert "H3" not in chosen["parts"]
    assert "what decided it" in reports[-1]["piece"]
    head = int(re.search(r'data-head="(\d+)"', client.get("/builds/curlew/circuit").text).group(1))  # type: ignore[union-attr]
    answer = post("/builds/curlew/size/fit", chosen=chosen, head=head)
    assert "Undo: Sized: " in answer.json["pieces"]["head"]
    assert post("/builds/curlew/size", by="beauty", keep=[]).status_code == 422
    for wrong in (
        {},
        {"parts": {}, "pumps": -1},
        {"parts": {"P1": 3}, "pumps": 1},
        {"parts": [], "pumps": 1},
        "all",
    ):
        assert post("/builds/curlew/size/fit", chosen=wrong).status_code == 422


def test_sizes_for_now_and_for_later_stand_side_by_side(post: Any, client: FlaskClient) -> None:
    """Later power takes another number of pumps; it is fitted as one act, pumps with their checks
    and Ys, and undone as one.
    """
    head = int(re.search(r'data-head="(\d+)"', client.get("/builds/curlew/circuit").text)[1])  # type: ignore[index]
    assert (
        post("/builds/curlew/brief", field="later_power_kw", text="2400 hp", head=head).status_code
        == 200
    )
    report = json.loads(
        post("/builds/curlew/size", by="cost", keep=[], longer=True).text.splitlines()[-1]
    )
    assert {key: of["pumps"] for key, of in report["chosen"].items()} == {"now": 1, "later": 2}
    assert re.search(r"for 410 hp now.*for 2,400 hp later", report["piece"], re.DOTALL)
    assert re.search(r"<b>Comes:</b> K2, P2, Y1", report["piece"])
    before = client.get("/builds/curlew/build.json").json
    head = int(re.search(r'data-head="(\d+)"', client.get("/builds/curlew/circuit").text)[1])  # type: ignore[index]
    answer = post("/builds/curlew/size/fit", chosen=report["chosen"]["later"], head=head)
    assert "Undo: Sized: 2 pumps for 1, " in answer.json["pieces"]["head"]
    assert (
        sum(
            e["kind"] == "pump"
            for e in client.get("/builds/curlew/build.json").json["circuit"]["elements"]
        )
        == 2
    )
    assert post("/builds/curlew/undo", head=answer.json["head"]).status_code == 200
    assert client.get("/builds/curlew/build.json").json == before


def test_layouts_come_in_turn_and_what_is_laid_out_is_what_its_row_showed(
    post: Any, client: FlaskClient
) -> None:
    """Each report counts on and holds one row; the last holds the table with what is recommended;
    the row that is laid out costs what it said, as one act.
    """
    page = client.get("/builds/dunlin/layout").text
    assert "Layouts that suit this engine" in page
    reports = [json.loads(line) for line in post("/builds/dunlin/layout/sized").text.splitlines()]
    assert [r["sized"] for r in reports[:-1]] == list(range(1, len(reports)))
    ids = re.findall(r'<tbody class="to-come" id="(choice-[^"]+)"', page)
    assert [r["id"] for r in reports[:-1]] == ids
    assert [re.findall(r'id="(choice-[^"]+)"', r["row"]) for r in reports[:-1]] == [
        [i] for i in ids
    ]
    assert [*re.findall(r'id="(choice-[^"]+)"', reports[-1]["piece"])] == ids  # no row jumps
    other = next(r for r in reports[:-1] if "Lay it out" in r["row"])
    layout = other["id"].split("-")[1]
    cost = re.search(r'data-name="cost, \$">([\d,]+)<', other["row"])
    assert cost
    head = int(re.search(r'data-head="(\d+)"', page)[1])  # type: ignore[index]
    answer = post("/builds/dunlin/layout", layout=layout, rails="single", sure=True, head=head)
    assert answer.status_code == 200
    assert "Undo: Layout: " in answer.json["pieces"]["head"]
    laid = re.search(
        rf'id="choice-{layout}-single".*?data-name="cost, \$">([\d,]+)<',
        answer.json["pieces"]["choices"],
        re.DOTALL,
    )
    if laid is None:  # the table is made anew for the build as it is now
        again = [json.loads(line) for line in post("/builds/dunlin/layout/sized").text.splitlines()]
        laid = re.search(
            rf'id="choice-{layout}-single".*?data-name="cost, \$">([\d,]+)<',
            again[-1]["piece"],
            re.DOTALL,
        )
    assert laid
    assert laid[1] == cost[1]


def test_the_network_is_written_for_epanet(post: Any, client: FlaskClient) -> None:
    text = client.get("/builds/egret/circuit.inp?case=idle").text
    assert all(
        section in text for section in ("[TITLE]", "[PIPES]", "[PUMPS]", "[VALVES]", "HEADLOSS D-W")
    )
    post("/builds/bittern/rework", at="P1", act="turn", value="")
    post("/builds/bittern/rework", at="P2", act="turn", value="")
    broken = client.get("/builds/bittern/circuit.inp")
    assert (broken.status_code, "There is no network to write" in broken.text) == (409, True)


def test_the_walk_leads_from_any_tank_to_any_end(client: FlaskClient) -> None:
    client_json = {"Accept": "application/json"}
    left = client.get("/builds/egret/circuit?walk=S1.J1", headers=client_json).json["pieces"]
    right = client.get("/builds/egret/circuit?walk=S2.J1", headers=client_json).json["pieces"]
    assert "Fuel circuit in flow order: S1" in left["drawing"]
    assert "Fuel circuit in flow order: S2" in right["drawing"]
    assert '<option value="S2.J1" selected' in right["case"]
    assert (
        "Fuel circuit in flow order"
        in client.get("/builds/egret/circuit?walk=X.Y", headers=client_json).json["pieces"][
            "drawing"
        ]
    )


def test_the_cut_list_says_each_hose_by_value(client: FlaskClient) -> None:
    """Each row of the CSV against the document: face to face, both take-ups, and what is left to
    cut; angles and clock as fitted. Nothing is solved for it once its page has been open.
    """
    build = demo_builds()["bittern"]
    client.get("/builds/bittern/hoses")
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("tall_heron.web.answers.design", None)  # whoever solved here would fail
        rows = list(csv.DictReader(io.StringIO(client.get("/builds/bittern/cut-list.csv").text)))
    hoses = {e.id: e for e in build.circuit.elements if e.length is not None}
    assert {r["hose"] for r in rows} == set(hoses)
    for row in rows:
        hose = hoses[row["hose"]]
        ups = [end.take_up_mm if end else 0.0 for end in (hose.end_a, hose.end_b)]
        assert hose.length is not None
        assert (
            float(row["seat_to_seat_mm"]),
            float(row["cut_off_allowance_a_mm"]),
            float(row["cut_off_allowance_b_mm"]),
        ) == (round(hose.length.mm, 1), *ups)
        assert float(row["cut_mm"]) == pytest.approx(hose.length.mm - sum(ups), abs=0.05)
        assert [row["end_a_deg"], row["end_b_deg"]] == [
            str(end.angle_deg) if end else "" for end in (hose.end_a, hose.end_b)
        ]


def test_a_price_solves_nothing(client: FlaskClient) -> None:
    """A litre's price is kept without asking the engine anything: the answer's figures come from
    the study at hand.
    """
    page = client.get("/builds/bittern/brief").text
    token, head = (
        re.search(r'name="csrf" content="([^"]+)"', page),
        re.search(r'data-head="(\d+)"', page),
    )
    assert token
    assert head
    body = {"head": int(head.group(1)), "page": "brief", "fuel": "E70", "text": "2.10"}
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("tall_heron.core.study.what_if.solve_network", None)
        answer = client.post(
            "/builds/bittern/price",
            json=body,
            headers={"X-CSRFToken": token.group(1), "Accept": "application/json"},
        )
    assert answer.status_code == 200
    assert answer.json["head"] > int(head.group(1))


@pytest.mark.parametrize(
    ("text", "idle", "shown"),
    [
        ("from 8 psi of boost", "off", "8.0 psi"),
        ("0.5 bar", "off", "7.3 psi"),
        ("3000 rpm", "off", "3000 rpm"),
        ("Always", "running", "always"),
        ("200 rpm", "running", "200 rpm"),
        ("50 % duty", "off", "50 % duty"),
        ("1% duty", "running", "1 % duty"),
        ("switch", "off", "switch"),
    ],
)
def test_a_pump_is_staged_where_it_stands(
    post: Any, client: FlaskClient, text: str, idle: str, shown: str
) -> None:
    """Beside any layout: a pot with staged pumps is one with a field typed."""
    assert post("/builds/bittern/layout", layout="C7", rails="single", sure=True).status_code == 200
    assert post("/builds/bittern/rework", at="P2", act="stage", value=text).status_code == 200
    page = client.get("/builds/bittern/circuit?part=P2&case=idle").text
    assert f'data-text="{shown}"' in page
    assert re.search(r"State</dt><dd class=\"word\">(\w+)", page)[1] == idle  # type: ignore[index]


@pytest.mark.parametrize(
    ("part", "text", "says"),
    [
        ("P2", "sometimes", "Write always, a boost such as 8 psi"),
        ("P2", "-4 psi", "zero or more"),
        ("P2", "140 % duty", "at most 100 %"),
        ("F2", "8 psi", "no electric pump"),
    ],
)
def test_what_no_stage_can_be_is_refused(post: Any, part: str, text: str, says: str) -> None:
    answer = post("/builds/bittern/rework", at=part, act="stage", value=text)
    assert answer.status_code == 422
    assert says in answer.json["message"]


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("1 hp", "Power wanted lies between 1.34 and 6,705 hp"),
        ("V8 drag 300 psi + 90, 900 hp", "Base pressure lies between"),
        ("six 300 hp 12000 m", "Altitude lies between"),
        ("750 whp", "taken as 882 hp at the crank"),
        ("1e9 hp", "1e9"),
        ("V8 450 hp {x} %s", "{x}"),
        ("diesel 300 hp", "which is not done here"),
    ],
)
def test_a_line_that_cannot_be_is_begun_and_asked_about_in_the_words_of_the_brief(
    client: FlaskClient, line: str, says: str
) -> None:
    token = re.search(r'name="csrf"[^>]*content="([^"]+)"', client.get("/").text)
    assert token
    answer = client.post(
        "/builds", data={"name": line, "csrf_token": token[1]}, follow_redirects=True
    )
    assert answer.status_code == 200
    said = html.unescape(answer.text.partition('id="said"')[2].partition("</section>")[0])
    words = re.sub(r"<[^>]*>", "", said)
    assert says in words
    assert "_kw" not in words
    assert line in words


def test_a_new_build_says_what_was_chosen_and_one_undo_gives_back_the_usual_parts(
    client: FlaskClient,
) -> None:
    token = re.search(r'name="csrf"[^>]*content="([^"]+)"', client.get("/").text)
    assert token
    answer = client.post("/builds", data={"name": "Godwit: V8 450 hp", "csrf_token": token[1]})
    assert answer.headers["Location"].endswith("/builds/godwit/brief")
    page = client.get("/builds/godwit/brief").text
    chosen = page.partition("Chosen for this engine")[2].partition("</section>")[0]
    assert "Marrow 255" in chosen
    assert "falls short" in chosen
    assert "common practice for 146 L/h of fuel demand" in chosen
    assert "Undo: Sized to the brief" in page
    head = re.search(r'data-head="(\d+)"', page)
    assert head
    csrf = re.search(r'name="csrf" content="([^"]+)"', page)
    assert csrf
    client.post(
        "/builds/godwit/undo",
        json={"head": int(head[1]), "page": "brief"},
        headers={"X-CSRFToken": csrf[1], "Accept": "application/json"},
    )
    assert "Chosen for this engine" not in client.get("/builds/godwit/brief").text


def guessed_on(page: str) -> list[str]:
    return [x for ids in re.findall(r'data-guessed="([^"]*)"', page) for x in ids.split()]


def test_a_guessed_length_is_shown_as_one_until_it_is_typed(client: FlaskClient) -> None:
    token = re.search(r'name="csrf"[^>]*content="([^"]+)"', client.get("/").text)
    assert token
    client.post("/builds", data={"name": "Godwit: V8 450 hp", "csrf_token": token[1]})
    lines = list(csv.DictReader(io.StringIO(client.get("/builds/godwit/cut-list.csv").text)))
    assert {row["length_is"] for row in lines} == {"outline"}
    place = client.get("/builds/godwit/place").json["place"]
    assert re.search(rf"guessed:\s+{len(lines)} lengths, \d+ heights and 1 level", place)
    page = client.get("/builds/godwit/hoses").text
    assert guessed_on(page) == [row["hose"] for row in lines]
    assert page.count("</b> drawn in a stock outline: measure before cutting") == 1
    head, csrf = (
        re.search(r'data-head="(\d+)"', page),
        re.search(r'name="csrf" content="([^"]+)"', page),
    )
    assert head
    assert csrf
    body = {"head": int(head[1]), "page": "hoses", "hose": "H2", "field": "length", "text": "28 in"}
    answer = client.post(
        "/builds/godwit/hose",
        json=body,
        headers={"X-CSRFToken": csrf[1], "Accept": "application/json"},
    )
    assert answer.status_code == 200
    page = client.get("/builds/godwit/hoses").text
    assert guessed_on(page) == [row["hose"] for row in lines if row["hose"] != "H2"]
    assert [
        r["length_is"]
        for r in csv.DictReader(io.StringIO(client.get("/builds/godwit/cut-list.csv").text))
        if r["hose"] == "H2"
    ] == ["typed"]
