"""Every way of solving one network gives one answer; `make fuzz` takes it to thousands."""

from random import Random

import numpy as np
import pytest
from agreement import LEFT, disagreements
from laws import broken
from made_up import circuit, odd

from tall_heron.core.document.build import validate
from tall_heron.core.hydraulics.interior import interior
from tall_heron.core.hydraulics.network import compile_circuit
from tall_heron.core.hydraulics.newton import newton
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.hydraulics.solve import POLISH_STEPS, solve_network
from tall_heron.core.physics.friction import friction_loss, friction_losses

SEEDS = range(90_000, 90_250)


@pytest.mark.parametrize("part", range(5))
def test_every_way_of_solving_agrees(part: int) -> None:
    """Flows within 1e-7 of the largest between single links, chains, the shape's own program and a
    batch; within 1e-6 of each flow above 1 L/h when driven on.
    """
    driven = left = 0
    for seed in SEEDS[part::5]:
        wrong, closer = disagreements(validate(circuit(Random(seed))))
        assert [x for x in wrong if x != LEFT] == [], seed
        left += LEFT in wrong
        driven += closer
    assert driven > 40
    assert left <= 1


@pytest.mark.parametrize("part", range(3))
def test_odd_circuits_keep_every_law(part: int) -> None:
    """Pumps with knees in nested Ys, K = 0, clogged filters, jets: laws written again in
    tests/kit/laws.py hold, ways agree, and what cannot be solved names a part.
    """
    met = 0
    for seed in range(70_000 + part, 70_210, 3):
        build = validate(odd(Random(seed)))
        wrong, solved = broken(build)
        assert wrong == [], seed
        assert [x for x in disagreements(build)[0] if x != LEFT] == [], seed
        met += solved
    assert met > 55


def test_the_interior_path_alone_leads_to_the_answer() -> None:
    """From its own start, without Newton's guess of the kinks, and polished: the same flows."""
    met = settled = 0
    for seed in SEEDS[:120]:
        build = validate(circuit(Random(seed)))
        net = compile_circuit(build.circuit).at(build.points[0], chained=False)
        known = solve_network(net)
        if not known.converged or not net.frame.ends:
            continue
        met += 1
        state, shut = interior(net, 0.3)
        assert sum(shut) <= len(shut)
        newton(net, state, POLISH_STEPS)
        if state.converged:
            settled += 1
            found = Solution(net, state)
            largest = max(abs(x.flow) for x in known.links.values()) or 1.0
            assert all(
                abs(found.links[k].flow - x.flow) < 1e-6 * largest for k, x in known.links.items()
            ), seed
    assert settled > 0.8 * met > 60


def test_friction_of_arrays_is_friction() -> None:
    flows = np.geomspace(1e-7, 1e-3, 60)
    scale, per, rough = 3e12, 4e7, 2e-4
    loss, slope = friction_losses(flows, np.full(60, scale), np.full(60, per), np.full(60, rough))
    for q, h, d in zip(flows, loss, slope, strict=True):
        assert (h, d) == pytest.approx(friction_loss(float(q), scale, per, rough), rel=1e-12)
        near = friction_loss(float(q) * (1 + 1e-6), scale, per, rough)[0]
        assert (near - h) / (q * 1e-6) == pytest.approx(
            d, rel=2e-3
        )  # the slope is that of the loss
