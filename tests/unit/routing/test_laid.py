"""A build laid out: places by rule, lines between their ports, lengths that follow the drawing,
what acts on the page do to the circuit.
"""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Brief, Build, dump, load
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.space import OUTLINES, Space
from tall_heron.core.editing import route as edit
from tall_heron.core.editing.additions import ADDITIONS
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.drawn import followed
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.topology import set_height, set_place, split, take_out
from tall_heron.core.routing.clearance import polyline
from tall_heron.core.routing.laid import lay_out, least_radius
from tall_heron.core.routing.limits import near_zone
from tall_heron.core.routing.outline import titles
from tall_heron.core.routing.run import HoseRun, Port, RunEnd
from tall_heron.core.routing.suggest import suggestions
from tall_heron.core.routing.tape import read_points
from tall_heron.core.routing.vectors import (
    across,
    angle_between,
    cross,
    dot,
    size,
    subtract_vectors,
)
from tall_heron.core.sheets.buy_list import make_buy_list
from tall_heron.core.study.cases.requirements import make_matrix
from tall_heron.core.study.study import make_study

DEMO = demo_builds()
CAR = Brief(
    power_kw=300,
    base_kpa=400,
    boost_kpa=100,
    fuel="E10",
    cylinders=6,
    displacement_l=3.0,
    use="street",
)
AIR = Brief(
    power_kw=110, fuel="100LL", base_kpa=300, use="flight", cylinders=4, fuel_temperature_c=20
)


def element(build: Build, name: str) -> Element:
    found = build.circuit.element(name)
    assert found is not None
    return found


def laid_out(layout: str) -> Build:
    laid, brief = LAYOUTS[layout], AIR if layout.startswith("A") else CAR
    return Build(name="made", brief=brief, circuit=laid.build(brief, laid.picks()))


@pytest.mark.parametrize("layout", LAYOUTS)
def test_any_layout_opens_placed_and_led(layout: str) -> None:
    """Every line of it has two ends and a way that leaves them straight; nothing is said of it, so
    all is assumed; the circuit's own figures are as they were.
    """
    build = laid_out(layout)
    laid = lay_out(build)
    assert not laid.without
    for line in laid.lines.values():
        assert not line.drawn
        if line.inside:
            continue
        assert not line.trouble, line.element.id
        assert max(line.run.kinks) < math.radians(5), line.element.id
        assert line.length > 0
        assert line.run.radius == pytest.approx(1.1 * least_radius(line.element))
    assert followed(build).circuit.elements != build.circuit.elements or layout == "none"
    assert load(dump(followed(build))) == followed(build)


@pytest.mark.parametrize("outline", OUTLINES)
def test_an_outline_goes_where_its_dimensions_say(outline: str) -> None:
    brief = AIR if outline in titles(flies=True) else CAR
    build = laid_out("A3" if brief is AIR else "C1").model_copy(
        update={"space": Space(outline=outline)}
    )  # type: ignore[arg-type]
    first = lay_out(build).outline
    name, by = ("chord", 200.0) if brief is AIR else ("wheelbase", 300.0)
    longer = lay_out(edit.set_dimension(build, name, first.dimensions[name] + by)).outline
    if brief is CAR:
        assert longer.size[0] == pytest.approx(first.size[0] + by)
        axles = sorted({w[0] for w in longer.wheels})
        assert axles[-1] - axles[0] == pytest.approx(first.dimensions["wheelbase"] + by)
    else:
        assert longer.size == first.size
    assert {z.name for z in longer.zones} == {z.name for z in first.zones}
    for zone in longer.zones:
        assert (
            all(a <= b for a, b in zip(zone.low, zone.high, strict=True))
            or zone.shape == "cylinder"
        )


