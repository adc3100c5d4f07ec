"""Every rule that looks at a build in its vehicle fires on a fault and is silent on a sound build;
a guess is never more than a Check, and guards, grommets and clamps clear what they are for.
"""

import math
from collections.abc import Callable

import pytest

from tall_heron.core.design import design
from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.sources import with_source
from tall_heron.core.document.space import Space, Zone
from tall_heron.core.editing import route as edit
from tall_heron.core.editing.additions import ADDITIONS
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.drawn import followed
from tall_heron.core.editing.fields import fit, remove, set_clock, set_length
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.routing.limits import near_zone
from tall_heron.core.routing.vectors import Vector, add_vectors, subtract_vectors
from tall_heron.core.rules import CASE_RULES, ROUTE_RULES, RULES, WIRING_RULES, check_route
from tall_heron.core.rules.finding import Finding
from tall_heron.core.rules.route import beside_heat
from tall_heron.core.study.route_cost import route_cost
from tall_heron.core.study.study import make_study

DEMO = demo_builds()
BITTERN, STONECHAT, EGRET = DEMO["bittern"], DEMO["stonechat"], DEMO["egret"]
CAR = Brief(
    power_kw=300,
    base_kpa=400,
    boost_kpa=100,
    fuel="E10",
    cylinders=6,
    displacement_l=3.0,
    use="street",
)


def made(layout: str = "C1") -> Build:
    laid = LAYOUTS[layout]
    return Build(
        name="made", brief=CAR, circuit=with_source(laid.build(CAR, laid.picks()), "assumed")
    )


def corners(build: Build, line: str) -> list[Vector]:
    return list(lay_out(build).lines[line].run.corners)


def shifted(build: Build, line: str, by: Vector, *which: int) -> Build:
    """A line with some of its corners moved [mm]."""
    return edit.draw_line(
        build,
        line,
        [add_vectors(c, by) if i in which else c for i, c in enumerate(corners(build, line))],
    )


def zoned(
    kind: str, where: Vector, half: float = 40.0, build: Build = BITTERN, **more: object
) -> Build:
    low, high = add_vectors(where, (-half, -half, -half)), add_vectors(where, (half, half, half))
    return edit.set_zone(
        build, Zone.model_validate({"name": "extra", "kind": kind, "low": low, "high": high} | more)
    )


BESIDE_H3 = (2300.0, 380.0, 240.0)  # beside the feed under the floor
ABOVE_H2 = (880.0, 380.0, 650.0)
FAR = (2300.0, -700.0, 1200.0)


def clear_of_heat() -> Build:
    return shifted(BITTERN, "H3", (0.0, 45.0, 0.0), 1, 2)


def ends_together() -> Build:
    """The filter moved so that its outlet's end stands where the pump's inlet end is."""
    lines = lay_out(STONECHAT).lines
    place = lay_out(STONECHAT).stands.standing["F2"].place.at
    return edit.move_part(
        STONECHAT,
        "F2",
        add_vectors(
            place, subtract_vectors(lines["H1"].run.other.socket, lines["H3"].run.one.socket)
        ),
    )


def cooler_stacks() -> Build:
    return edit.set_zone(
        EGRET,
        Zone(
            name="stacks left",
            kind="hot",
            shape="cylinder",
            low=(6500, 260, 1100),
            high=(6300, 260, 1100),
            radius_mm=45,
            temperature_c=600,
        ),
    )


def filled() -> Build:
    return ADDITIONS["filler"].add(BITTERN, "S1")[0]


def hard_to_the_engine() -> Build:
    return followed(fit(BITTERN, "H3", "steel-10"))


def drawn_all() -> Build:
    return edit.lead_all(made(), 40)[0]


