"""What takes whose place, and which end is nearest."""

import pytest

from tall_heron.core.base.catalogue import table
from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Jet, Regulator
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.shelf.shelf import nearest_end, part_named, suits_place, swaps_for

BITTERN, DUNLIN = demo_builds()["bittern"], demo_builds()["dunlin"]


@pytest.mark.parametrize(
    ("asked", "angle"), [(0, 0), (10, 0), (40, 45), (80, 90), (135, 120), (300, 180)]
)
def test_the_nearest_end(asked: float, angle: float) -> None:
    """Of 0, 30, 45, 60, 90, 120, 150, 180 degrees (data/hoses/ends.csv)."""
    end = nearest_end("ptfe", "-8", asked)
    assert end is not None
    assert end.angle_deg in (angle, 150 if asked == 135 else angle)
    assert nearest_end("ptfe", "-99", asked) is None


def test_an_adapter_takes_the_place_of_one_of_its_size() -> None:
    inlet = BITTERN.circuit.element("N1")
    assert inlet is not None
    sizes = {r["name"]: r["dash"] for r in table("adapters")}
    elbow = fitted(inlet, "elbow-90-8")
    names = {p.name for p in swaps_for(elbow)}
    assert names
    assert {sizes[n] for n in names} == {"-8"}
    without = elbow.model_copy(
        update={"properties": elbow.properties.model_copy(update={"dash": ""})}
    )
    assert {sizes[p.name] for p in swaps_for(without)} > {"-8"}
    assert not any("inlet" in n for n in names)


def test_an_inlet_of_a_tank_is_swapped_in_any_size_and_a_hanger_for_a_hanger() -> None:
    inlet, hanger = (BITTERN.circuit.element(i) for i in ("N1", "N11"))
    assert inlet is not None
    assert hanger is not None
    inlets = {p.name for p in swaps_for(inlet)}
    assert inlets == {
        "pot-inlet-8",
        "tank-inlet-8",
        "tank-inlet-6",
        "tank-inlet-10",
        "tank-inlet-12",
        "tank-inlet-16",
    }
    assert {p.name for p in swaps_for(hanger)} == {
        f"hanger-{size}" for size in (6, 8, 10, 12, 16)
    }  # of one pump, as this one
    old = inlet.model_copy(
        update={"properties": inlet.properties.model_copy(update={"mount": ""})}
    )  # fitted before the shelf said what it is
    assert {p.name for p in swaps_for(old)} == inlets


def fitted(element: Element, name: str) -> Element:
    part = part_named(name)
    return element.model_copy(
        update={
            "figures": part.figures,
            "shelf": name,
            "title": part.title,
            "properties": part.properties,
        }
    )


def test_a_regulator_for_another_kind_of_engine_is_not_offered() -> None:
    """Within twice its range either way: at 400 kPa one of 200 to 620, none of 20 to 90; at 150 kPa
    one from 240 is, one from 400 would not be.
    """
    held = BITTERN.circuit.element("PR")
    assert held is not None
    names = {p.name for p in swaps_for(held)}
    assert "heronsbill-bypass-6" in names
    assert not names & {"grebe-low-bypass", "snipe-internal-3", "heronsbill-deadhead-8"}
    part = part_named("heronsbill-bypass-9")
    low = part.properties.set_min_kpa
    assert low == 240

    def at(kpa: float) -> bool:
        assert isinstance(held.figures, Regulator)
        return suits_place(
            part,
            held.model_copy(update={"figures": held.figures.model_copy(update={"set_kpa": kpa})}),
        )

    assert at(121)
    assert not at(119)


def test_a_line_takes_the_place_of_one_of_its_family_or_size() -> None:
    hose = BITTERN.circuit.element("H3")
    assert hose is not None
    for p in swaps_for(hose):
        assert (
            p.properties.family == hose.properties.family
            or p.properties.dash == hose.properties.dash
        )
    assert {"ptfe-8", "braided-10", "aluminium-10"} <= {p.name for p in swaps_for(hose)}
    assert "braided-8" not in {p.name for p in swaps_for(hose)}


def test_a_pump_on_the_engine_is_no_electric_one() -> None:
    brief = Brief(power_kw=250, base_kpa=300, cylinders=6)
    build = Build(name="x", brief=brief, circuit=LAYOUTS["C9"].build(brief))
    driven, lift = build.circuit.element("P1"), build.circuit.element("P9")
    assert driven is not None
    assert lift is not None
    assert {p.figures.law for p in swaps_for(driven)} == {"displacement"}
    assert {p.figures.law for p in swaps_for(lift)} == {"pump"}


@pytest.mark.parametrize(("share", "fits"), [(0.94, True), (0.95, False), (0.99, False)])
def test_a_nozzle_is_narrower_than_its_throat(share: float, fits: bool) -> None:
    if fits:
        assert Jet(nozzle_mm=10 * share, throat_mm=10).nozzle_mm == pytest.approx(10 * share)
    else:
        with pytest.raises(ValueError, match="narrower"):
            Jet(nozzle_mm=10 * share, throat_mm=10)