@pytest.mark.parametrize("outline", OUTLINES)
def test_a_landmark_lies_where_it_is_typed_and_all_else_fixed_stays(outline: str) -> None:
    brief = AIR if outline in titles(flies=True) else CAR
    build = laid_out("A3" if brief is AIR else "C1").model_copy(
        update={"space": Space(outline=outline)}
    )  # type: ignore[arg-type]
    first = lay_out(build).outline
    wall = {p.name: p.low[0] for p in first.panels}.get("firewall")  # a motorcycle has none
    marks = [
        n
        for n in ("tank_firewall", "floor", "rail_up", "bowl_up", "tank_up")
        if n in first.dimensions
    ]
    assert ({"tank_firewall", "floor"} if wall is not None else {"tank_up"}) <= set(marks)
    for name in marks:
        moved = lay_out(edit.set_dimension(build, name, first.dimensions[name] + 30)).outline
        changed = {
            k for k in first.dimensions if abs(moved.dimensions[k] - first.dimensions[k]) > 0.15
        }
        assert name in changed
        assert changed <= set(marks), changed  # what was not typed may go along, no main dimension
        assert moved.size == first.size
        assert moved.wheels == first.wheels or brief is AIR
    with pytest.raises(BuildErrors, match="for this outline"):
        edit.set_dimension(build, marks[0], 30_000.0)
    if wall is None:
        return
    assert abs(wall - first.spots["tank"].at[0]) == pytest.approx(
        first.dimensions["tank_firewall"], abs=0.2
    )
    longer = lay_out(
        edit.set_dimension(build, "tank_firewall", first.dimensions["tank_firewall"] + 30)
    ).outline
    assert abs(
        {p.name: p.low[0] for p in longer.panels}["firewall"] - longer.spots["tank"].at[0]
    ) == pytest.approx(first.dimensions["tank_firewall"] + 30, abs=0.2)


def test_lengths_follow_a_dragged_corner_and_what_was_measured_stands() -> None:
    build = DEMO["bittern"]
    line = lay_out(build).lines["H3"]
    moved = edit.draw_line(
        build,
        "H3",
        [(c[0], c[1] + (90 if i == 1 else 0), c[2]) for i, c in enumerate(line.run.corners)],
    )
    now = lay_out(moved).lines["H3"]
    assert element(moved, "H3").length.mm == pytest.approx(now.length, abs=0.06)  # type: ignore[union-attr]
    assert now.length > line.length + 1
    taped = edit.measured(moved, "H3", 3300.0, "3.3 m")
    assert element(edit.draw_line(taped, "H3", line.run.corners), "H3").length.mm == 3300  # type: ignore[union-attr]
    again = edit.measured(taped, "H3", None)
    assert element(again, "H3").length.mm == pytest.approx(now.length, abs=0.06)  # type: ignore[union-attr]


def test_a_routed_build_solves_as_one_whose_heights_were_typed() -> None:
    """The same lengths, bends, heights and places said one by one, without a drawing: every
    pressure at every case is the same, those that lean and speed up among them.
    """
    routed = DEMO["stonechat"]
    bare = [
        n.model_copy(update={"elevation_mm": 0.0, "ahead_mm": None, "right_mm": None})
        for n in routed.circuit.nodes
    ]
    typed = routed.model_copy(
        update={
            "space": Space(),
            "circuit": routed.circuit.model_copy(
                update={"nodes": bare, "elements": list(routed.circuit.elements)}
            ),
        }
    )
    at = lay_out(routed).stands.nodes(routed.circuit)
    tank = at[routed.circuit.of_kind("tank")[0].ports["outlet"]]
    datum = next(
        n.elevation_mm
        for n in routed.circuit.nodes
        if n.id == routed.circuit.of_kind("tank")[0].ports["outlet"]
    )
    for e in typed.circuit.elements:
        for port, node in e.ports.items():
            place = at[node]
            typed = set_height(typed, e.id, port, round(datum + place[2] - tank[2], 1))
            typed = set_place(
                set_place(typed, e.id, port, "ahead", round(place[0] - tank[0], 1)),
                e.id,
                port,
                "right",
                round(-place[1], 1),
            )
    one, other = make_study(routed), make_study(typed)
    for key, solved in one.solved.items():
        assert solved.solution.nodes == pytest.approx(
            other.solved[key].solution.nodes, rel=1e-6, abs=0.01
        )
    rows = [
        (row.moment.case.key, [cell.value for cell in row.cells.values() if cell])
        for row in make_matrix(one).rows
    ]
    assert len(rows) > 8
    for (key, values), (_, others) in zip(
        rows,
        [
            (r.moment.case.key, [c.value for c in r.cells.values() if c])
            for r in make_matrix(other).rows
        ],
        strict=True,
    ):
        assert values == pytest.approx(others, rel=1e-5, abs=0.5), key


