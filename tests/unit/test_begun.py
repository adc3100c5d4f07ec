"""A build begun from a line: what the builder has is kept, questions are answered by a press, a
hose has one length wherever it is said, and measuring one changes no other.
"""

import pytest
from first_lines import LINES, ODD

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.begin.started import answered_question, start, with_parts, without_part
from tall_heron.core.document.build import Build, dump, load
from tall_heron.core.document.figures import Injectors, PumpMap
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import set_length
from tall_heron.core.editing.route import draw_line, measured
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.sheets.cut_list import make_cut_rows
from tall_heron.core.sheets.cut_sheet import make_cut_sheet
from tall_heron.core.sheets.order_form import make_orders

LPH_AT_BOX = 300.0  # kPa: what a pump's box is stated at, common practice


def lengths(build: Build) -> dict[str, float]:
    """Every hose's length [mm]."""
    return {e.id: e.length.mm for e in build.circuit.elements if e.length is not None}


def test_what_is_there_is_kept_at_no_cost_and_the_curve_goes_through_the_figure_of_the_box() -> (
    None
):
    build = start(
        "V8 6.2 L 450 hp two 255 lph pumps, 650 cc injectors, -8 feed -6 return, fuel cell 45 L"
    ).sized
    pumps = build.circuit.of_kind("pump")
    assert len(pumps) == 2
    for p in pumps:
        assert isinstance(p.figures, PumpMap)
        assert p.figures.curves[-1].flow_at(LPH_AT_BOX) == pytest.approx(255, rel=1e-6)
        assert (p.properties.price, p.properties.provenance) == (0.0, "guessed")
    for j in build.circuit.of_kind("injectors"):
        assert isinstance(j.figures, Injectors)
        assert j.figures.rated_lph == pytest.approx(650 * 60 / 1000)
    dashes = {
        role: {
            e.properties.dash
            for e in build.circuit.of_kind("hose")
            if e.role == role and not e.runs.startswith("rail")
        }
        for role in ("feed", "return")
    }
    assert dashes == {"feed": {"-8"}, "return": {"-6"}}
    tank = build.circuit.of_kind("tank")[0]
    box = [tank.properties.long_mm, tank.properties.wide_mm, tank.properties.high_mm]
    assert tank.properties.capacity_l == 45
    assert all(box)
    assert [w.honored for w in build.wishes] == [True] * 5
    assert load(dump(build)) == build


@pytest.mark.parametrize(
    ("line", "why"),
    [
        ("carb V8 300 hp surge tank", "for injection"),
        ("V8 400 hp carburetor 650 cc injectors", "has no injectors"),
        ("V8 500 hp mat", "no mat"),
        ("V8 500 hp twelve 550 cc injectors", "8 cylinders"),
    ],
)
def test_what_is_not_honored_says_why(line: str, why: str) -> None:
    wishes = start(line).sized.wishes
    assert [w.says for w in wishes if not w.honored and why in w.says]


def test_a_question_is_answered_and_the_build_begun_again_with_it() -> None:
    """A boost that was not said is counted once it is; a size of lines that were kept makes them
    that size; another answer leaves the first.
    """
    build = start("turbo four 2.0 L 410 hp, keep the stock lines, 98 RON").sized
    assert [q.text for q in build.questions] == ["keep the stock lines", "98 RON", "boosted"]
    boosted = answered_question(build, "boosted", "15 psi boost", True)
    assert boosted.brief is not None
    assert boosted.brief.boost_kpa == pytest.approx(103.4, rel=1e-3)
    small = answered_question(boosted, "keep the stock lines", "-8 feed -6 return", True)
    assert {
        e.properties.dash for e in small.circuit.elements if e.role == "feed" and e.kind == "hose"
    } == {"-8"}
    last = answered_question(small, "98 RON", "E0", False)
    assert last.brief is not None
    assert (last.brief.fuel, last.brief.boost_kpa, last.questions) == (
        "E0",
        boosted.brief.boost_kpa,
        [],
    )


def test_a_part_on_hand_is_kept_in_a_build_that_stands_and_nothing_else_is_sized() -> None:
    """On the demo Curlew: its pump is another, all else as it was; forgotten, it is no longer held
    to.
    """
    build = demo_builds()["curlew"]
    kept = with_parts(build, "450 lph pump", False)
    assert [e.title for e in kept.circuit.of_kind("pump")] == ["Pump, 450 L/h, on hand"]
    assert {
        e.id for e in kept.circuit.elements if e.shelf != build.circuit.element(e.id).shelf
    } == {"P1"}  # type: ignore[union-attr]
    assert kept.wishes[0].honored
    assert without_part(kept, "450 lph pump").wishes == []
    with pytest.raises(BuildErrors, match="names no part"):
        with_parts(build, "blue", False)


TWENTY = [*LINES[::8], *ODD[::5]]


@pytest.mark.parametrize(
    "line",
    [pytest.param(x, marks=[pytest.mark.sweep] if i % 3 else []) for i, x in enumerate(TWENTY)],
)
def test_a_hose_has_one_length_and_measuring_one_changes_no_other(line: str) -> None:
    build = start(line).sized
    one_length(build)
    before = lengths(build)
    drawn = [x for x in lay_out(build).lines.values() if x.drawn and x.run.corners]
    name = drawn[0].element.id
    after = measured(build, name, before[name] + 333.0, "so long")
    assert lengths(after) == before | {name: before[name] + 333.0}
    one_length(after)
    other = next((x for x in drawn if x.element.id != name), None)
    if other is not None:
        corner = other.run.corners[0]
        moved = draw_line(
            after,
            other.element.id,
            [(corner[0], corner[1], corner[2] + 40.0), *other.run.corners[1:]],
        )
        assert {k for k, v in lengths(moved).items() if v != lengths(after)[k]} <= {
            other.element.id
        }
    typed = set_length(after, name, 777.0)
    assert lengths(typed) == lengths(after) | {name: 777.0}


def one_length(build: Build) -> None:
    """What every sheet says of a hose is one figure."""
    laid = lay_out(build)
    sheet = make_cut_sheet(build, laid)
    cuts = {c.element.id: c.cut_mm for c in make_cut_rows(build.circuit)}
    assert {r.element.id: r.cut.cut_mm for r in sheet} == cuts
    assert all(
        o.cut_mm == cuts[o.label.split()[0]]
        and o.seat_to_seat_mm == lengths(build)[o.label.split()[0]]
        for o in make_orders(sheet)
    )
    for name, line in laid.lines.items():
        assert line.counted == lengths(build)[name]


@pytest.mark.parametrize(
    "line",
    [
        x
        for x in LINES
        if x.startswith(("1000 hp E85 turbo V8", "V8 750 hp, super", "twin-turbo flat six"))
    ],
)
def test_a_y_at_the_rails_takes_the_hoses_that_meet_it(line: str) -> None:
    """A Y is told by its legs and its trunk: legs as wide as their hoses, its trunk a size over
    them; where no line meets its trunk its legs say its size.
    """
    circuit = start(line).sized.circuit
    merge = next(
        e
        for e in circuit.of_kind("merge")
        if not any(e.ports["end"] in x.ports.values() for x in circuit.of_kind("hose"))
    )
    legs = {
        x.properties.dash
        for x in circuit.of_kind("hose")
        if set(x.ports.values()) & {merge.ports["a"], merge.ports["b"]}
    }
    assert len(legs) == 1
    assert f"two {legs.pop().replace('-', '−')} in" in merge.title
