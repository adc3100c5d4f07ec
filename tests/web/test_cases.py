"""Station 4 over HTTP: what it shows, keeps and refuses."""

import json
import re
from typing import Any

import pytest
from flask.testing import FlaskClient

from tall_heron.core.editing.demo import demo_builds


@pytest.mark.parametrize("slug", demo_builds())
def test_every_demo_build_has_its_cases(client: FlaskClient, slug: str) -> None:
    page = client.get(f"/builds/{slug}/cases")
    assert page.status_code == 200
    assert len(re.findall(r'id="case-row-', page.text)) >= 9
    for key in ("launch", "climb", "hot and high", "F2 clogged", "nothing"):
        assert client.get(f"/builds/{slug}/circuit?case={key}").status_code == 200


def test_a_figure_leads_to_the_circuit_solved_at_its_case(client: FlaskClient) -> None:
    page = client.get("/builds/bittern/cases").text
    link = re.search(
        r'href="(/builds/bittern/circuit\?case=reference[^"]*)" aria-label="Reference hose off, Rail: ([0-9.]+) [0-9.]+, Stop"',
        page,
    )
    assert link
    circuit = client.get(link[1].replace("&amp;", "&")).text
    assert "Shown for <b>Reference hose off</b>" in circuit
    assert re.search(rf'data-figure="rail".*?class="big[^"]*">{link[2]}<', circuit, re.DOTALL)


def test_a_swap_is_tried_in_all_cases_and_nothing_is_kept(client: FlaskClient) -> None:
    before = client.get("/builds/bittern/build.json").data
    page = client.get("/builds/bittern/cases?part=F2&try=reedmace-10g").text
    assert "Trying Reedmace 10" in page
    assert len(re.findall(r'class="cell[^"]* changed"', page)) > 10
    assert client.get("/builds/bittern/build.json").data == before
    assert "Trying" not in client.get("/builds/bittern/cases?part=F2&try=no-such-part").text


def test_a_case_of_ones_own_is_kept_hidden_undone(post: Any, client: FlaskClient) -> None:
    typed = {
        "name": "Towing <b>up</b> {x}",
        "power": "60 %",
        "fuel": "E10",
        "temperature": "130 F",
        "altitude": "4000 ft",
        "off": "P2, K2",
        "clogging": "F2 × 2",
        "ahead": "0.2 g",
        "pitch": "5°",
    }
    assert post("/builds/bittern/cases", act="add", **typed).status_code == 200
    page = client.get("/builds/bittern/cases").text
    assert "Towing &lt;b&gt;up&lt;/b&gt; {x}" in page
    assert (
        "60 % of the demand, on E10, 54 °C, 1,219 m up, F2 × 2, P2 off, K2 off, +0.2 g ahead, nose +5°"
        in page
    )
    assert "Undo: Case added: Towing" in page
    assert post("/builds/bittern/cases", act="hide", key="peak").status_code == 200
    page = client.get("/builds/bittern/cases").text
    assert "Full power" not in page
    assert 'data-act="show" data-key="peak"' in page
    assert post("/builds/bittern/undo").status_code == 200
    assert (
        post("/builds/bittern/cases", act="remove", key="Towing <b>up</b> {x}").status_code == 200
    )
    assert "Towing" not in client.get("/builds/bittern/build.json").text


@pytest.mark.parametrize(
    ("typed", "field", "says"),
    [
        ({"name": ""}, "name", "1 to 40 letters"),
        ({"name": "x", "power": "900 %"}, "power", "0 and 200 %"),
        ({"name": "x", "temperature": "400 C"}, "temperature", "−40 and 90"),
        ({"name": "x", "voltage": "3 psi"}, "voltage", "unit of pressure"),
        ({"name": "x", "off": "Q7"}, "off", "no part Q7"),
        ({"name": "x", "clogging": "F2"}, "clogging", "such as F2 3"),
        ({"name": "x", "clogging": "F2 0.5"}, "clogging", "between 1 and 1,000"),
        ({"name": "x", "ahead": "fast"}, "ahead", "not a number"),
        ({"name": "x", "fuel": "milk"}, "fuel", "milk"),
    ],
)
def test_a_case_that_cannot_be_is_refused_beside_its_field(
    post: Any, typed: dict[str, str], field: str, says: str
) -> None:
    answer = post("/builds/bittern/cases", act="add", **typed)
    assert (answer.status_code, answer.json["field"]) == (422, field)
    assert says in answer.json["message"]


def test_an_aircraft_names_what_stops_it_and_what_nobody_sees(client: FlaskClient) -> None:
    page = client.get("/builds/egret/cases/failures?f=fails V1 stands at right").text
    says = r"V1 stands at right:</b> the engine runs on with all its power\. "  # one lever turns the return too
    assert re.search(
        says
        + r"30.0 L in S1, 37 min of it, is out of reach\. It shows on the level in S1, the level in S2\.",
        page,
    )
    assert re.search(r"Two at once.*P1</b> stops with <b>P2</b> stops", page, re.DOTALL)
    assert "no gauge: stop each pump in turn at service" in page


