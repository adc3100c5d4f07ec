"""What heights come to when a vehicle speeds up or climbs: hydrostatics of a liquid in uniform
acceleration (any text on fluid statics), by hand.
"""

import math

import pytest

from tall_heron.core.base.constants import GRAVITY
from tall_heron.core.document.acceleration import BodyAcceleration, accelerated, ahead_of
from tall_heron.core.document.circuit import Circuit
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.joining.losses import plumbed
from tall_heron.core.study.study import make_study
from tall_heron.core.study.what_if import make_what_if

DEMO = demo_builds()


def test_launch_head_over_four_metres() -> None:
    """rho a x = 745 kg/m3 x 1.5 x 9.80665 m/s2 x 4.0 m = 43.8 kPa: the figure of the design notes."""
    assert 745 * GRAVITY * BodyAcceleration(ahead=1.5 * GRAVITY).height(
        4.0, 0.0, 0.0
    ) == pytest.approx(745 * 1.5 * 9.80665 * 4.0)
    assert pytest.approx(43.8e3, rel=2e-3) == 745 * 1.5 * 9.80665 * 4.0


@pytest.mark.parametrize("degrees", [-30, 0, 15, 60])
def test_a_nose_that_is_up_turns_what_is_ahead_into_height(degrees: float) -> None:
    """A rotation by hand: (x, z) turned by the angle has the height x sin + z cos."""
    angle = math.radians(degrees)
    assert BodyAcceleration(pitch=angle).height(2.0, 0.0, 0.5) == pytest.approx(
        2.0 * math.sin(angle) + 0.5 * math.cos(angle)
    )


def unplaced(circuit: Circuit) -> Circuit:
    """The circuit as if nobody had said where anything lies."""
    return circuit.model_copy(
        update={
            "nodes": [
                n.model_copy(update={"ahead_mm": None, "right_mm": None}) for n in circuit.nodes
            ],
            "elements": list(circuit.elements),
        }
    )


def test_places_lie_ahead_by_their_lines_and_returns_run_back() -> None:
    circuit = unplaced(DEMO["bittern"].circuit)
    ahead, lengths = (
        ahead_of(circuit, flies=False),
        {e.id: e.length.mm / 1000 for e in circuit.elements if e.length is not None},
    )
    assert ahead["pot"] == ahead["tank inlet"] == 0.0
    assert ahead["rail in"] == pytest.approx(0.9 * (lengths["H1"] + lengths["H2"] + lengths["H3"]))
    assert ahead_of(unplaced(DEMO["egret"].circuit), flies=True)["selector left"] == 0.0


def test_a_pump_feels_the_head_to_the_rail() -> None:
    """With nothing but the height changed, a regulator's pressure moves by rho a x between the
    places it stands at and the rail, and the pump's by the same.
    """
    build = DEMO["bittern"]
    study = make_study(build)
    hard = BodyAcceleration(ahead=1.0 * GRAVITY)
    after = make_what_if(accelerated(plumbed(build).circuit, hard, flies=False)).at(
        study.peak.case.point, study.peak.case.demand
    )
    assert after.converged
    ahead = ahead_of(build.circuit, flies=False)
    line = build.circuit.element("H3")
    assert line is not None
    x = ahead[line.ports["end"]] - ahead[line.ports["start"]]
    before, then = study.peak.solution.links["H3"], after.links["H3"]
    assert (then.loss or 0) - (before.loss or 0) == pytest.approx(
        after.density * GRAVITY * x, rel=0.02
    )
    assert x > 1


def test_a_level_steady_build_is_as_it_was() -> None:
    build = DEMO["curlew"]
    assert not BodyAcceleration()
    study = make_study(build)
    after = make_what_if(accelerated(plumbed(build).circuit, BodyAcceleration(), flies=False)).at(
        study.peak.case.point, study.peak.case.demand
    )
    assert after.links["P1"].flow == pytest.approx(study.peak.solution.links["P1"].flow, rel=1e-9)


def test_turning_left_presses_fuel_to_the_right_and_a_low_wing_is_low() -> None:
    """A place on the right feels lower by y a/g in a left turn; banked right wing down it is lower
    by y sin(bank). By hand.
    """
    assert BodyAcceleration(left=0.9 * GRAVITY).height(0.0, 1.2, 0.0) == pytest.approx(-0.9 * 1.2)
    assert BodyAcceleration(bank=math.radians(10)).height(0.0, 3.0, 1.0) == pytest.approx(
        -3.0 * math.sin(math.radians(10)) + math.cos(math.radians(10))
    )
    assert BodyAcceleration(ahead=0.3 * GRAVITY, left=-0.2 * GRAVITY).readings == pytest.approx(
        (0.3, -0.2, 1.0)
    )
