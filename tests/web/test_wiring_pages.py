"""Station 7 over HTTP: its pages, its acts and what they refuse, its sheets."""

import csv
import io
import json
import re
from typing import Any

import pytest
from flask.testing import FlaskClient

from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.wiring import electric_pumps
from tall_heron.web.stations.wiring.context import CONTEXTS

BRANCH = {
    "pump": "P1",
    "feed_size": "",
    "earth_size": "",
    "feed_length": "",
    "earth_length": "",
    "fuse": "",
    "ground": "",
    "relay": "R1",
    "bus": "1",
    "crimps": "4",
    "connector": "",
    "switch": "",
    "lamp": "no",
    "feed_colour": "",
    "earth_colour": "",
}
LOOM = {"ambient": "50 °C", "insulation": "105 °C", "together": "4", "sizes": "metric"}
RELAY = {
    "relay": "R1",
    "contact": "30 A",
    "supply_size": "",
    "supply_length": "",
    "terminal_87a": "capped",
    "suppressed": "yes",
}
CUT = (
    dict.fromkeys(("automatic", "control_unit", "start_bypass", "crank", "inertia"), "yes")
    | dict.fromkeys(("oil_switch", "roll_over", "level"), "no")
    | {
        "breaks": "supply",
        "kill": "none",
        "prime_s": "2 s",
        "oil_falls_s": "3",
        "control_unit_s": "1 s",
    }
)
SUPPLY = {
    "aged": "no",
    "voltmeter": "no",
    "ammeter": "no",
    "battery_ah": "60",
    "alternator_a": "120",
    "hot_share": "",
    "idle_share": "",
    "landing_min": "30",
}
SENDER = {
    "empty_ohm": "240",
    "full_ohm": "33 Ω",
    "pull_up_ohm": "0.1 kΩ",
    "supply_v": "5",
    "range_v": "5 V",
    "bits": "10",
    "reserve": "15 %",
}


def act(post: Any, what: str, view: str = "circuit", **data: Any) -> Any:
    return post("/builds/bittern/wiring/act", page="wiring", view=view, act=what, part="P1", **data)


def wiring(client: FlaskClient) -> Any:
    return json.loads(client.get("/builds/bittern/build.json").data).get("wiring")


@pytest.mark.parametrize(
    "slug",
    [
        pytest.param(x, marks=[pytest.mark.sweep] if x in ("curlew", "stonechat") else [])
        for x in demo_builds()
    ],
)
def test_every_page_of_every_demo_before_and_after_it_is_wired(
    client: FlaskClient, slug: str
) -> None:
    token = re.search(r'name="csrf" content="([^"]+)"', client.get("/").text)
    assert token
    for wired in (False, True):
        for path in ("wiring", *(f"wiring/{v}" for v in CONTEXTS)):
            page = client.get(f"/builds/{slug}/{path}")
            assert page.status_code == 200, path
            text = re.sub(r"<[^>]*>", " ", re.sub(r"(?s)<(script|select).*?</\1>", "", page.text))
            assert not re.search(r"\b(None|nan|inf|True|False|Undefined)\b", text), path
            pieces = client.get(
                f"/builds/{slug}/{path}", headers={"Accept": "application/json"}
            ).json["pieces"]
            assert pieces.get("wiring-view") or pieces["drawing"]
        if wired:
            break
        head = re.search(r'data-head="(\d+)"', client.get(f"/builds/{slug}/wiring").text)
        assert head
        answer = client.post(
            f"/builds/{slug}/wiring/act",
            json={"head": int(head[1]), "page": "wiring", "act": "wire"},
            headers={"X-CSRFToken": token[1]},
        )
        assert answer.status_code == (200 if electric_pumps(demo_builds()[slug]) else 422)
    assert client.get(f"/builds/{slug}/wiring/nothing").status_code == 404
    assert client.get(f"/builds/{slug}/loom.csv").status_code == (
        200 if electric_pumps(demo_builds()[slug]) else 404
    )


def test_each_act_is_kept_named_and_undone(post: Any, client: FlaskClient) -> None:
    before = wiring(client)
    acts = [
        ("unwire", {}, "Wiring taken off"),
        ("wire", {}, "Wired automatically"),
        (
            "branch",
            BRANCH
            | {
                "ground": "G1",
                "feed_size": "4 mm²",
                "feed_length": "12 ft",
                "fuse": "25",
                "lamp": "yes",
                "feed_colour": "red",
            },
            "P1: its wires",
        ),
        ("ground", {"ground": "G1", "ground_size": "6 mm²", "ground_length": "2 m"}, "G1: ground"),
        ("relay", RELAY | {"contact": "40", "terminal_87a": "open"}, "R1: relay"),
        ("loom", LOOM | {"ambient": "194 F"}, "The whole loom"),
        ("cut off", CUT | {"prime_s": "3"}, "Cut-off"),
        ("supply", SUPPLY | {"idle_share": "33 %"}, "Battery and alternator"),
        ("load", {"name": "heater", "ampere": "12", "kept": "no"}, "heater: 12 A"),
        ("sender", SENDER, "Level sender"),
    ]
    for name, data, said in acts:
        answer = act(post, name, **data)
        assert answer.status_code == 200, (name, answer.json)
        assert said in re.sub(
            r"\s+", " ", re.sub(r"<[^>]*>", " ", answer.json["pieces"]["head"])
        ), name
    kept = wiring(client)
    feed = kept["branches"]["P1"]["feed"]
    assert (feed["size"], feed["length_mm"], feed["colour"]) == (
        "4 mm²",
        pytest.approx(3657.6),
        "red",
    )
    assert kept["branches"]["P1"]["fuse_a"] == 25
    assert kept["relays"][0]["terminal_87a"] == "open"
    assert kept["ambient_c"] == pytest.approx(90)
    assert kept["supply"]["idle_share"] == pytest.approx(0.33)
    assert kept["supply"]["landing_min"] == pytest.approx(30)
    assert kept["sender"]["pull_up_ohm"] == pytest.approx(100)
    assert "heater" in {x["name"] for x in kept["loads"]}
    for _ in acts:
        assert post("/builds/bittern/undo", page="wiring").status_code == 200
    assert wiring(client) == before