@pytest.mark.parametrize("slug", demo_builds())
def test_every_failure_is_drawn_and_opens_the_circuit(client: FlaskClient, slug: str) -> None:
    page = client.get(f"/builds/{slug}/cases/failures").text
    links = re.findall(r'<th scope="row"><a href="(/builds/[^"]+failures\?f=[^"]+)"', page)
    assert len(links) > 10
    for link in links[::2] if slug == "egret" else links[::4]:
        drawn = client.get(link.replace("&amp;", "&"))
        assert drawn.status_code == 200
        assert 'class="drawing' in drawn.text
        circuit = re.search(r'href="(/builds/[^"]+/circuit\?case=fails[^"]+)">Open it', drawn.text)
        assert circuit
        assert client.get(circuit[1].replace("&amp;", "&")).status_code == 200


def test_a_line_that_comes_off_at_the_rail_is_drawn_dead_beyond_it(client: FlaskClient) -> None:
    page = client.get("/builds/bittern/cases/failures?f=fails H3 comes off at RL").text
    assert "L/h runs out over the engine" in page
    assert re.search(r'class="part dead"[^>]*id="part-RL"', page)
    assert re.search(r'class="part"[^>]*id="part-F2"', page)
    assert client.get("/builds/bittern/cases/failures?f=no such").status_code == 200


@pytest.mark.parametrize("slug", demo_builds())
def test_heat_and_curves_of_every_demo_build(client: FlaskClient, slug: str) -> None:
    heat = client.get(f"/builds/{slug}/cases/heat?pick=300 W")
    assert heat.status_code == 200
    assert "How long it lasts" in heat.text
    curves = client.get(f"/builds/{slug}/cases/curves")
    assert curves.status_code == 200
    for found in re.findall(
        r'<script type="application/json">(.*?)</script>', heat.text + curves.text, re.DOTALL
    ):
        data = json.loads(found)
        assert all(len(line["values"]) == len(data["x"]) for line in data["lines"])
    assert "rail" in curves.text or "bowl" in curves.text


@pytest.mark.parametrize(
    ("pick", "wrong"),
    [
        ("", ""),
        ("0.3 kW", ""),
        ("3 psi", "unit of pressure"),
        ("−5 W", "0 and 20 kW"),
        ("9 MW", "unit known"),
        ("<b>", "number"),
    ],
)
def test_heat_that_cannot_be_is_said(client: FlaskClient, pick: str, wrong: str) -> None:
    page = client.get("/builds/bittern/cases/heat", query_string={"pick": pick})
    assert page.status_code == 200
    assert ('class="wrong" role="alert"' in page.text.split("</form>")[0]) == bool(wrong)
    assert wrong in page.text


def test_findings_of_the_cases_are_counted_accepted_and_taken_back(
    post: Any, client: FlaskClient
) -> None:
    page = client.get("/builds/bittern/cases").text
    before = len(re.findall(r'<article class="finding check', page))
    assert before >= 2
    assert "Findings: 2 Checks, 2 Notes" in page  # the worst first
    assert re.search(
        rf'Cases <span class="count" title="[^"]*">{before}</span>',
        client.get("/builds/bittern/circuit").text,
    )
    assert (
        post(
            "/builds/bittern/accept",
            rule="C-02",
            part_found="P1",
            text="It is never driven over the pass in August.",
        ).status_code
        == 200
    )
    assert "never driven over the pass" in client.get("/builds/bittern/cases").text
    assert "never driven over the pass" in client.get("/builds/bittern/sheet").text
    changed = post("/builds/bittern/brief", field="power_kw", text="600 hp", page="circuit")
    assert 'class="count"' in changed.json["pieces"]["head"]
    assert not re.search(r"Cases <span", changed.json["pieces"]["head"])


def test_where_an_end_lies_is_typed_and_felt_in_a_corner(post: Any, client: FlaskClient) -> None:
    def corner() -> float:
        page = client.get("/builds/bittern/cases").text
        return float(re.search(r'aria-label="Hard corner left, Rail: ([0-9.]+) ', page)[1])  # type: ignore[index]

    before = corner()
    assert (
        post("/builds/bittern/rework", at="RL", act="right", value="start 1.5 m").status_code == 200
    )
    assert (
        post("/builds/bittern/rework", at="RL", act="right", value="end 1.5 m").status_code == 200
    )
    assert "RL: its end 1.5 m to the right" in client.get("/builds/bittern/history").text
    assert corner() == pytest.approx(
        before, abs=0.3
    )  # the regulator beside it holds what it feels there
    assert (
        post("/builds/bittern/rework", at="RL", act="ahead", value="end 3 psi").status_code == 422
    )
    assert (
        post("/builds/bittern/rework", at="RL", act="ahead", value="end 300 m").status_code == 422
    )
    assert post("/builds/bittern/rework", at="RL", act="right", value="end ").status_code == 200
    node = next(
        n
        for n in client.get("/builds/bittern/build.json").json["circuit"]["nodes"]
        if n["id"] == "rail out"
    )
    assert node["right_mm"] == -330  # nobody says otherwise any more: where the drawing has it


def test_a_failure_that_is_looked_at_changes_no_ladder(client: FlaskClient) -> None:
    """With its tank dry the engine uses nothing; what each part supports is still the build's."""
    client.get("/builds/bittern/ladder?part=F2")  # the ladder is known from here on
    whole = re.compile(r"([\d,]+) hp:?</b>:? the whole circuit")
    plain = whole.search(client.get("/builds/bittern/circuit?part=F2").text)
    failing = client.get("/builds/bittern/circuit?case=fails+S1+runs+dry&part=F2")
    assert failing.status_code == 200
    here = whole.search(failing.text)
    assert plain
    assert here
    assert here[1] == plain[1]
