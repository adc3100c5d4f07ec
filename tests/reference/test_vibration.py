"""Mountings against Den Hartog's transmissibility and the sum of levels, and what they do to a pump."""

import math

import pytest

from tall_heron.core.document.build import Build
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import set_mounting
from tall_heron.core.physics.vibration import natural_frequency, together, transmissibility
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.sheets.buy_list import make_buy_list
from tall_heron.core.study.cases.noise import hard_lines, mountings

DUNLIN = demo_builds()["dunlin"]


def pump(build: Build) -> list[tuple[str, float]]:
    element = build.circuit.element("P1")
    assert element is not None
    return [(m.name, m.less) for m in mountings(build.circuit, element)]


@pytest.mark.parametrize("damping", [0.02, 0.1, 0.5, 1.0])
def test_transmissibility_as_the_textbook_has_it(damping: float) -> None:
    """Den Hartog, Mechanical Vibrations, 2.12, from memory: 1 at no speed and at root 2 whatever the
    damping; 1/(r2 - 1) without damping above it; with damping more comes through there, not less.
    """
    assert transmissibility(0.0, damping) == pytest.approx(1.0)
    assert transmissibility(math.sqrt(2), damping) == pytest.approx(1.0)
    assert transmissibility(5.0, 0.0) == pytest.approx(1 / 24)
    assert transmissibility(5.0, damping) > 1 / 24
    assert transmissibility(1.0, damping) == pytest.approx(
        math.sqrt(1 + 1 / (4 * damping**2)), rel=1e-9
    )


def test_sag_and_levels_by_hand() -> None:
    """15.8 Hz over the root of the sag in millimeters; twice a noise is 3 dB more, ten times 10."""
    assert natural_frequency(0.001) == pytest.approx(15.76, abs=0.01)
    assert natural_frequency(0.004) == pytest.approx(15.76 / 2, abs=0.01)
    assert together([50, 50]) == pytest.approx(53.01, abs=0.01)
    assert together([40] * 10) == pytest.approx(50)


def test_a_soft_mounting_is_worth_what_lines_and_air_leave_of_it() -> None:
    """Worked in docs/model.md: r = 300/25 = 12, T = 0.0151, -36 dB; with hose at the pump, -18, and
    air, -15 dB, 13.2 dB under the 0.2 of bolts and those two; a hard line at the pump, -6 dB, leaves
    5.5 less, whatever the rubber.
    """
    assert 20 * math.log10(transmissibility(12, 0.08)) == pytest.approx(-36.4, abs=0.1)
    less = dict(pump(DUNLIN))
    assert list(less) == ["bolted", "isolators", "sleeve"]
    assert less["bolted"] == 0
    hose = together([0, -18, -15]) - together([-36.4, -18, -15])
    assert less["isolators"] == pytest.approx(hose, abs=0.05)
    assert hose == pytest.approx(13.4, abs=0.1)
    assert 5 < less["sleeve"] < less["isolators"]
    elements = [
        e.model_copy(update={"kind": "line"}) if e.id == "H2" else e
        for e in DUNLIN.circuit.elements
    ]
    hard = DUNLIN.model_copy(
        update={"circuit": DUNLIN.circuit.model_copy(update={"elements": elements})}
    )
    p1 = hard.circuit.element("P1")
    assert p1 is not None
    assert hard_lines(hard.circuit, p1) == ["H2"]
    rigid = together([0, -6, -15]) - together([-36.4, -6, -15])
    assert dict(pump(hard))["isolators"] == pytest.approx(rigid, abs=0.05)
    assert rigid < 7


def test_what_is_fitted_is_bought_and_moves_no_figure() -> None:
    quiet = set_mounting(DUNLIN, "P1", "isolators")
    bought = {i.key: i for i in make_buy_list(quiet, lay_out(quiet)).items}
    assert bought["mounting isolators"].quantity == 4
    assert "mounting isolators" not in {i.key for i in make_buy_list(DUNLIN, lay_out(DUNLIN)).items}
    assert set_mounting(quiet, "P1", "bolted") == DUNLIN
