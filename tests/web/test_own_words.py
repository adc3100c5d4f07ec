"""What a builder types is never a template: braces, percent signs, tags and line breaks stay as
they were typed, on every page and in every file.
"""

import csv
import io
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient

from tall_heron.core.document.build import Brief, Build
from tall_heron.core.editing.fields import fit
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.rules import every_finding
from tall_heron.core.shelf.own_part import on_shelf
from tall_heron.core.study.study import make_study
from tall_heron.store import db, own_parts

BAD = ["{x}", "{0}", "%s %d", "<b>bold</b>", "{{ config }}", "a {spare", "}{", "[END]"]
FUEL = {
    "density": "0.745",
    "ratio": "14.1",
    "heat": "42",
    "viscosity_20": "0.55",
    "viscosity_40": "0.43",
    "reid": "62 kPa",
    "ethanol": "60 %",
    "methanol": "no",
}
PAGES = ("brief", "circuit", "layout", "hoses", "sheet", "size", "history")


@pytest.mark.parametrize(
    "text", [pytest.param(t, marks=[pytest.mark.sweep] if i % 4 else []) for i, t in enumerate(BAD)]
)
def test_own_words_stay_as_they_were_typed(post: Any, client: FlaskClient, text: str) -> None:
    part = {
        "kind": "filter",
        "provenance": "guessed",
        "flow": "300 l/h",
        "drop": "4 psi",
        "micron": "10",
        "medium": "glass",
        "ethanol": "10",
    }
    made = post("/shelf", title=f"my {text}", **part)
    assert made.status_code == 200, made.json
    assert post("/builds/bittern/fit", part="F2", name=made.json["name"]).status_code == 200
    assert post("/builds/bittern/brief", field="title", text=f"wagon {text}").status_code == 200
    assert (
        post(
            "/builds/bittern/own-fuel",
            page="brief",
            fuel_name=text[:20],
            **{f"fuel_{k}": v for k, v in FUEL.items()},
        ).status_code
        == 200
    )
    found = client.get("/builds/bittern/circuit?part=F2").text
    escaped = text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
    assert f"F2 my {escaped} is not for" in found  # a finding that names the part
    for page in PAGES:
        answer = client.get(f"/builds/bittern/{page}")
        assert answer.status_code == 200, page
        assert "<b>bold</b>" not in answer.text
    assert client.get("/").status_code == 200
    assert client.get("/builds/bittern/circuit.inp").status_code in (200, 409)
    assert client.get("/builds/bittern/build.json").json["brief"]["title"] == f"wagon {text}"  # type: ignore[index]


def test_a_second_part_of_a_name_is_asked_about_and_methanol_is_said(
    post: Any, client: FlaskClient
) -> None:
    part = {
        "kind": "fitting",
        "title": "Yard tee",
        "provenance": "sheet",
        "bore": "10 mm",
        "loss": "0.5",
        "methanol": "yes",
    }
    assert post("/shelf", **part).status_code == 200
    again = post("/shelf", **part)
    assert again.status_code == 422
    assert again.json["field"] == "second"
    assert post("/shelf", **part, second="yes").status_code == 200
    parts = client.get("/shelf/pack.json").json["parts"]
    assert [p["properties"]["methanol"] for p in parts if p["title"] == "Yard tee"] == [True, True]
    assert (
        post("/shelf", **(part | {"title": "Yard cross", "methanol": "perhaps"})).json["field"]
        == "methanol"
    )


def test_an_own_hose_with_its_ends_goes_onto_the_order_like_any_other(
    post: Any, client: FlaskClient
) -> None:
    """Its ends are typed once with it: fitted, they take up what was said, the cut follows, and the
    order names its construction.
    """
    hose = {
        "kind": "hose",
        "title": "Yard hose",
        "provenance": "sheet",
        "bore": "10 mm",
        "dash": "-10",
        "working": "20 bar",
        "ethanol": "100 %",
        "methanol": "no",
    }
    assert post("/shelf", **hose, fitted="crimped").json["field"] == "takes"
    ends = {
        "fitted": "crimped",
        "takes": "30 mm",
        "takes_bent": "42 mm",
        "throat": "8 mm",
        "standard": "SAE J517 100R14",
        "liner": "PTFE, conductive",
        "braid": "steel",
        "cover": "none",
    }
    assert post("/shelf", **hose, **ends).status_code == 200
    name = next(
        p["name"] for p in client.get("/shelf/pack.json").json["parts"] if p["title"] == "Yard hose"
    )
    assert post("/builds/bittern/fit", part="H3", name=name, page="circuit").status_code == 200
    line = next(
        e
        for e in client.get("/builds/bittern/build.json").json["circuit"]["elements"]
        if e["id"] == "H3"
    )
    bent = [line[f"end_{x}"]["angle_deg"] > 0 for x in "ab"]
    assert [line[f"end_{x}"]["take_up_mm"] for x in "ab"] == [42 if b else 30 for b in bent]
    assert {line[f"end_{x}"]["family"] for x in "ab"} == {"own"}
    order = list(csv.DictReader(io.StringIO(client.get("/builds/bittern/hose-order.csv").text)))
    row = next(r for r in order if r["label"].startswith("H3"))
    assert (row["hose"], row["standard"], row["liner"], row["end_a_style"]) == (
        "Yard hose",
        "SAE J517 100R14",
        "PTFE, conductive",
        "end crimped on with its maker's die",
    )
    page = client.get("/builds/bittern/hoses/order").text
    assert "Not on this order" not in page or "H3" not in page.split("Not on this order")[1][:200]
    assert (
        post("/builds/bittern/hose", page="hoses", hose="H3", field="end_a", text="90").status_code
        == 200
    )
    line = next(
        e
        for e in client.get("/builds/bittern/build.json").json["circuit"]["elements"]
        if e["id"] == "H3"
    )
    assert (line["end_a"]["angle_deg"], line["end_a"]["take_up_mm"]) == (90, 42)


