"""Tanks are parts: chosen, typed in, swapped, and another by layout and use."""

import pytest

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.airspace import airspaces
from tall_heron.core.document.build import Brief, Build
from tall_heron.core.editing.change_layout import change_layout
from tall_heron.core.editing.fields import fit, set_capacity
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.shelf.shelf import parts, swaps_for

ROAD = {"power_kw": 250.0, "base_kpa": 300.0, "cylinders": 6}


def laid(key: str = "C1", **brief: object) -> Build:
    asked = Brief.model_validate(ROAD | brief)
    return Build(name=key, brief=asked, circuit=LAYOUTS[key].build(asked))


@pytest.mark.parametrize(("use", "litres"), [("street", 70), ("drag", 45), ("circuit", 76), ("off-road", 76)])
def test_a_road_car_starts_on_a_tank_for_its_use(use: str, litres: float) -> None:
    tanks = laid(use=use).circuit.of_kind("tank")
    assert [t.properties.capacity_l for t in tanks] == [litres]


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
        assert x.long_mm * x.wide_mm * x.high_mm / 1e6 == pytest.approx(x.capacity_l, rel=0.03), p.name


def test_a_pot_is_no_tank_when_the_layout_changes() -> None:
    build = fit(laid(), "S1", "cell-76")
    pot = change_layout(build, "C7").build
    assert {t.id: t.properties.capacity_l for t in pot.circuit.of_kind("tank")} == {"S1": 3, "S2": 60}
    assert change_layout(pot, "C1").build.circuit.element("S1").properties.capacity_l == 70  # type: ignore[union-attr]
    assert change_layout(build, "C4").build.circuit.element("S1").properties.capacity_l == 76  # type: ignore[union-attr]


@pytest.mark.parametrize(("key", "count"), [("C1", 1), ("C7", 1), ("C10", 1), ("A1", 2), ("A4", 4), ("A5", 3)])
def test_each_airspace_has_its_vent(key: str, count: int) -> None:
    """Both halves of a saddle tank share their air; a pot's overflow lets its air out; wings and headers each breathe."""
    layout = LAYOUTS[key]
    air = {"use": "flight", "fuel": "100LL", "power_kw": 112.0} if layout.craft == "air" else {}
    build = laid(key, feeding=layout.feeding, **air)
    assert len(airspaces(build.circuit.elements)) == count
    assert len(build.circuit.of_kind("vent")) == count
