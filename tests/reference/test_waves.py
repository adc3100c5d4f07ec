"""Waves against the organ pipe, Helmholtz and the matched end (any text on acoustics), Kirchhoff's
damping, and a network of short lumps solved as an eigenvalue problem by numpy, written
independently.
"""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tall_heron.core.physics.waves import WaveLine, compliance, impedance, peaks, wave_speed

RHO, STILL = 750.0, 1e-15  # kg/m3; m2/s, next to no friction


def rings(
    lines: list[WaveLine],
    volumes: dict[str, float],
    at: str,
    most: float,
    open_ends: tuple[str, ...] = (),
) -> list[float]:
    """Where a network without loss answers most."""
    hertz = np.arange(1.0, most, 0.25)
    return peaks(hertz, abs(impedance(lines, volumes, {}, open_ends, [at], hertz, RHO, STILL)))


@pytest.mark.parametrize(("length", "speed"), [(1.0, 1000.0), (3.9, 600.0), (2.2, 450.0)])
def test_the_organ_pipe(length: float, speed: float) -> None:
    """Closed at both ends n a/2L; at constant pressure at one end, odd n a/4L."""
    line = [WaveLine("a", "b", length, 1e-4, speed)]
    closed, opened = rings(line, {}, "b", 550.0), rings(line, {}, "b", 550.0, ("a",))
    assert closed == pytest.approx(
        [n * speed / (2 * length) for n in range(1, len(closed) + 1)], abs=0.13
    )
    assert opened == pytest.approx(
        [(2 * n - 1) * speed / (4 * length) for n in range(1, len(opened) + 1)], abs=0.13
    )
    assert len(closed) >= 1
    assert len(opened) >= 1


def test_a_case_worked_by_hand() -> None:
    """2 m of hard line, a = 1150 m/s: 287.5 Hz; on a six its third-order pulses, n/20 a second,
    meet it at 5750 rpm by n = 120 f/6.
    """
    found = rings([WaveLine("a", "b", 2.0, 1e-4, 1150.0)], {}, "b", 400.0)
    assert found == pytest.approx([287.5], abs=0.13)
    assert 120 * found[0] / 6 == pytest.approx(5750, abs=3)


def test_a_volume_and_a_stiff_slug_ring_as_helmholtz_says() -> None:
    """Two volumes joined by a line that is short against the wave: f = 1/(2 pi) sqrt(A/(rho L)
    (1/C1 + 1/C2)); Helmholtz, any text on acoustics. Slowly all moves as one volume: p = Q/(w C).
    """
    area, length, one, two = 5e-5, 0.3, 4e-12, 9e-12
    f = math.sqrt(area / (RHO * length) * (1 / one + 1 / two)) / (2 * math.pi)
    line, volumes = [WaveLine("a", "b", length, area, 1200.0)], {"a": one, "b": two}
    assert rings(line, volumes, "b", 3 * f)[0] == pytest.approx(f, rel=0.02)
    slow = impedance(line, volumes, {}, [], ["b"], np.array([0.5]), RHO, STILL)
    own = compliance(length * area, RHO, 1200.0)
    assert abs(slow[0]) * 2 * math.pi * 0.5 * (one + two + own) == pytest.approx(1, rel=1e-3)


def test_an_opening_that_matches_a_line_sends_nothing_back() -> None:
    """An end through which dQ/dp = A/(rho a) runs: the line is as if it had no end, and answers with
    rho a/A at every frequency, whatever its length. Drawn at both ends in halves, each answers half.
    """
    area, speed = 8e-5, 700.0
    hertz = np.linspace(5, 400, 50)
    z = impedance(
        [WaveLine("a", "b", 2.7, area, speed)],
        {},
        {"a": area / (RHO * speed)},
        [],
        ["b"],
        hertz,
        RHO,
        STILL,
    )
    assert abs(z) == pytest.approx(RHO * speed / area, rel=1e-5)
    two = [WaveLine("m", x, 1.3, area, speed) for x in "ab"]
    one = impedance(two[:1], {}, {}, [], ["a"], hertz, RHO, STILL)
    both = impedance(two, {}, {}, [], ["a", "b"], hertz, RHO, STILL)
    assert both == pytest.approx(one / 2, rel=1e-6)