FAULTS: list[tuple[str, Callable[[], Build], str, Callable[[], Build]]] = [
    ("R-01", lambda: edit.set_radius(BITTERN, "H3", 140.0), "Check", lambda: BITTERN),
    (
        "R-01",
        lambda: edit.set_radius(BITTERN, "H3", 100.0),
        "Stop",
        lambda: edit.set_radius(BITTERN, "H3", 165.0),
    ),
    ("R-02", lambda: shifted(BITTERN, "H3", (150.0, 0.0, 150.0), 1), "Check", lambda: BITTERN),
    ("R-03", lambda: shifted(BITTERN, "H3", (0.0, 0.0, 200.0), 3), "Check", lambda: BITTERN),
    ("R-04", lambda: set_clock(BITTERN, "H4", 200), "Check", lambda: set_clock(BITTERN, "H4", 50)),
    ("R-05", lambda: BITTERN, "Stop", clear_of_heat),
    ("R-05", lambda: EGRET, "Stop", cooler_stacks),
    ("R-06", lambda: shifted(BITTERN, "H4", (0.0, 40.0, 0.0), 2, 3), "Stop", lambda: BITTERN),
    ("R-07", lambda: zoned("battery", BESIDE_H3), "Check", lambda: BITTERN),
    ("R-08", lambda: zoned("wiring", BESIDE_H3), "Check", lambda: zoned("wiring", FAR)),
    (
        "R-09",
        lambda: zoned(
            "brake",
            BESIDE_H3,
            4.0,
            shape="cylinder",
            low=(1500, 400, 240),
            high=(3000, 400, 240),
            radius_mm=4,
        ),
        "Check",
        lambda: BITTERN,
    ),
    ("R-10", lambda: zoned("hands", ABOVE_H2), "Check", lambda: BITTERN),
    (
        "R-11",
        lambda: zoned("obstacle", ABOVE_H2),
        "Check",
        lambda: zoned("obstacle", add_vectors(ABOVE_H2, (0.0, 0.0, 120.0))),
    ),
    ("R-12", lambda: edit.remove_guard(BITTERN, "H3", 0), "Check", lambda: BITTERN),
    (
        "R-13",
        lambda: edit.remove_guard(shifted(BITTERN, "H4", (0.0, 150.0, 0.0), 4, 5), "H4", 0),
        "Check",
        lambda: BITTERN,
    ),
    ("R-14", lambda: STONECHAT, "Check", lambda: edit.suggest_clamps(STONECHAT, "H3")),
    (
        "R-15",
        lambda: edit.draw_line(STONECHAT, "H1", [(1380, 430, 560)]),
        "Check",
        lambda: STONECHAT,
    ),
    ("R-16", lambda: shifted(BITTERN, "H5", (0.0, 0.0, -330.0), 1), "Check", lambda: BITTERN),
    ("R-17", lambda: shifted(BITTERN, "H3", (0.0, 0.0, 250.0), 0, 1), "Check", lambda: BITTERN),
    ("R-18", lambda: edit.move_part(BITTERN, "F2", (2000, 0, 600)), "Stop", lambda: BITTERN),
    (
        "R-19",
        lambda: edit.draw_line(
            edit.move_part(BITTERN, "N2", (110, 520, 420)), "H5", [(90, 300, 480)]
        ),
        "Check",
        lambda: BITTERN,
    ),
    ("R-19", lambda: edit.move_part(BITTERN, "N2", (400, -590, 480)), "Stop", lambda: BITTERN),
    ("R-20", lambda: edit.move_part(STONECHAT, "P1", (1380, 320, 700)), "Check", lambda: STONECHAT),
    ("R-21", lambda: edit.move_part(BITTERN, "F2", (3900, 0, 600)), "Check", lambda: BITTERN),
    ("R-21", lambda: edit.move_part(EGRET, "V2", (5160, 0, 760)), "Check", lambda: EGRET),
    ("R-22", hard_to_the_engine, "Check", lambda: BITTERN),
    ("R-23", ends_together, "Check", lambda: STONECHAT),
    (
        "R-24",
        lambda: edit.set_group(BITTERN, "pair", ["H3", "H4"]),
        "Note",
        lambda: edit.set_group(EGRET, "wings", ["H1", "H15"]),
    ),
    (
        "R-25",
        lambda: edit.measured(BITTERN, "H3", 4000.0),
        "Note",
        lambda: edit.measured(BITTERN, "H3", 3245.0),
    ),
    (
        "R-27",
        lambda: edit.draw_line(filled(), "H7", [(700, 412, 502), (700, 500, 300), (700, 780, 420)]),
        "Check",
        filled,
    ),
    (
        "R-27",
        lambda: remove(remove(edit.draw_line(filled(), "H7", [(700, 700, 600)]), "H5"), "N2"),
        "Check",
        lambda: edit.draw_line(filled(), "H7", [(700, 700, 600)]),
    ),
    (
        "R-29",
        lambda: shifted(BITTERN, "H3", (0.0, 0.0, -110.0), 0, 1),
        "Check",
        lambda: shifted(BITTERN, "H3", (0.0, 0.0, -50.0), 0, 1),
    ),
    ("R-28", made, "Note", drawn_all),
]


