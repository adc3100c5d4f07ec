"""Tanks are parts: chosen, typed in, swapped, and another by layout and use."""

import pytest

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.design import design
from tall_heron.core.document.airspace import airspaces
from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.mounts import hung_pumps
from tall_heron.core.document.properties import Properties
from tall_heron.core.document.tank_shape import out_of_reach_l
from tall_heron.core.editing.change_layout import change_layout
from tall_heron.core.editing.fields import fit, remove, set_capacity
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.shelf.shelf import parts, swaps_for

ROAD = {"power_kw": 250.0, "base_kpa": 300.0, "cylinders": 6}


def laid(key: str = "C1", **brief: object) -> Build:
    asked = Brief.model_validate(ROAD | brief)
    return Build(name=key, brief=asked, circuit=LAYOUTS[key].build(asked))


@pytest.mark.parametrize(
    ("use", "liters"), [("street", 70), ("drag", 20), ("circuit", 76), ("off-road", 76)]
)
def test_a_road_car_starts_on_a_tank_for_its_use(use: str, liters: float) -> None:
    tanks = laid(use=use).circuit.of_kind("tank")
    assert [t.properties.capacity_l for t in tanks] == [liters]


def test_a_tank_is_swapped_and_keeps_its_level() -> None:
    build = laid()
    tank = build.circuit.element("S1")
    assert tank is not None
    names = {p.name for p in swaps_for(tank)}
    assert {"cell-45", "pot-3"} <= names
    assert "saddle-60" not in names
    new = fit(build, "S1", "cell-45").circuit.element("S1")
    assert new is not None
    assert (new.properties.capacity_l, new.properties.foam) == (45, True)
    assert new.figures == tank.figures


def test_a_tank_of_ones_own_is_typed_in() -> None:
    build = set_capacity(laid(), "S1", 12 * 3.785411784)
    tank = build.circuit.element("S1")
    assert tank is not None
    assert tank.properties.capacity_l == pytest.approx(45.425, abs=1e-3)
    assert (tank.shelf, tank.properties.high_mm) == (None, None)
    for wrong in (0.0, -3.0, 1e9, float("nan")):
        with pytest.raises(BuildErrors, match="holds"):
            set_capacity(build, "S1", wrong)
    with pytest.raises(BuildErrors, match="no tank"):
        set_capacity(build, "P1", 20.0)


def test_boxes_hold_what_is_said() -> None:
    """Length x width x height of each tank of the shelf, within 3 % of its litres."""
    boxes = [p for p in parts().values() if p.kind == "tank"]
    assert len(boxes) > 12
    for p in boxes:
        x = p.properties
        assert x.long_mm
        assert x.wide_mm
        assert x.high_mm
        assert x.capacity_l
        assert x.long_mm * x.wide_mm * x.high_mm / 1e6 == pytest.approx(x.capacity_l, rel=0.03), (
            p.name
        )


def test_a_pot_is_no_tank_when_the_layout_changes() -> None:
    build = fit(laid(), "S1", "cell-76")
    pot = change_layout(build, "C7").build
    assert {t.id: t.properties.capacity_l for t in pot.circuit.of_kind("tank")} == {
        "S1": 3,
        "S2": 70,
    }
    assert change_layout(pot, "C1").build.circuit.element("S1").properties.capacity_l == 70  # type: ignore[union-attr]
    assert change_layout(build, "C4").build.circuit.element("S1").properties.capacity_l == 76  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("key", "count"), [("C1", 1), ("C7", 1), ("C10", 1), ("A1", 2), ("A4", 4), ("A5", 3)]
)
def test_each_airspace_has_its_vent(key: str, count: int) -> None:
    """Both halves of a saddle tank share their air; a pot's overflow lets its air out; wings and
    headers each breathe.
    """
    layout = LAYOUTS[key]
    air = {"use": "flight", "fuel": "100LL", "power_kw": 112.0} if layout.craft == "air" else {}
    build = laid(key, feeding=layout.feeding, **air)
    assert len(airspaces(build.circuit.elements)) == count
    assert len(build.circuit.of_kind("vent")) == count


@pytest.mark.parametrize(
    ("outlet", "sump", "left"),
    [
        (22.0, None, 6.0),
        (0.0, None, 0.0),
        (6.0, (1.4, 70.0), 0.12),
        (81.0, (1.4, 70.0), 1.4 + 58.6 * 11 / 220),
        (900.0, None, 60.0),
        (None, None, None),
    ],
)
def test_what_lies_under_an_outlet_is_the_sump_then_the_box(
    outlet: float | None, sump: tuple[float, float] | None, left: float | None
) -> None:
    """60 L, 220 mm high, by hand."""
    liters, deep = sump or (None, None)
    got = out_of_reach_l(
        Properties(capacity_l=60, high_mm=220, outlet_mm=outlet, sump_l=liters, sump_mm=deep)
    )
    assert got == (pytest.approx(left) if left is not None else None)


def test_pumps_made_for_it_hang_in_the_tank_and_others_stand_behind_a_hose() -> None:
    hung, outside = laid(), laid("C11")
    assert [x.within for x in hung_pumps(hung.circuit)] == [True, True]
    assert hung.circuit.element("H1") is None
    assert hung.circuit.element("N11") is not None
    assert outside.circuit.element("N11") is None
    assert outside.circuit.element("H1") is not None
    there = change_layout(outside, "C1").build.circuit
    assert there.element("P1") == outside.circuit.element("P1")
    assert there.element("H1") is not None
    assert there.element("N11") is None
    back = change_layout(hung, "C7").build.circuit
    assert {x.pump.id: x.tank.id for x in hung_pumps(back) if x.tank} == {
        "P1": "S1",
        "P2": "S1",
        "P9": "S2",
    }


def test_a_tank_with_a_valve_of_its_own_needs_no_vent_line() -> None:
    build = fit(laid(), "S1", "stock-tank-55")
    assert airspaces(build.circuit.elements) == []
    assert "L-01" not in {f.rule for f in design(remove(build, "H5")).findings}