@pytest.mark.parametrize(("radius", "nu"), [(0.004, 5e-7), (0.003, 2e-6)])
def test_friction_and_the_hose_widen_a_mode_as_kirchhoff_says(radius: float, nu: float) -> None:
    """Damping along a pipe (1/(r a)) sqrt(w nu/2) (Kirchhoff 1868, isothermal): the mode is as wide
    as a/pi of it, where it answers by 1/sqrt 2; a wall with a loss factor adds that share.
    """
    length, speed = 2.0, 1000.0
    for loss in (0.0, 0.05):
        hertz = np.arange(200.0, 300.0, 0.01)
        line = [WaveLine("a", "b", length, math.pi * radius**2, speed, loss)]
        size = abs(impedance(line, {}, {}, [], ["b"], hertz, RHO, nu))
        inside = hertz[size > size.max() / math.sqrt(2)]
        f = float(hertz[size.argmax()])
        damping = math.sqrt(2 * math.pi * f * nu / 2) / (radius * speed)
        wide = damping * speed / math.pi + loss * f
        assert inside[-1] - inside[0] == pytest.approx(wide, rel=0.04)


@given(
    lengths=st.lists(st.floats(0.3, 2.0), min_size=3, max_size=3),
    speed=st.floats(400, 1200),
    volume=st.floats(1e-13, 5e-12),
)
@settings(max_examples=30, deadline=None)
def test_a_branched_network_of_lumps_rings_the_same(
    lengths: list[float], speed: float, volume: float
) -> None:
    """A feed to two rails on unlike branches: each line cut into 50 lumps of inertia and compliance,
    the eigenvalues of M^-1 K, a volume on either end.
    """
    ends, areas = [("a", "m"), ("m", "b"), ("m", "c")], [1e-4, 6e-5, 5e-5]
    at, cap, flow = {"a": 0, "m": 1, "b": 2, "c": 3}, [0.0, 0.0, volume, 1.5 * volume], []
    for (start, end), length, area in zip(ends, lengths, areas, strict=True):
        c = area * length / 50 / (RHO * speed**2)
        chain = [at[start], *range(len(cap), len(cap) + 49), at[end]]
        cap += [0.0] * 49
        for i, j in pairwise(chain):
            flow.append((i, j, area / (RHO * length / 50)))
            cap[i] += c / 2
            cap[j] += c / 2
    stiff = np.zeros((len(cap), len(cap)))
    for i, j, k in flow:
        stiff[i, i] += k
        stiff[j, j] += k
        stiff[i, j] -= k
        stiff[j, i] -= k
    half = np.diag(1 / np.sqrt(cap))
    lumps = np.sqrt(np.maximum(np.linalg.eigvalsh(half @ stiff @ half), 0.0)) / (2 * math.pi)
    lines = [
        WaveLine(s, e, length, area, speed)
        for (s, e), length, area in zip(ends, lengths, areas, strict=True)
    ]
    found = rings(lines, {"b": volume, "c": 1.5 * volume}, "b", 420.0)
    for f in found:
        assert min(abs(f - x) for x in lumps) <= max(0.01 * f, 0.3), (f, lumps[:8])
    assert found


def test_softer_walls_slow_waves_and_a_damper_lowers_modes() -> None:
    assert wave_speed(1200.0, 450 / 950) == pytest.approx(1200 * math.sqrt(450 / 950))
    line = [WaveLine("a", "b", 3.0, 1e-4, 700.0)]
    plain, damped = rings(line, {}, "b", 400.0), rings(line, {"b": 2e-12}, "b", 400.0)
    assert all(d < p for p, d in zip(plain, damped, strict=False))
    assert len(plain) >= 3
    assert compliance(1e-4, RHO, 1200.0) == pytest.approx(1e-4 / (RHO * 1200.0**2))