def test_a_bulkhead_brings_its_loss_and_its_joints() -> None:
    build = edit.draw_line(
        DEMO["bittern"], "H3", [(1400, 430, 620), (3250, 430, 620), (3600, 380, 700)]
    )
    assert element(build, "H3").length is not None
    with_union, tag = edit.add_bulkhead(build, "H3", "firewall")
    union = element(with_union, tag)
    assert union.properties.mass_kg
    assert len(with_union.circuit.elements) == len(build.circuit.elements) + 2
    halves = [
        x
        for x in lay_out(with_union).lines.values()
        if tag and (set(x.element.ports.values()) & set(union.ports.values()))
    ]
    assert len(halves) == 2
    for half in halves:
        assert max(half.run.kinks) < math.radians(1)
        assert all(b.fits for b in half.run.bends)
    panel = next(p for p in lay_out(with_union).outline.panels if p.name == "firewall")
    stands = lay_out(with_union).stands.standing[tag]
    middle = stands.point(stands.assembly.at[tag])
    assert middle[0] == pytest.approx(panel.low[0], abs=0.2)
    solved, before = make_study(with_union).peak.solution, make_study(build).peak.solution
    assert solved.converged
    assert solved.links[tag].loss > 0  # type: ignore[operator]
    assert before.converged
    with pytest.raises(BuildErrors, match="does not go through"):
        edit.add_bulkhead(build, "H4", "rear bulkhead")
    with pytest.raises(BuildErrors, match="choose a grommet"):
        edit.add_bulkhead(
            edit.draw_line(build, "H5", [(2200, 170, 760), (2200, 700, 760), (300, 700, 900)]),
            "H5",
            "rear bulkhead",
        )


def test_a_line_runs_beside_its_partner() -> None:
    build = edit.run_beside(DEMO["bittern"], "H4", "H3")
    laid = lay_out(build)
    one, other = laid.lines["H4"], laid.lines["H3"]
    middle = one.path.at(float(one.path.along[-1]) / 2)
    gap = (
        min(
            size(subtract_vectors(middle, other.path.at(float(s))))
            for s in range(0, int(other.path.along[-1]), 2)
        )
        - one.outside
        - other.outside
    )
    assert gap == pytest.approx(edit.PAIR_GAP, abs=6)


def test_a_pair_stays_a_pair_when_one_of_them_is_dragged() -> None:
    build = edit.run_beside(DEMO["bittern"], "H4", "H3")
    corners = [(c[0], c[1] - 60, c[2]) for c in lay_out(build).lines["H3"].run.corners]
    moved = edit.draw_line(build, "H3", corners)
    before, after = (lay_out(b).lines["H4"].path.at(1500.0) for b in (build, moved))
    assert after[1] - before[1] == pytest.approx(-60, abs=8)


def test_a_drawn_route_is_bought_and_fillers_and_drains_are_led() -> None:
    build = DEMO["bittern"]
    items = make_buy_list(build, lay_out(build)).items
    clips = [i for i in items if i.key.startswith("clip-")]
    lines = [x for x in lay_out(build).lines.values() if not x.inside]
    assert sum(
        i.quantity - sum(float(n.split()[0]) for n in i.note.split("; ") if "spare" in n)
        for i in clips
    ) == sum(len(x.clamps) for x in lines)
    assert next(i.quantity for i in items if i.key == "stone guard") == pytest.approx(2300 + 2400)
    assumed = make_buy_list(laid_out("C1"), lay_out(laid_out("C1"))).items
    assert all("assumed" in i.note for i in assumed if i.key.startswith("clip-"))
    for kind in ("filler", "drain", "overflow"):
        more, tag = ADDITIONS[kind].add(laid_out("C7"), "S1")
        line = lay_out(more).lines[tag]
        assert line.element.kind == kind
        assert line.length > 0


def test_clamps_by_rule_are_near_enough_and_typed_ones_stand() -> None:
    build = DEMO["bittern"]
    for line in lay_out(build).lines.values():
        if not line.inside:
            gaps = [
                b - a
                for a, b in zip(
                    [0.0, *line.clamps], [*line.clamps, float(line.path.along[-1])], strict=True
                )
            ]
            assert max(gaps) <= 610
    build = edit.set_clamps(build, "H3", [100.0, 2000.0])
    assert lay_out(build).lines["H3"].clamps == (100.0, 2000.0)
    with pytest.raises(BuildErrors, match="within"):
        edit.set_clamps(build, "H3", [90_000.0])