def found(build: Build, rule: str) -> list[Finding]:
    return [f for f in check_route(make_study(build))[0] if f.rule == rule]


@pytest.mark.parametrize(
    ("rule", "faulty", "level", "sound"),
    FAULTS,
    ids=[f"{r}-{i}" for i, (r, *_) in enumerate(FAULTS)],
)
def test_a_rule_fires_on_its_fault_and_is_silent_without(
    rule: str, faulty: Callable[[], Build], level: str, sound: Callable[[], Build]
) -> None:
    wrong = found(faulty(), rule)
    assert wrong, rule
    assert {f.level for f in wrong} == {level}
    for f in wrong:
        assert f.station == "route"
        assert f.source
        assert {
            part.partition("}")[0]
            for text in (f.title, f.why, f.do)
            for part in text.split("{")[1:]
        } <= set(f.figures)
    assert found(sound(), rule) == []


def test_every_rule_has_a_fault_here() -> None:
    assert {r.id for r in ROUTE_RULES} == {rule for rule, *_ in FAULTS}


def test_what_protects_a_stretch_clears_what_it_is_for() -> None:
    sleeved = edit.add_guard(BITTERN, "H3", "sleeve", 2000, 3200)
    assert found(sleeved, "R-05") == []  # 123 mm is more than the 75 of a sleeved line
    assert found(edit.add_guard(BITTERN, "H3", "sleeve", 0, 500), "R-05")
    bare = shifted(BITTERN, "H3", (0.0, 0.0, 250.0), 0, 1)
    assert found(edit.set_grommet(bare, "H3", "firewall", True), "R-17") != found(bare, "R-17")
    brake = zoned(
        "brake",
        BESIDE_H3,
        4.0,
        shape="cylinder",
        low=(1500, 400, 240),
        high=(3000, 400, 240),
        radius_mm=4,
    )
    assert found(edit.add_guard(brake, "H3", "separator", 0, 3000), "R-09") == []
    shielded = zoned("hot", BESIDE_H3, temperature_c=300, shielded=True, build=clear_of_heat())
    assert found(shielded, "R-05")[0].figures["limit"].value == pytest.approx(0.075)
    assert found(zoned("hot", BESIDE_H3, temperature_c=60, build=clear_of_heat()), "R-05") == []


def test_a_guess_is_never_a_stop() -> None:
    """The same fault, on a line that nobody has drawn."""
    for layout in LAYOUTS:
        laid, brief = (
            LAYOUTS[layout],
            CAR
            if layout.startswith("C")
            else CAR.model_copy(
                update={
                    "use": "flight",
                    "fuel": "100LL",
                    "boost_kpa": 0.0,
                    "base_kpa": 300.0,
                    "power_kw": 110.0,
                }
            ),
        )
        build = Build(name="made", brief=brief, circuit=laid.build(brief, laid.picks()))
        assert all(f.level != "Stop" for f in check_route(make_study(build))[0])


def test_the_demo_builds_have_each_an_honest_fault() -> None:
    worst = {
        name: [(f.rule, f.level) for f in design(DEMO[name]).of_route[0]]
        for name in ("bittern", "stonechat", "egret")
    }
    assert ("R-05", "Stop") in worst["bittern"]
    assert ("R-05", "Stop") in worst["egret"]
    assert ("R-14", "Check") in worst["stonechat"]
    assert all(len(found) <= 4 for found in worst.values())


def test_every_rule_has_a_number_of_its_own() -> None:
    every = [r.id for r in (*RULES, *CASE_RULES, *ROUTE_RULES, *WIRING_RULES)]
    assert len(every) == len(set(every))
    assert all(
        (r.look.__doc__ or "").strip() for r in (*RULES, *CASE_RULES, *ROUTE_RULES, *WIRING_RULES)
    )  # the page of rules says it


