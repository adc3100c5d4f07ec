"""The solver's edges: K of nothing, shut sections, gas over the fuel, clogging, points that name
what is not there.
"""

import json
from types import SimpleNamespace
from typing import Any

import pytest
from circuits import return_system

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Brief, Build, load, validate
from tall_heron.core.document.kinds import KINDS
from tall_heron.core.editing.fields import remove
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.hydraulics.laws import ChainLaw, RegulatorLaw
from tall_heron.core.hydraulics.network import compile_network
from tall_heron.core.hydraulics.newton import _stagnant_miss
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.study.study import make_study


def solved(data: dict[str, Any], **point: Any) -> Solution:
    build = validate(data | {"points": [data["points"][0] | point]})
    return solve_network(compile_network(build.circuit, build.points[0]))


def without_loss(data: dict[str, Any]) -> dict[str, Any]:
    for e in data["circuit"]["elements"]:
        if "loss_coefficient" in e["figures"]:
            e["figures"]["loss_coefficient"] = 0
    return data


def test_parts_without_any_loss_solve() -> None:
    solution = solved(without_loss(return_system()), demand_lph=90.0)
    assert solution.converged
    assert solution.delivered * 3.6e6 == pytest.approx(90.0, rel=0.05)


def test_two_ways_without_loss_share_their_flow_evenly() -> None:
    """Two fittings of K = 0 side by side: nothing tells them apart, so each takes half."""
    data = return_system()
    hose = next(e for e in data["circuit"]["elements"] if e["kind"] == "hose")
    part = {"law": "loss", "bore_mm": 10, "loss_coefficient": 0}
    data["circuit"]["elements"] = [e for e in data["circuit"]["elements"] if e is not hose]
    data["circuit"]["elements"] += [
        {"id": x, "kind": "fitting", "ports": hose["ports"], "figures": part} for x in ("N8", "N9")
    ]
    solution = solved(data)
    assert solution.converged
    assert solution.flow("N8") == pytest.approx(solution.flow("N9"), rel=1e-6)
    assert abs(solution.flow("N8")) > 1e-6


def test_between_a_dead_headed_pump_and_its_check_stands_the_shut_off() -> None:
    """A pump of 700 kPa at no flow, relief at 650: 650 over its inlet; what nothing presses on
    stays without a pressure.
    """
    rows = [[0, 700], [200, 300], [400, 0]]
    pump = {"law": "pump", "relief_kpa": 650, "curves": [{"voltage_v": 13.5, "rows": rows}]}
    elements = [
        {
            "id": "S1",
            "kind": "tank",
            "ports": {"outlet": "a"},
            "figures": {"law": "tank", "level_mm": 0},
        },
        {"id": "P1", "kind": "pump", "ports": {"start": "a", "end": "b"}, "figures": pump},
        {
            "id": "K1",
            "kind": "check",
            "ports": {"start": "b", "end": "c"},
            "figures": {"law": "check", "cracking_kpa": 2, "bore_mm": 8, "loss_coefficient": 4},
        },
        {
            "id": "V1",
            "kind": "valve",
            "ports": {"start": "c", "end": "d"},
            "figures": {"law": "loss", "bore_mm": 8, "loss_coefficient": 1},
        },
        {
            "id": "J1",
            "kind": "injectors",
            "ports": {"start": "d"},
            "figures": {"law": "injectors", "count": 4, "commanded_at_kpa": 300},
        },
    ]
    data = {
        "circuit": {"nodes": [{"id": x} for x in "abcd"], "elements": elements},
        "points": [{"fuel": "E0", "demand_lph": 0, "voltage_v": 13.5, "position": {"V1": "shut"}}],
    }
    solution = solved(data)
    assert solution.converged
    assert solution.nodes["b"] == pytest.approx(650e3)
    assert solution.nodes["c"] == pytest.approx(
        648e3
    )  # through the check valve, less what it takes to open
    assert solution.nodes["d"] is None