def test_a_moved_part_takes_its_lines_and_its_heights_along() -> None:
    build = DEMO["stonechat"]
    low = edit.move_part(build, "F2", (1667, 590, 500))
    heights = {n.id: n.elevation_mm for n in low.circuit.nodes}
    before = {n.id: n.elevation_mm for n in build.circuit.nodes}
    assert heights["filter in"] - before["filter in"] == pytest.approx(500 - 618)
    assert element(low, "H2").length.mm != element(build, "H2").length.mm  # type: ignore[union-attr]
    back = edit.usual_again(low, "F2")
    assert "F2" not in back.space.places


@pytest.mark.parametrize(
    ("name", "line"), [("bittern", "H3"), ("bittern", "H4"), ("egret", "H15"), ("stonechat", "H4")]
)
def test_a_suggested_way_keeps_clear_and_fits(name: str, line: str) -> None:
    """What it says of itself is so once it is drawn; looked at as the rules do."""
    build = DEMO[name]
    laid = lay_out(build)
    ways = suggestions(laid, laid.lines[line])
    assert ways
    assert len({w.name for w in ways}) == len(ways)
    for way in ways:
        drawn = lay_out(edit.draw_line(build, line, way.corners))
        found = drawn.lines[line]
        assert all(b.fits for b in found.run.bends)
        assert max(found.run.kinks) < math.radians(8)
        near = {
            z.title or z.name
            for z in drawn.outline.zones
            if z.kind not in ("ground", "crush")
            and (n := near_zone(found, z, drawn.outline.flies)) is not None
            and n.clear < n.limit.mm - 2
        }
        assert near <= set(way.passes)


def test_two_ways_differ() -> None:
    laid = lay_out(DEMO["bittern"])
    ways = suggestions(laid, laid.lines["H3"])
    assert [(w.name, w.passes) for w in ways] == [
        ("under and round", ()),
        ("through the cabin", ()),
    ]
    one, other = (polyline(w.run.drawn()) for w in ways)
    assert (
        size(
            subtract_vectors(one.at(float(one.along[-1]) / 2), other.at(float(other.along[-1]) / 2))
        )
        > 100
    )


@pytest.mark.parametrize(
    ("text", "points"),
    [
        ("0, 0, 300\n1000, 50, 300", [(0, 0, 300), (1000, 50, 300)]),
        ("0;0;30,5\n1,5 m;0;12 in", [(0, 0, 30.5), (1500, 0, 304.8)]),
        ("z (in)\tx (m)\ty (mm)\n10\t1.5\t-20", [(1500, -20, 254)]),
        ("ahead, left, up\n\n40 in, −2 in, 1 ft\n", [(1016, -50.8, 304.8)]),
    ],
)
def test_points_from_a_tape(text: str, points: list[tuple[float, float, float]]) -> None:
    assert read_points(text, "mm") == [pytest.approx(p) for p in points]


NO_TAPE = [
    ("", "a line for each"),
    ("1, 2", "2 figures"),
    ("1, 2, x", "line 1"),
    ("x, y, q\n1, 2, 3", "not known"),
    ("x, y, y\n1,2,3", "each of x, y and z"),
    ("x, y, z", "no point"),
]


@pytest.mark.parametrize(("text", "says"), [*NO_TAPE, ("1,2,3\n" * 300, "more than")])
def test_what_is_no_tape_is_told_so(text: str, says: str) -> None:
    with pytest.raises(ValueError, match=says):
        read_points(text, "mm")


@given(places=st.lists(st.tuples(*[st.floats(-60_000, 60_000)] * 3), max_size=6))
@settings(max_examples=60, deadline=None)
def test_whatever_corners_a_line_has_it_is_drawn_or_told_why(
    places: list[tuple[float, float, float]],
) -> None:
    """Corners on one another, kilometres away, back and forth: refused in words, or drawn, followed
    and solved.
    """
    try:
        build = edit.draw_line(DEMO["curlew"], "H3", places)
    except BuildErrors:
        assert any(abs(x) > 50_000 for p in places for x in p)
        return
    line = lay_out(build).lines["H3"]
    assert line.trouble or math.isfinite(line.length)
    assert load(dump(build)) == build


def test_what_is_said_of_a_part_goes_with_it_and_a_split_line_keeps_its_way() -> None:
    """A tag that is given anew does not lie where the one before it did; halves keep their corners,
    the joint between them stands at one.
    """
    build = DEMO["bittern"]
    gone = take_out(build, "F2")
    assert "F2" not in gone.space.places
    halves, tag = split(build, "H3")
    laid = lay_out(halves)
    assert laid.lines["H3"].run.corners + laid.lines[tag].run.corners == tuple(
        c for i, c in enumerate(lay_out(build).lines["H3"].run.corners) if i != 2
    )
    whole = sum(laid.lines[x].run.center_line for x in ("H3", tag))
    assert whole == pytest.approx(lay_out(build).lines["H3"].run.center_line, rel=0.15)


