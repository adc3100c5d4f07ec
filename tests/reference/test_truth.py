"""Figures, formulas and rules against values from outside the project. Bounds are those of an
audit; each row names where they come from ([lib] was computed with CoolProp or
`fluids`, [mem] is a standard recalled).
"""

import math
from collections.abc import Callable, Iterator

import pytest
from scipy.interpolate import PchipInterpolator

from tall_heron.core.base.catalogue import table
from tall_heron.core.contract import solution_data
from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.figures import Loss
from tall_heron.core.document.properties import Properties
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import fit
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.topology import insert, second_pump, take_out, turn_round
from tall_heron.core.physics.fuel import fuel_named, season_reid_vapor
from tall_heron.core.rules import check
from tall_heron.core.rules.finding import Finding
from tall_heron.core.shelf.shelf import part_named
from tall_heron.core.shelf.suits import made_for
from tall_heron.core.study.study import make_study
from tall_heron.web.show.text import finding_text

FIGURES = [
    (
        "fuels",
        "E0",
        "expansion_1_k",
        0.00115,
        0.00127,
        "API MPMS 11.1 table 54B, alpha = 346.42/rho2 + 0.4388/rho [mem]; n-heptane 0.00123 [lib]",
    ),
    (
        "fuels",
        "100LL",
        "expansion_1_k",
        0.00120,
        0.00136,
        "API MPMS 11.1 table 54B at 719 kg/m3: 0.00128 [mem]",
    ),
    (
        "hose_families",
        "carburettor,-8",
        "working_kpa",
        230,
        250,
        "SAE J30 R7: 50 psi to 3/8 in, 35 psi at 1/2 in [mem]",
    ),
    (
        "hose_families",
        "rubber,-6",
        "bore_mm",
        9.4,
        9.7,
        "SAE J30 R9 is sold by nominal bore, 9.53 mm [mem]",
    ),
    (
        "hose_families",
        "ptfe,-12",
        "working_kpa",
        5400,
        5600,
        "SAE J517 100R14: 800 psi from -10 [mem]",
    ),
    (
        "house_figures",
        "voltage_low",
        "value",
        11.3,
        11.7,
        "12.0 V at a loaded battery less 0.5 V of wiring, common practice",
    ),
    ("plain_parts", "tee-8", "loss_coefficient", 0.58, 0.66, "Crane TP-410: run of a tee 20 fT"),
]


def demo(name: str, **brief: object) -> Build:
    build = demo_builds()[name]
    return build.model_copy(
        update={"brief": Brief.model_validate(build.brief.model_dump() | brief)}
    )  # type: ignore[union-attr]


def laid(key: str, picks: dict[str, object] | None = None, **asked: object) -> Build:
    brief = Brief.model_validate(
        {"power_kw": 372, "base_kpa": 400, "fuel": "E0", "cylinders": 8, "displacement_l": 5}
        | asked
    )
    return Build(
        name="x",
        brief=brief,
        circuit=LAYOUTS[key].build(brief, LAYOUTS[key].picks(**(picks or {}))),
    )


def found(build: Build) -> list[Finding]:
    return check(make_study(build))[0]


def count(build: Build, rule: str) -> int:
    return sum(f.rule == rule for f in found(build))


def boils(fuel: str, celsius: float) -> float:
    return make_study(demo("curlew", fuel=fuel, fuel_temperature_c=celsius)).vapor_pressure / 1e3


def share(build: Build) -> float:
    study = make_study(build)
    return study.pumps_deliver(study.peak) / sum(
        study.peak.solution.links[e.id].flow for e in build.circuit.of_kind("pump")
    )


def merge_ratio() -> float:
    study = make_study(laid("C1"))
    leg, part = study.peak.solution.links["Y1.a"], study.build.circuit.element("Y1").figures  # type: ignore[union-attr]
    assert isinstance(part, Loss)
    speed = 2 * leg.flow / (math.pi * (part.bore_mm / 1e3) ** 2 / 4)
    return (leg.loss or 0.0) / (
        part.loss_coefficient * study.peak.solution.density * speed * speed / 2
    )


def series_in_flight() -> int:
    parallel = laid("A3", power_kw=119, base_kpa=300, fuel="100LL", use="flight", cylinders=4)
    return sum(
        f.level == "Stop" and f.rule == "L-08"
        for f in found(insert(take_out(take_out(parallel, "P2"), "K2"), "F1", "bulrush-150")[0])
    )


def rubber_behind_a_relief() -> int:
    build = laid("C1", boost_kpa=152)
    for hose in ("H2", "H3"):
        build = fit(build, hose, "rubber-10")
    return count(build, "H-02")


def sign_is_spoken() -> int:
    """380 hp on Plover: 15 % short."""
    text = str(
        finding_text(
            next(f for f in found(demo("plover", power_kw=283)) if f.rule == "P-15"), "title"
        )
    )
    return int("−" in text or "short" in text or "less" in text)


def starved_dead_head() -> int:
    return sum(
        "smaller pumps" in f.do
        for f in found(laid("C5", feeding="carburettor", base_kpa=48, fuel="methanol"))
        if f.rule == "P-04"
    )


def wire_to_fuel(name: str, kpa: float) -> float:
    """Current of a pump at 13.5 V and a pressure [A]."""
    rows = next(c.rows for c in part_named(name).figures.curves if c.voltage_v == 13.5)  # type: ignore[union-attr]
    return next(row[2] for row in rows if row[1] == kpa)