def test_an_own_part_is_opened_edited_copied_and_brought_into_the_builds_that_hold_it(
    post: Any, client: FlaskClient
) -> None:
    """Edited under its name, builds keep what they hold until they are brought up to date, by an
    act that can be undone; nothing typed is lost.
    """
    part = {
        "kind": "filter",
        "title": "Yard filter",
        "provenance": "sheet",
        "flow": "400 lph",
        "drop": "12 kPa",
        "micron": "10",
        "medium": "steel mesh",
        "ethanol": "",
        "methanol": "",
        "price": "30",
    }
    assert post("/shelf", **part).status_code == 200
    assert (
        post(
            "/builds/curlew/fit",
            part="F2",
            name="own-yard-filter",
            page="circuit",
            head=client.get("/builds/curlew/head").json["head"],
        ).status_code
        == 200
    )
    page = client.get("/shelf").text
    assert "Curlew" in page.split("own-own-yard-filter")[1][:4000]
    assert "400 lph" in page
    assert "as it was" not in page
    assert (
        "as it was"
        in post("/shelf", **(part | {"drop": "14 kPa"}), edits="own-yard-filter").json["piece"]
    ), "figures count as well"
    edited = post("/shelf", **(part | {"ethanol": "85 %", "price": "44"}), edits="own-yard-filter")
    assert edited.json["edited"]
    assert "as it was" in edited.json["piece"]
    held = next(
        e
        for e in client.get("/builds/curlew/build.json").json["circuit"]["elements"]
        if e["id"] == "F2"
    )
    assert held["properties"]["price"] == 30
    assert (
        "as it was" not in post("/shelf/renew", name="own-yard-filter", slug="curlew").json["piece"]
    )
    held = next(
        e
        for e in client.get("/builds/curlew/build.json").json["circuit"]["elements"]
        if e["id"] == "F2"
    )
    assert (held["properties"]["price"], held["properties"]["ethanol_max_percent"]) == (44, 85)
    assert "Yard filter as it is on the shelf now" in client.get("/builds/curlew/circuit").text
    assert post("/shelf", **part).json["field"] == "second", "a copy asks for another name"
    assert post("/shelf", **(part | {"title": "Yard filter, long"})).status_code == 200
    assert post("/shelf", **part, edits="own-gone").json["field"] == "second"
    assert post("/shelf/off", name="own-yard-filter").status_code == 200
    assert post("/shelf/renew", name="own-yard-filter", slug="curlew").json["field"] == "name"
    gone = post("/builds/bittern/fit", part="F2", name="own-yard-filter", page="circuit")
    assert gone.status_code == 422
    assert "no longer on the shelf" in gone.json["message"]


def test_ports_and_body_of_an_own_part_are_asked_and_meet_their_lines(
    post: Any, client: FlaskClient
) -> None:
    """What is said is what a joint meets; what is not is assumed, and said to be."""
    part = {
        "kind": "filter",
        "title": "Yard can",
        "provenance": "sheet",
        "flow": "400 lph",
        "drop": "12 kPa",
        "micron": "10",
        "medium": "steel mesh",
        "gasoline": "yes",
        "ethanol": "100 %",
    }
    assert post("/shelf", **part, port_start="-7 ORB").json["field"] == "port_start"
    assert (
        post(
            "/shelf", **part, port_start="M18 x 1.5", long_mm="210 mm", rated_kpa="10 bar"
        ).status_code
        == 200
    )
    made = client.get("/shelf/pack.json").json["parts"][0]["properties"]
    assert (made["faces"], made["long_mm"], made["rated_kpa"], made["gasoline"]) == (
        {"start": "metric M18x1.5"},
        210,
        1000,
        True,
    )
    assert (
        post("/builds/bittern/fit", part="F2", name="own-yard-can", page="circuit").status_code
        == 200
    )
    joints = {
        j.split("</tr>")[0] for j in client.get("/builds/bittern/hoses/joints").text.split("<tr")
    }
    mine = " ".join(j for j in joints if '<b class="tag">F2</b>' in j)
    assert "M18x1.5 metric port" in mine
    assert "assumed" in mine, "its outlet was not said"


