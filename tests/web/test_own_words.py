"""What a builder types is never a template: braces, percent signs, tags and line breaks stay as they were typed, on every page and in every file."""

from typing import Any

import pytest
from flask.testing import FlaskClient

BAD = ["{x}", "{0}", "%s %d", "<b>bold</b>", "{{ config }}", "a {spare", "}{", "[END]"]
FUEL = {"density": "0.745", "ratio": "14.1", "heat": "42", "viscosity_20": "0.55", "viscosity_40": "0.43", "reid": "62 kPa", "ethanol": "60 %", "methanol": "no"}
PAGES = ("brief", "circuit", "layout", "hoses", "sheet", "size", "history")


@pytest.mark.parametrize("text", [pytest.param(t, marks=[pytest.mark.sweep] if i % 4 else []) for i, t in enumerate(BAD)])
def test_own_words_stay_as_they_were_typed(post: Any, client: FlaskClient, text: str) -> None:
    part = {"kind": "filter", "provenance": "guessed", "flow": "300 l/h", "drop": "4 psi", "micron": "10", "medium": "glass", "ethanol": "10"}
    made = post("/shelf", title=f"my {text}", **part)
    assert made.status_code == 200, made.json
    assert post("/builds/bittern/fit", part="F2", name=made.json["name"]).status_code == 200
    assert post("/builds/bittern/brief", field="title", text=f"wagon {text}").status_code == 200
    assert post("/builds/bittern/own-fuel", page="brief", fuel_name=text[:20], **{f"fuel_{k}": v for k, v in FUEL.items()}).status_code == 200
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


def test_a_second_part_of_a_name_is_asked_about_and_methanol_is_said(post: Any, client: FlaskClient) -> None:
    part = {"kind": "fitting", "title": "Yard tee", "provenance": "sheet", "bore": "10 mm", "loss": "0.5", "methanol": "yes"}
    assert post("/shelf", **part).status_code == 200
    again = post("/shelf", **part)
    assert again.status_code == 422
    assert again.json["field"] == "second"
    assert post("/shelf", **part, second="yes").status_code == 200
    parts = client.get("/shelf/pack.json").json["parts"]
    assert [p["properties"]["methanol"] for p in parts if p["title"] == "Yard tee"] == [True, True]
    assert post("/shelf", **(part | {"title": "Yard cross", "methanol": "perhaps"})).json["field"] == "methanol"