def current_over_sheet() -> float:
    """What a turbine draws in E85 over what its sheet says at the same flow and voltage, petrol of
    745 kg/m3.
    """
    study = make_study(laid("C1", fuel="E85", voltage_v=14.0, power_kw=300, fuel_temperature_c=15))
    link = study.peak.solution.links["P1"]
    sheet = next(
        c.rows for c in study.build.circuit.element("P1").figures.curves if c.voltage_v == 13.5
    )  # type: ignore[union-attr]
    flows, currents = [row[0] for row in sheet], [row[2] for row in sheet]
    return float((link.current or 0.0) / PchipInterpolator(flows, currents)(link.flow * 3.6e6))


def lost_before_a_pump() -> float:
    """What entry and speed take at 400 L/h through -6 rubber of 9.525 mm before an external pump
    [kPa].
    """
    build = take_out(
        laid(
            "C11",
            {"pumps": ("teasel-410",), "suction": {"family": "rubber", "dash": "-6", "mm": 400}},
            power_kw=200,
        ),
        "E1",
    )
    study = make_study(build)
    peak, pump = study.peak, build.circuit.element("P1")
    assert pump is not None
    total = 1e3 * solution_data("peak", peak.solution)["nodes"][pump.ports["start"]]
    clear = study.inlet_clear(peak, pump)
    assert clear is not None
    taken = total + peak.case.point.atmosphere - study.boils_at(peak.case.fuel) - clear
    return taken / 1e3 * (400 / (peak.solution.flow("H1") * 3.6e6)) ** 2


def rows() -> Iterator[tuple[str, Callable[[], float], float, float]]:
    yield (
        "ASTM D910: 100LL has one Reid limit all year, kPa",
        lambda: season_reid_vapor(fuel_named("100LL"), "winter") / 1e3,
        38,
        49,
    )
    yield (
        "40 CFR 1090.215 [mem]: E10 may stand 1 psi over the class in summer, kPa",
        lambda: season_reid_vapor(fuel_named("E10"), "summer") / 1e3,
        68,
        70,
    )
    yield "ethanol at 50 C, CoolProp [lib] 29.4 kPa", lambda: boils("E100", 50), 28, 31
    yield "methanol at 60 C, CoolProp [lib] 84.7 kPa", lambda: boils("methanol", 60), 82, 88
    yield (
        "three pumps: all that they give is counted, by mass balance",
        lambda: share(second_pump(laid("C1"), "P2")[0]),
        0.99,
        1.01,
    )
    yield (
        "a pre-filter before one of two: all that they give is counted",
        lambda: share(insert(laid("C1"), "P2", "sedge-100", True)[0]),
        0.99,
        1.01,
    )
    yield "figures keep their sign", sign_is_spoken, 1, 1
    yield (
        "Curlew at 500 hp: dead time counts in duty, t n / 120,000",
        lambda: count(demo("curlew", power_kw=372.85), "P-06"),
        1,
        9,
    )
    yield "Crane TP-410: K of a merge is on the bore of the joined flow", merge_ratio, 0.95, 1.05
    yield "R9 rubber (100 psi) behind a relief of 110 psi", rubber_behind_a_relief, 1, 9
    hot = {"power_kw": 600, "boost_kpa": 150, "fuel": "E85", "fuel_temperature_c": 55}
    yield (
        "a gerotor's own need of 10 kPa against what 55 C leaves",
        lambda: count(laid("C11", {"pumps": ("teasel-800",)}, **hot), "S-01"),
        1,
        9,
    )
    yield "two pumps in series in flight: none left if one stops", series_in_flight, 1, 9
    yield (
        "silence on methanol allows none",
        lambda: int(made_for(Properties(ethanol_max_percent=15), fuel_named("methanol"))),
        0,
        0,
    )
    yield "a starved dead-head regulator is not told to fit smaller pumps", starved_dead_head, 0, 0
    yield (
        "a check valve backwards is named",
        lambda: sum(f.element_id == "K1" for f in found(turn_round(laid("C1"), "K1"))),
        1,
        9,
    )
    yield (
        "roller pump of 255 L/h at 400 kPa, 30 % wire to fuel, A",
        lambda: wire_to_fuel("sallow-255", 400),
        6.0,
        7.3,
    )
    yield "gerotor of 410 L/h at 400 kPa, A", lambda: wire_to_fuel("teasel-410", 400), 7, 13
    yield "gerotor of 800 L/h at 400 kPa, A", lambda: wire_to_fuel("teasel-800", 400), 14, 25.5
    yield (
        "a turbine in E85 draws as much more as E85 is heavier, 783 over 745 (affinity laws)",
        current_over_sheet,
        1.03,
        1.07,
    )
    yield (
        "Crane TP-410: a sharp entry (0.5) and velocity head (1) at 400 L/h in 9.525 mm, 735 kg/m3, by hand 1.34 kPa",
        lost_before_a_pump,
        1.28,
        1.40,
    )
    yield "roller pump of 120 L/h at 300 kPa, A", lambda: wire_to_fuel("sallow-120", 300), 1.6, 2.9


@pytest.mark.parametrize(
    ("name", "key", "column", "low", "high", "source"),
    FIGURES,
    ids=[f"{f[1]} {f[2]}" for f in FIGURES],
)
def test_a_figure_of_the_data_is_the_published_one(
    name: str, key: str, column: str, low: float, high: float, source: str
) -> None:
    row = next(
        r for r in table(name) if key in (r.get("name"), f"{r.get('family')},{r.get('dash')}")
    )
    assert low <= row[column] <= high, source


@pytest.mark.parametrize(
    ("look", "low", "high"), [row[1:] for row in rows()], ids=[row[0] for row in rows()]
)
def test_what_is_reckoned_or_said_is_right(
    look: Callable[[], float], low: float, high: float
) -> None:
    assert low <= look() <= high