REFUSED = [
    ("branch", BRANCH | {"fuse": "many"}, "fuse"),
    ("branch", BRANCH | {"fuse": "-4"}, "fuse"),
    ("branch", BRANCH | {"feed_length": "12 psi"}, "feed_length"),
    ("branch", BRANCH | {"feed_size": "3 mm²"}, "feed_size"),
    ("branch", BRANCH | {"bus": "3"}, "bus"),
    ("branch", BRANCH | {"crimps": "a few"}, "crimps"),
    ("branch", BRANCH | {"pump": "H1"}, "pump"),
    ("ground", {"ground": "G9", "ground_size": "", "ground_length": ""}, "ground"),
    ("relay", RELAY | {"relay": "R9"}, "relay"),
    ("relay", RELAY | {"contact": "-3 A"}, "contact"),
    ("loom", LOOM | {"ambient": "400 °C"}, "ambient"),
    ("cut off", CUT | {"prime_s": "an hour"}, "prime_s"),
    ("supply", SUPPLY | {"battery_ah": "big"}, "battery_ah"),
    ("supply", SUPPLY | {"idle_share": "400 %"}, "idle_share"),
    ("load", {"name": "", "ampere": "3", "kept": "yes"}, "name"),
    ("sender", SENDER | {"bits": "3"}, "bits"),
    ("nothing", {}, "act"),
]


@pytest.mark.parametrize(("name", "data", "field"), REFUSED)
def test_what_is_wrong_is_said_beside_it_and_nothing_is_kept(
    post: Any, client: FlaskClient, name: str, data: dict[str, str], field: str
) -> None:
    act(post, "wire")
    before = wiring(client)
    answer = act(post, name, **data)
    assert answer.status_code in (400, 422)
    assert answer.json["field"] == field
    assert answer.json["message"]
    assert wiring(client) == before


def test_a_thinner_wire_lowers_the_rail_on_every_page(post: Any, client: FlaskClient) -> None:
    """What the head says of the rail falls with the wire, and so do the cases, the buy list and
    what a failure leaves.
    """
    act(post, "wire")
    rails = []
    for size in ("10 mm²", "2.5 mm²", "0.75 mm²"):
        figures = act(post, "branch", **BRANCH | {"feed_size": size, "feed_length": "12 m"}).json[
            "pieces"
        ]
        given = re.search(r'id="volts">([\d.]+)<', figures["wiring-card"])
        assert given
        rails.append(float(given[1]))
        assert f"wire {size}" in client.get("/builds/bittern/hoses/buy").text
    assert rails == sorted(rails, reverse=True)
    assert rails[0] - rails[-1] > 1.5
    assert "V at the source" in client.get("/builds/bittern/cases").text
    shown = client.get("/builds/bittern/circuit?part=P1").text
    assert "solved together with the fuel" in shown


def test_the_loom_as_a_table_and_with_hostile_colours(post: Any, client: FlaskClient) -> None:
    act(post, "wire")
    act(post, "branch", **BRANCH | {"feed_colour": "=1+1", "earth_colour": "<b>x</b>"})
    rows = list(csv.DictReader(io.StringIO(client.get("/builds/bittern/loom.csv").text)))
    assert {r["wire"] for r in rows} >= {
        "P1-1",
        "P1-2",
        "P2-1",
        "P2-2",
        "R1-30",
        "R2-30",
        "R1-85",
        "R1-86",
        "B1-1",
    }
    first = next(r for r in rows if r["wire"] == "P1-1")
    assert first["color"] == "'=1+1"
    assert int(first["cut_mm"]) > 1000
    page = client.get("/builds/bittern/wiring/loom").text
    assert "&lt;b&gt;x" in page
    assert "<b>x</b>" not in page


def test_wires_go_with_their_pump(post: Any, client: FlaskClient) -> None:
    act(post, "wire")
    assert post("/builds/bittern/rework", at="P2", act="out", value="").status_code == 200
    kept = wiring(client)
    assert list(kept["branches"]) == ["P1"]
    assert [r["name"] for r in kept["relays"]] == ["R1"]


def test_the_network_that_is_downloaded_has_the_wires_in_its_pumps(
    post: Any, client: FlaskClient
) -> None:
    """EPANET's file of a build on hair-thin wire gives its pumps less than that of one on thick
    wire: the same point, other maps.
    """
    act(post, "wire")
    free = []
    for size in ("10 mm²", "0.75 mm²"):
        act(post, "branch", **BRANCH | {"feed_size": size, "feed_length": "12 m", "fuse": "20"})
        text = client.get("/builds/bittern/circuit.inp?case=peak").text
        curve = re.findall(
            r"^\s*\S*P1\S*\s+([\d.eE+-]+)\s+([\d.eE+-]+)",
            text.split("[CURVES]")[1].split("[")[0],
            re.MULTILINE,
        )
        free.append(max(float(q) for q, _ in curve))
    assert free[0] > 1.01 * free[1]