@pytest.mark.parametrize(
    ("holds", "set_kpa", "behind"),
    [
        ("outlet", 300.0, 300e3),
        ("outlet", 900.0, 650e3),
        ("inlet", 300.0, 650e3),
        ("inlet", 900.0, None),
    ],
)
def test_a_regulator_lets_on_what_it_lets_on(
    holds: str, set_kpa: float, behind: float | None
) -> None:
    """Behind a pump of 650 kPa and before a shut valve: a dead-head regulator lets on up to its
    setting, a bypass everything once its inlet is over it.
    """
    part = {
        "law": "regulator",
        "holds": holds,
        "set_kpa": set_kpa,
        "wide_open_bore_mm": 6,
        "wide_open_loss_coefficient": 2,
    }
    elements = [
        {
            "id": "S1",
            "kind": "tank",
            "ports": {"outlet": "a"},
            "figures": {"law": "tank", "level_mm": 0},
        },
        {
            "id": "P1",
            "kind": "pump",
            "ports": {"start": "a", "end": "b"},
            "figures": {
                "law": "pump",
                "curves": [{"voltage_v": 13.5, "rows": [[0, 650], [300, 0]]}],
            },
        },
        {"id": "PR", "kind": "regulator", "ports": {"start": "b", "end": "c"}, "figures": part},
        {
            "id": "V1",
            "kind": "valve",
            "ports": {"start": "c", "end": "d"},
            "figures": {"law": "loss", "bore_mm": 8, "loss_coefficient": 1},
        },
        {
            "id": "J1",
            "kind": "injectors",
            "ports": {"start": "d"},
            "figures": {"law": "injectors", "count": 4, "commanded_at_kpa": 300},
        },
    ]
    point = {"fuel": "E0", "demand_lph": 0, "voltage_v": 13.5, "position": {"V1": "shut"}}
    solution = solved(
        {"circuit": {"nodes": [{"id": x} for x in "abcd"], "elements": elements}, "points": [point]}
    )
    assert solution.nodes["b"] == pytest.approx(650e3)
    assert solution.nodes["c"] == (None if behind is None else pytest.approx(behind))


def test_gas_over_the_fuel_presses_it_out() -> None:
    """7 kPa of gas is 7 kPa at the outlet, as 959 mm more of fuel of 745 kg/m3 would be."""
    data = return_system()
    tank = next(e for e in data["circuit"]["elements"] if e["kind"] == "tank")
    before = solved(data)
    tank["figures"]["gauge_kpa"] = 7.0
    after = solved(data)
    outlet = tank["ports"]["outlet"]
    assert (after.nodes[outlet] or 0.0) - (before.nodes[outlet] or 0.0) == pytest.approx(7000)


@pytest.mark.parametrize("law", ["loss", "quadratic"])
def test_a_clogged_filter_takes_so_many_times_as_much(law: str) -> None:
    data = return_system()
    figures = {
        "loss": {"law": "loss", "bore_mm": 6, "loss_coefficient": 3},
        "quadratic": {"law": "quadratic", "a_kpa_per_lph": 0.01, "b_kpa_per_lph2": 1e-5},
    }[law]
    hose = next(e for e in data["circuit"]["elements"] if e["kind"] == "hose")
    hose |= {"id": "F9", "kind": "filter", "figures": figures}
    hose.pop("length", None)
    for node in data["circuit"]["nodes"]:
        node["elevation_mm"] = 0
    clean, loaded = solved(data), solved(data, clogging={"F9": 4.0})
    flow = loaded.flow("F9") / clean.flow("F9")
    share = {"loss": flow**2}.get(law)
    ratio = (loaded.links["F9"].loss or 0.0) / (clean.links["F9"].loss or 1.0)
    if share is not None:
        assert ratio == pytest.approx(4 * share, rel=1e-3)
    else:
        assert 4 * min(flow, flow**2) <= ratio * (1 + 1e-9)
        assert ratio <= 4 * max(flow, flow**2) * (1 + 1e-9)


@pytest.mark.parametrize(
    ("point", "field", "says"),
    [
        ({"position": {"H": "open"}}, "/points/0/position/H", "a hose has no positions"),
        ({"clogging": {"H": 2}}, "/points/0/clogging/H", "a hose does not clog"),
        ({"off": ["Z9"]}, "/points/0/off/Z9", "names no part"),
        ({"demand_lph": "brief"}, "/points/0/demand_lph", "there is no brief"),
    ],
)
def test_a_fault_of_a_point_is_told_at_its_place(
    point: dict[str, Any], field: str, says: str
) -> None:
    data = return_system()
    hose = next(e["id"] for e in data["circuit"]["elements"] if e["kind"] == "hose")
    text = json.dumps(data | {"points": [data["points"][0] | point]}).replace(
        '"H"', json.dumps(hose)
    )
    with pytest.raises(BuildErrors) as caught:
        load(text)
    assert caught.value.errors[0].field == field.replace("/H", f"/{hose}")
    assert says in caught.value.errors[0].message


def test_every_kind_that_has_positions_names_them() -> None:
    data = return_system()
    hose = next(e for e in data["circuit"]["elements"] if e["kind"] == "hose")
    valve = {
        "id": "V9",
        "kind": "valve",
        "ports": hose["ports"],
        "figures": {"law": "loss", "bore_mm": 8, "loss_coefficient": 1},
    }
    data["circuit"]["elements"].append(valve)
    with pytest.raises(BuildErrors) as caught:
        validate(data | {"points": [data["points"][0] | {"position": {"V9": "ajar"}}]})
    assert caught.value.errors[0].message == f"is “ajar”; a {KINDS['valve'].word} can be open, shut"