def test_clear_is_from_surface_to_surface() -> None:
    """A bar 400 mm from the middle of H3 under the floor, by hand: less the bar's radius of 30 and
    half of the hose's 16.6 mm.
    """
    built = zoned(
        "hot",
        BESIDE_H3,
        shape="cylinder",
        low=(1800, 30, 240),
        high=(2800, 30, 240),
        radius_mm=30,
        temperature_c=400,
    )
    laid = lay_out(built)
    near = near_zone(
        laid.lines["H3"], next(z for z in laid.outline.zones if z.name == "extra"), False
    )
    assert near is not None
    assert near.clear == pytest.approx(400 - 30 - 16.6 / 2, abs=0.05)


def test_stretches_beside_heat_are_told_to_the_cases() -> None:
    """A metre of bar beside the feed, 150 mm and more beyond both its ends: what is within 150 mm
    of its surface, by Pythagoras at the ends.
    """
    built = zoned(
        "hot",
        BESIDE_H3,
        shape="cylinder",
        low=(1800, 330, 240),
        high=(2800, 330, 240),
        radius_mm=20,
        temperature_c=400,
    )
    told = {(line, what): mm for line, what, mm, *_ in beside_heat(make_study(built))}
    reach = 150 + 16.6 / 2
    assert told["H3", "extra"] == pytest.approx(1000 + 2 * math.sqrt(reach**2 - 80**2), abs=25)
    assert all("extra" not in key for key in {k for k in told if k[0] == "H5"})


def test_a_pump_over_its_outlet_draws_uphill_and_a_corner_does_not_count() -> None:
    """By the heights of the two ports, both sides of the limit; a meter ahead of the outlet asks
    for nothing at rest.
    """
    outlet, over = 410, 150
    assert not found(edit.move_part(STONECHAT, "P1", (1380, 320, outlet + over - 5)), "R-20")
    above = found(edit.move_part(STONECHAT, "P1", (1380, 320, outlet + over + 5)), "R-20")
    assert "at rest" in above[0].title
    assert above[0].figures["lift"].value == pytest.approx((over + 5) / 1000, abs=0.001)
    assert not found(edit.move_part(STONECHAT, "P1", (2900, 320, 410)), "R-20")


@pytest.mark.parametrize(("tank", "vent"), [("S1", "H5"), ("S2", "H51")])
def test_each_vent_is_held_to_its_own_tank(tank: str, vent: str) -> None:
    laid = lay_out(EGRET)
    up = edit.move_part(
        EGRET, tank, add_vectors(laid.stands.standing[laid.stands.home[tank]].place.at, (0, 0, 400))
    )
    assert [(f.element_id, f.title) for f in found(up, "R-19")] == [
        (vent, f"{vent} nowhere rises over {tank}")
    ]


def test_what_a_route_costs_is_what_a_straight_line_would_save() -> None:
    """Solved anew by itself, with the straight length typed and no bends."""
    study = make_study(BITTERN)
    line = lay_out(study.build).lines["H3"]
    cost = route_cost(study, line)
    assert cost is not None
    straight = math.dist(line.run.one.port.seat, line.run.other.port.seat)
    other = make_study(set_length(BITTERN.model_copy(update={"space": Space()}), "H3", straight))
    assert cost.pressure == pytest.approx(
        study.friction(study.peak, "H3") - other.friction(other.peak, "H3"), rel=1e-6
    )
    assert cost.pressure > 0
    assert cost.power > 0


def test_lines_by_rule_run_side_by_side_the_return_outside() -> None:
    lines = lay_out(made()).lines
    feed, back = (
        min(lines[x].run.corners, key=lambda p: abs(p[0] - 3200))[1] for x in ("H3", "H4")
    )  # at the front of the floor
    assert back == pytest.approx(feed + 45, abs=1)


def test_what_twists_is_marked_in_its_middle() -> None:
    met = found(set_clock(BITTERN, "H4", 200), "R-04")[0]
    path = lay_out(BITTERN).lines["H4"].path
    assert met.spot == pytest.approx(path.at(float(path.along[-1]) / 2), abs=1e-6)
