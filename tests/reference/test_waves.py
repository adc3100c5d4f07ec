"""Waves against the organ pipe (any text on acoustics) and against a row of short lumps integrated
as an eigenvalue problem by numpy, written independently.
"""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tall_heron.core.physics.waves import Volume, WaveLine, compliance, modes, wave_speed

RHO = 750.0


@pytest.mark.parametrize(("length", "speed"), [(1.0, 1000.0), (3.9, 600.0), (2.2, 450.0)])
def test_the_organ_pipe(length: float, speed: float) -> None:
    """Closed at both ends n a/2L; at constant pressure at one end, odd n a/4L."""
    line = [WaveLine(length, 1e-4, speed)]
    closed, opened = modes(line, RHO, 550.0), modes(line, RHO, 550.0, open_end=True)
    assert closed == pytest.approx(
        [n * speed / (2 * length) for n in range(1, len(closed) + 1)], rel=1e-5
    )
    assert opened == pytest.approx(
        [(2 * n - 1) * speed / (4 * length) for n in range(1, len(opened) + 1)], rel=1e-5
    )
    assert len(closed) >= 1
    assert len(opened) >= 1


def test_a_case_worked_by_hand() -> None:
    """2 m of hard line, a = 1150 m/s: 287.5 Hz; on a six its third-order pulses, n/40 a second,
    meet it at 5750 rpm by n = 120 f/6.
    """
    found = modes([WaveLine(2.0, 1e-4, 1150.0)], RHO, 400.0)
    assert found == pytest.approx([287.5], rel=1e-5)
    assert 120 * found[0] / 6 == pytest.approx(5750, rel=1e-5)


def test_a_volume_and_a_stiff_slug_ring_as_helmholtz_says() -> None:
    """Two volumes joined by a line that is short against the wave: f = 1/(2 pi) sqrt(A/(rho L)
    (1/C1 + 1/C2)); Helmholtz, any text on acoustics.
    """
    area, length, one, two = 5e-5, 0.3, 4e-12, 9e-12
    f = math.sqrt(area / (RHO * length) * (1 / one + 1 / two)) / (2 * math.pi)
    found = modes([Volume(one), WaveLine(length, area, 1200.0), Volume(two)], RHO, 3 * f)
    assert found[0] == pytest.approx(f, rel=0.02)


@given(
    lengths=st.lists(st.floats(0.3, 3.0), min_size=1, max_size=3),
    speed=st.floats(400, 1200),
    volume=st.floats(0.0, 5e-12),
)
@settings(max_examples=40, deadline=None)
def test_a_row_of_lumps_rings_the_same(lengths: list[float], speed: float, volume: float) -> None:
    """Each line cut into 60 lumps of inertia and compliance: the eigenvalues of M^-1 K, the end's
    volume with the last lump.
    """
    areas = [1e-4 / (1 + i) for i in range(len(lengths))]
    flow, cap = [], [0.0]
    for length, area in zip(lengths, areas, strict=True):
        step = length / 60
        c = area * step / (RHO * speed**2)
        for _ in range(60):
            flow.append(area / (RHO * step))
            cap[-1] += c / 2
            cap.append(c / 2)
    cap[-1] += volume
    n = len(cap)
    stiff = np.zeros((n, n))
    for i, k in enumerate(flow):
        stiff[i, i] += k
        stiff[i + 1, i + 1] += k
        stiff[i, i + 1] -= k
        stiff[i + 1, i] -= k
    half = np.diag(1 / np.sqrt(cap))
    lumps = np.sqrt(np.maximum(np.linalg.eigvalsh(half @ stiff @ half), 0.0)) / (2 * math.pi)
    row = [WaveLine(length, area, speed) for length, area in zip(lengths, areas, strict=True)]
    found = modes([*row, Volume(volume)], RHO, 500.0)
    expected = [f for f in lumps if 1.0 < f < 450.0][:3]
    assert found[: len(expected)] == pytest.approx(expected, rel=0.01)


def test_softer_walls_slow_waves_and_a_damper_lowers_modes() -> None:
    assert wave_speed(1200.0, 450 / 950) == pytest.approx(1200 * math.sqrt(450 / 950))
    line = [WaveLine(3.0, 1e-4, 700.0)]
    plain, damped = modes(line, RHO, 400.0), modes([*line, Volume(2e-12)], RHO, 400.0)
    assert all(d < p for p, d in zip(plain, damped, strict=False))
    assert compliance(1e-4, RHO, 1200.0) == pytest.approx(1e-4 / (RHO * 1200.0**2))