@pytest.mark.parametrize("outline", OUTLINES)
def test_a_dimension_beyond_reason_is_refused_and_a_file_that_holds_one_is_still_drawn(
    outline: str,
) -> None:
    brief = AIR if outline in titles(flies=True) else CAR
    build = laid_out("A3" if brief is AIR else "C1").model_copy(
        update={"space": Space(outline=outline)}
    )  # type: ignore[arg-type]
    for name in lay_out(build).outline.dimensions:
        with pytest.raises(BuildErrors, match="look at the unit"):
            edit.set_dimension(build, name, 39_000.0 if name != "span" else 21.0)
    for mm in (20.0, 40_000.0):
        absurd = build.model_copy(
            update={
                "space": Space(
                    outline=outline, dimensions=dict.fromkeys(lay_out(build).outline.dimensions, mm)
                )
            }
        )  # type: ignore[arg-type]
        laid = lay_out(absurd)
        assert all(math.isfinite(x.length) for x in laid.lines.values())
        assert all(
            a <= b
            for z in laid.outline.zones
            if z.shape == "box"
            for a, b in zip(z.low, z.high, strict=True)
        )


def test_a_bent_end_is_turned_on_its_port_and_the_clock_follows() -> None:
    """Turned by a right angle the way it leaves turns by that about its port; where both its bend
    and the line are square to the port, the clock changes by as much.
    """
    build = DEMO["bittern"]
    before, after = (
        lay_out(b).lines["H4"].run for b in (build, edit.turn_end(build, "H4", "a", 30))
    )
    away = before.one.port.away
    one, other = (across(r.one.leaves, away) for r in (before, after))
    assert math.degrees(angle_between(one, other)) == pytest.approx(30, abs=1e-6)
    assert (
        dot(cross(one, other), away) > 0
    )  # right-handed about the port's direction: clockwise to who looks along it
    assert after.clock != pytest.approx(before.clock, abs=0.05)
    assert element(edit.turn_end(build, "H4", "a", 30), "H4").clock_deg == pytest.approx(
        math.degrees(after.clock or 0) % 360, abs=0.6
    )
    with pytest.raises(BuildErrors, match="straight"):
        edit.turn_end(build, "H2", "b", 30)


@pytest.mark.parametrize(
    ("legs", "degrees", "radii"),
    [
        ((100, 100, 100), (90, 90), (50, 50)),  # half of the leg between is for each
        ((300, 100, 30), (20, 90), (80, 30)),  # the last has 30 mm
        ((30, 100, 300), (90, 20), (30, 80)),
        ((300, 200, 300), (90, 90), (80, 80)),  # both fit
        ((300, 85, 300), (90, 20), (42.5, 80)),  # together they do not fit
    ],
)
def test_a_corner_that_does_not_fit_is_drawn_with_what_its_legs_leave(
    legs: tuple[float, ...], degrees: tuple[float, ...], radii: tuple[float, ...]
) -> None:
    """By hand: an arc of R takes R tan(t/2) of each leg; R t is its length."""
    way, at, points = 0.0, (0.0, 0.0, 0.0), list[tuple[float, float, float]]()
    for leg, turn in zip(legs, (*degrees, 0.0), strict=True):
        at = (at[0] + leg * math.cos(way), at[1] + leg * math.sin(way), 0.0)
        points.append(at)
        way += math.radians(turn)
    last = math.radians(sum(degrees))
    run = HoseRun(
        RunEnd(Port((0.0, 0.0, 0.0), (1.0, 0.0, 0.0)), 0.0, 0.0, 0.0, 0.0),
        RunEnd(Port(points[-1], (-math.cos(last), -math.sin(last), 0.0)), 0.0, 0.0, 0.0, 0.0),
        tuple(points[:-1]),
        80.0,
    )
    assert [b.radius for b in run.bends] == pytest.approx(radii, abs=0.05)
    t = [math.radians(d) for d in degrees]
    arcs = sum(r * (a - 2 * math.tan(a / 2)) for r, a in zip(radii, t, strict=True))
    assert run.cut == pytest.approx(sum(legs) + arcs, abs=0.05)