def test_a_part_of_a_named_supplier_waits_as_his_list_says(
    post: Any, client: FlaskClient, tmp_path: Path
) -> None:
    part = {
        "kind": "filter",
        "title": "Yard can",
        "provenance": "sheet",
        "flow": "400 lph",
        "drop": "12 kPa",
        "micron": "10",
        "medium": "steel mesh",
        "supplier": "Marsh Lane",
    }
    assert post("/shelf", **part, ethanol="100 %").status_code == 200
    assert (
        post("/builds/bittern/fit", part="F2", name="own-yard-can", page="circuit").status_code
        == 200
    )
    assert post("/shelf/suppliers", name="Marsh Lane", days="many").json["field"] == "days"
    assert (
        post(
            "/shelf/suppliers", name="Marsh Lane", days="9", currency="usd", account="TH-22"
        ).status_code
        == 200
    )
    row = (
        client.get("/builds/bittern/hoses/buy")
        .text.split('data-item="own-yard-can"')[1]
        .split("</tr>")[0]
    )
    assert "Marsh Lane, 9 d" in row
    token = client.get("/shelf").text.split('name="csrf" content="')[1].split('"')[0]
    headers = {
        "X-CSRFToken": token,
        "Accept": "application/json",
        "Content-Type": "application/octet-stream",
    }
    fed = client.post(
        "/shelf/suppliers/list?name=Marsh Lane",
        data=b"item,stock,days,price\nYard can,0,30,55\n",
        headers=headers,
    )
    assert fed.status_code == 200, fed.text[:200]
    row = (
        client.get("/builds/bittern/hoses/buy")
        .text.split('data-item="own-yard-can"')[1]
        .split("</tr>")[0]
    )
    assert "none in stock, 30 d" in row
    assert "55.00" in row
    assert (
        client.post(
            "/shelf/suppliers/list?name=Marsh Lane", data=b"nonsense", headers=headers
        ).status_code
        == 422
    )
    with db.opened(tmp_path / "demo.sqlite") as connection:
        connection.execute("UPDATE supplier SET at = '2026-01-02T03:04:05Z'")
    kept = post("/shelf/suppliers", name="Marsh Lane", days="7").json["piece"]
    assert "7 days" in kept
    assert "1 item on his list of 2026-01-02" in kept, (
        "his days were typed today, his list is as old as it was"
    )
    assert post("/shelf/suppliers/off", name="Marsh Lane").status_code == 200
    assert (
        "Marsh Lane, lead time not given"
        in client.get("/builds/bittern/hoses/buy")
        .text.split('data-item="own-yard-can"')[1]
        .split("</tr>")[0]
    )


def test_a_pump_on_the_engine_is_typed_by_what_a_turn_displaces(post: Any, tmp_path: Path) -> None:
    """Swept volume times turns, ISO 4391: 12.5 cc at 0.65 of 6,000 rpm sweep 2,925 L/h, of which
    what it gives against the rail is between 92 % at its relief and 98.4 % at none.
    """
    sheet = {"kind": "engine pump", "title": "my gear pump", "provenance": "sheet"}
    typed = {"turn": "12.5", "relief": "150 psi", "efficiency": "92 %"}
    wrong = post("/shelf", **sheet, **typed, ratio="9")
    assert wrong.status_code == 422
    assert "lies between 0.1 and 4" in wrong.json["message"]
    name = post("/shelf", **sheet, **typed, ratio="0.65").json["name"]
    with db.opened(tmp_path / "demo.sqlite") as connection:
        own = [on_shelf(r["name"], r["document"]) for r in own_parts.every(connection)]
    brief = Brief(power_kw=1000, base_kpa=420, boost_kpa=170, fuel="methanol", use="drag")
    build = Build(name="x", brief=brief, circuit=LAYOUTS["C9"].build(brief))
    study = make_study(fit(build, "P1", name, own))
    swept = 12.5e-6 * 0.65 * 100
    assert 0.92 * swept < study.peak.solution.flow("P1") < 0.984 * swept
    titles = [f.title for f in every_finding(study)]
    assert "P1 turns with the engine, at a guessed 6,000 rpm" in titles