def test_fuel_runs_forward_through_ys_and_turned_round_backward() -> None:
    """Merges from their legs to the end, splits from the start to their legs, in every layout of
    parallel rails.
    """
    brief = Brief(power_kw=300, base_kpa=300, cylinders=8)
    layout = LAYOUTS["C1"]
    circuit = layout.build(brief, layout.picks(rails="parallel"))
    links = make_study(Build(name="y", brief=brief, circuit=circuit)).peak.solution.links
    for e in circuit.of_kind("merge", "split"):
        assert min(links[f"{e.id}.{leg}"].flow for leg in "ab") > 0
    turned = [
        e.model_copy(update={"reversed": True}) if e.kind in ("merge", "split") else e
        for e in circuit.elements
    ]
    links = make_study(
        Build(name="y", brief=brief, circuit=circuit.model_copy(update={"elements": turned}))
    ).peak.solution.links
    assert (
        max(links[f"{e.id}.{leg}"].flow for e in circuit.of_kind("merge", "split") for leg in "ab")
        < 0
    )


def test_a_controlled_pump_that_finds_no_answer_says_so() -> None:
    brief = Brief(power_kw=300, base_kpa=300)
    build = remove(Build(name="c", brief=brief, circuit=LAYOUTS["C3"].build(brief)), "P1")
    solution = make_study(build).peak.solution
    assert not solution.converged
    assert solution.reason


@pytest.mark.parametrize(
    ("kind", "volts", "share"),
    [("turbine", 18.0, 1.1), ("turbine", 9.0, 1.1), ("roller", 18.0, 1.0)],
)
def test_current_beyond_the_maps_is_the_nearest_ones(kind: str, volts: float, share: float) -> None:
    """A map of constant current: it stays beyond its voltages, and goes with density against the
    sheet's for a turbine alone.
    """
    data = return_system(pumps=1, demand_lph=30)
    pump = next(e for e in data["circuit"]["elements"] if e["kind"] == "pump")
    pump["figures"] = {
        "law": "pump", "kind": kind, "measured_with": {"density_kg_m3": 745 / 1.1, "viscosity_mpa_s": 0.5},
        "curves": [{"voltage_v": v, "rows": [[0, 900, 8.0], [200, 500, 8.0], [400, 0, 8.0]]} for v in (12.0, 13.5)],
    }  # fmt: skip
    link = solved(data, voltage_v=volts).links["P0"]
    assert link.current == pytest.approx(8.0 * share)


@pytest.mark.parametrize(
    ("row", "pu", "pv", "miss"),
    [
        (
            0,
            900.0,
            400.0,
            300.0,
        ),  # a check that opens at 200 Pa holds back 500: 300 too much for it to stay shut
        (0, 400.0, 900.0, 0.0),
        (1, 400.0, 900.0, 500.0),  # nothing holds a plain way: its ends are one pressure
        (2, 450.0, 100.0, 50.0),  # a bypass regulator set to 400 Pa stays shut only below it
        (2, 390.0, 100.0, 0.0),
        (2, 450.0, 460.0, 0.0),  # and where nothing presses it open
        (3, 900.0, 350.0, 50.0),  # one that holds 400 Pa behind it stays shut only above it
        (3, 900.0, 450.0, 0.0),
    ],
)
def test_how_far_what_stands_still_is_from_its_law(
    row: int, pu: float, pv: float, miss: float
) -> None:
    """By hand, for a check valve, a plain way, a bypass and a dead-head regulator."""
    plain = ChainLaw(0.0, 1e9, (), (), 0.0, False, float("inf"), None)
    net = SimpleNamespace(
        chains=[plain._replace(one_way=True, cracking=200.0), plain],
        regulators=[RegulatorLaw(side, 400.0, 0.0, 1.0) for side in (0, 1)],
    )
    assert _stagnant_miss(net, row, pu, pv) == pytest.approx(miss)  # type: ignore[arg-type]


def test_what_is_asked_of_each_set_of_injectors_by_name_is_what_it_gets() -> None:
    """90 L/h by name is 90 L/h by number, where one set takes all."""
    data = return_system()
    name = next(e["id"] for e in data["circuit"]["elements"] if e["kind"] == "injectors")
    by_name, by_number = (
        solved(data, demand_lph={name: 90.0}),
        solved(return_system(), demand_lph=90.0),
    )
    assert by_name.links[name].flow == pytest.approx(by_number.links[name].flow)
    assert by_name.links[name].flow * 3.6e6 == pytest.approx(90.0, rel=0.05)
