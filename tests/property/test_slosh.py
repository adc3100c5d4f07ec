"""Fuel that runs about in a tank: it is kept, what is covered agrees with an independent sampling
at a millimetre, and how often a logger wrote does not matter.
"""

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tall_heron.core.base.constants import GRAVITY
from tall_heron.core.document.properties import Properties
from tall_heron.core.document.tank_inside import Baffle, Inside, side_strips
from tall_heron.core.hydraulics.vessel import Tank, make_tank
from tall_heron.core.physics.slosh import Prism, Vessel, slopes
from tall_heron.core.study.slosh.slosh_run import (
    DISCHARGE,
    FILLS,
    MOST_WORK,
    STEP,
    Flows,
    Slosh,
    slosh,
)

SLOPE = st.floats(-2.0, 2.0)
MM = st.integers(60, 320)
LPH = 1 / 3.6e6


@st.composite
def tanks(draw: st.DrawFn) -> Properties:
    """A box, a box over a hump, or a side of four to six corners with a flat or broken floor."""
    long, wide, high = draw(MM), draw(MM), draw(MM)
    inside: dict[str, Any] = {
        "pickup_ahead_mm": draw(st.integers(0, long)),
        "pickup_right_mm": draw(st.integers(0, wide)),
    }
    shape = draw(st.sampled_from(["box", "hump", "side"]))
    if shape == "hump":
        half = draw(st.integers(3, wide // 4))
        inside |= {
            "hump_high_mm": draw(st.integers(5, high - 10)),
            "hump_wide_mm": 2 * half - wide % 2,
        }  # its sides stand between columns of a millimetre
    if shape == "side":
        knee, rear, front = (
            draw(st.integers(10, long - 10)),
            draw(st.integers(0, high // 2)),
            draw(st.integers(0, high // 2)),
        )
        inside["side"] = [
            (0, rear),
            (knee, 0),
            (long, front),
            (long, high),
            (knee, high - draw(st.integers(0, high // 3))),
            (0, high),
        ]
    share = draw(st.floats(0.5, 1.0))
    liters = (
        share
        * 1e-6
        * wide
        * (
            sum((b - a) * (sum(t) - sum(f)) / 2 for a, b, f, t in side_strips(inside["side"]))
            if shape == "side"
            else long * high
        )
    )
    if shape == "hump":
        liters -= share * 1e-6 * long * inside["hump_high_mm"] * inside["hump_wide_mm"]
    return Properties(
        long_mm=long,
        wide_mm=wide,
        high_mm=high,
        capacity_l=liters,
        outlet_mm=draw(st.integers(1, max(high // 2, 2))),
        inside=Inside.model_validate(inside),
    )


def columns(p: Properties) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """A millimetre's columns of a tank: their middles x and y and the heights of floor and ceiling
    [mm], read off the side's edges one by one.
    """
    inside = p.inside
    assert inside is not None
    assert p.long_mm is not None
    assert p.wide_mm is not None
    assert p.high_mm is not None
    x, y = np.meshgrid(
        np.arange(int(p.long_mm)) + 0.5, np.arange(int(p.wide_mm)) + 0.5, indexing="ij"
    )
    floor, top = np.zeros_like(x), np.full_like(x, p.high_mm)
    if inside.side:
        crossed = []
        for (xa, za), (xb, zb) in zip(inside.side, inside.side[1:] + inside.side[:1], strict=True):
            if xa != xb:
                inner = (x > min(xa, xb)) & (x < max(xa, xb))
                crossed.append(np.where(inner, za + (zb - za) * (x - xa) / (xb - xa), np.nan))
        floor, top = np.nanmin(crossed, axis=0), np.nanmax(crossed, axis=0)
    if inside.hump_wide_mm and inside.hump_high_mm:
        over = np.abs(y - p.wide_mm / 2) < inside.hump_wide_mm / 2
        floor = np.where(over, np.clip(inside.hump_high_mm, floor, top), floor)
    return x, y, floor, top


@given(p=tanks(), fill=st.floats(0.02, 0.97), along=SLOPE, across=SLOPE)
@settings(max_examples=100)
def test_covered_or_not_agrees_with_a_sampling_at_a_millimetre(
    p: Properties, fill: float, along: float, across: float
) -> None:
    tank = make_tank(p)
    assert tank is not None
    x, y, floor, top = columns(p)
    room = float((top - floor).sum())
    low, high = -3000.0, 3000.0
    for _ in range(45):
        middle = (low + high) / 2
        held = float(np.clip(middle + along * x + across * y, floor, top).sum() - floor.sum())
        low, high = (middle, high) if held < fill * room else (low, middle)
    px, py, pz = (1000 * v for v in tank.outlet[1:])
    over = low + along * px + across * py - pz
    height = tank.vessel.surface(np.array([fill * tank.holds]), tank.vessel.tilt(along, across))
    mine = 1000 * float(height[0]) + along * px + across * py - pz
    assert tank.holds == pytest.approx(room * (p.capacity_l or 0) / room * 1e-3, rel=1e-6)
    assert mine == pytest.approx(over, abs=1.5 * (1 + abs(along) + abs(across)))
    if abs(over) > 1.5 * (1 + abs(along) + abs(across)):
        assert (mine > 0) == (over > 0)


@given(p=tanks(), fill=st.floats(0.0, 1.0), along=SLOPE | st.just(0.0), across=SLOPE | st.just(0.0))
@settings(max_examples=100)
def test_a_leaning_surface_keeps_the_volume(
    p: Properties, fill: float, along: float, across: float
) -> None:
    tank = make_tank(p)
    assert tank is not None
    tilt = tank.vessel.tilt(along, across)
    held, _ = tilt.under(tank.vessel.surface(np.array([fill * tank.holds]), tilt))
    assert float(held[0]) == pytest.approx(fill * tank.holds, abs=1e-9 * tank.holds)


def test_a_box_by_hand() -> None:
    """600 x 300 mm, 100 mm of fuel, 0.6 g: a triangle 268.3 high and 447.2 long holds what stood
    100 high; 152.8 mm of the floor is dry (h = sqrt(2 x 0.6 x 600 x 100)). Hydrostatics of a
    liquid in uniform acceleration, any text on fluid statics.
    """
    high = math.sqrt(2 * 0.6 * 600 * 100)
    box = Vessel([[Prism(0, 0.6, 0, 0.4, (0, 0), (0.3, 0.3))]])
    along, across = slopes(-0.6, 0.0, 1.0)
    at_rear = float(box.surface(np.array([0.6 * 0.4 * 0.1]), box.tilt(along, across))[0])
    assert 1000 * (at_rear + along * 0.6) == pytest.approx(high, abs=0.1)
    assert 1000 * -at_rear / along == pytest.approx(600 - high / 0.6, abs=0.1)
    assert (round(high, 1), round(600 - high / 0.6, 1)) == (268.3, 152.8)


def test_fuel_runs_back_when_it_speeds_up_and_to_the_right_when_it_turns_left() -> None:
    assert slopes(0.5, 0.0, 1.0) == (-0.5, 0.0)
    assert slopes(0.0, 0.5, 1.0) == (0.0, 0.5)
    assert slopes(-math.sin(0.2), 0.0, math.cos(0.2))[0] == pytest.approx(
        math.tan(0.2)
    )  # nose down: forward


WALLED = Properties(long_mm=600, wide_mm=400, high_mm=220, capacity_l=50, outlet_mm=8)


def run_of(
    tank: Tank, flows: Flows, hertz: float = 20.0, fill: float = 0.3, seconds: float = 60.0
) -> Slosh:
    """A run whose accelerations are straight between corners 0.5 s apart, written so many times a
    second.
    """
    corners = np.arange(0, seconds + 0.5, 0.5)
    every = np.arange(0, seconds + 0.5 / hertz, 1 / hertz)
    read = np.stack(
        [
            np.interp(every, corners, 0.7 * np.sin(corners)),
            np.interp(every, corners, 0.9 * np.cos(corners / 2)),
            np.ones_like(every),
        ],
        1,
    )
    return slosh(tank, flows, every, read, np.ones_like(every), fill)


@pytest.mark.parametrize("pot", [None, 1.5e-3])
@pytest.mark.parametrize(
    "walls", [[], [Baffle(at_mm=200, open_mm2=900), Baffle(at_mm=400, open_mm2=900, door="back")]]
)
def test_nothing_is_lost_on_a_run(walls: list[Baffle], pot: float | None) -> None:
    """What tank and pot hold at the end and what the engine had is what they held at the start."""
    tank = make_tank(
        WALLED.model_copy(
            update={"inside": Inside(pickup_ahead_mm=60, pickup_right_mm=50, baffles=walls)}
        )
    )
    assert tank is not None
    flows = (
        Flows(400 * LPH, 120 * LPH, 280 * LPH, True)
        if pot is None
        else Flows(350 * LPH, 0.0, 280 * LPH, True, pot, 400 * LPH, 120 * LPH)
    )
    s = run_of(tank, flows)
    held = s.volumes.sum(1) + (s.pot if s.pot is not None else 0.0)
    # a pot's figure is written after its step, a tank's before
    last = 0.0 if pot is None else 280 * LPH * STEP
    assert held[0] - held[-1] == pytest.approx(s.burnt, abs=1e-9 * tank.holds + 1.5 * last)
    assert s.volumes.min() > -1e-12
    assert (s.volumes <= tank.vessel.full + 1e-12).all()


def test_how_often_the_logger_wrote_does_not_matter() -> None:
    tank = make_tank(
        WALLED.model_copy(
            update={
                "inside": Inside(
                    pickup_ahead_mm=60,
                    pickup_right_mm=50,
                    baffles=[Baffle(at_mm=300, open_mm2=500)],
                )
            }
        )
    )
    assert tank is not None
    slow, fast = (
        run_of(tank, Flows(400 * LPH, 0.0, 400 * LPH, False), hertz) for hertz in (2.0, 100.0)
    )
    assert slow.volumes == pytest.approx(fast.volumes, abs=1e-8)
    assert (slow.covered == fast.covered).all()
    assert 0 < slow.air < 60


@given(area=st.floats(50, 4000), first=st.floats(0.2, 0.9), second=st.floats(0.2, 0.9))
@settings(max_examples=25, deadline=None)
def test_an_opening_passes_what_an_orifice_does(area: float, first: float, second: float) -> None:
    """Two halves of a box, level: their levels close by the orifice law, integrated here in steps a
    hundredth as long; an opening that is deep under keeps its whole area.
    """
    assume(abs(first - second) > 0.05)
    tank = make_tank(
        WALLED.model_copy(
            update={"inside": Inside(baffles=[Baffle(at_mm=300, open_mm2=area, open_high_mm=20)])}
        )
    )
    assert tank is not None
    full = float(tank.vessel.full[0])
    floor, high = 0.3 * 0.4, 0.22
    share = full / (floor * high)
    a, b = first * full, second * full
    from tall_heron.core.study.slosh import slosh_run

    volume = np.array([[a, b]])
    for _ in range(20):
        tilt = tank.vessel.tilt(0.0, 0.0)
        height = tank.vessel.surface(volume, tilt)
        volume = slosh_run._exchanged(tank, volume, height, tilt.under(height)[1], 0.0, 0.0, 1.0)
    for _ in range(20 * 200):
        one, other = a / share / floor, b / share / floor
        q = math.copysign(
            DISCHARGE * area * 1e-6 * math.sqrt(2 * GRAVITY * abs(one - other)), one - other
        )
        a, b = a - q * STEP / 200, b + q * STEP / 200
    assert float(volume[0, 0]) == pytest.approx(a, abs=2e-3 * full)


def test_a_door_lets_fuel_one_way() -> None:
    tank = make_tank(
        WALLED.model_copy(
            update={
                "inside": Inside(
                    pickup_ahead_mm=50, baffles=[Baffle(at_mm=200, open_mm2=5000, door="back")]
                )
            }
        )
    )
    assert tank is not None
    times = np.array([0.0, 10.0])
    back, forward = (
        slosh(
            tank, Flows(0.0, 0.0, 0.0, False), times, np.array([[x, 0.0, 1.0]] * 2), np.ones(2), 0.4
        )
        for x in (0.6, -0.6)
    )
    assert back.volumes[-1, 0] > back.volumes[0, 0] * 1.5
    assert forward.volumes[-1, 0] == pytest.approx(forward.volumes[0, 0])


def test_a_fuller_tank_is_never_dry_for_longer() -> None:
    tank = make_tank(
        WALLED.model_copy(update={"inside": Inside(pickup_ahead_mm=50, pickup_right_mm=200)})
    )
    assert tank is not None
    s = run_of(tank, Flows(400 * LPH, 0.0, 400 * LPH, False))
    dry = [seconds for _, seconds, _ in s.fills]
    assert [share for share, *_ in s.fills] == list(FILLS)
    assert dry == sorted(dry, reverse=True)
    assert dry[0] > 30
    assert dry[-1] == 0


def test_the_pot_that_would_carry_it_holds_what_dry_stretches_lack_beyond_what_wet_ones_bring() -> (
    None
):
    """Kept like a purse: each tenth of a second the engine takes 70 L/h net, the lift pump brings
    100 while its outlet is covered; the deepest it ever was in debt.
    """
    tank = make_tank(
        WALLED.model_copy(update={"inside": Inside(pickup_ahead_mm=50, pickup_right_mm=200)})
    )
    assert tank is not None
    flows = Flows(100 * LPH, 0.0, 60 * LPH, False, pot=1e-3, pot_drawn=90 * LPH, pot_back=20 * LPH)
    s = run_of(tank, flows, fill=0.12, seconds=40)
    debt = worst = 0.0
    for covered in s.covered:
        debt = max(debt + (70 - (100 if covered else 0)) * LPH * STEP, 0.0)
        worst = max(worst, debt)
    assert 0.2 < s.air / s.seconds < 0.9
    assert s.missing == pytest.approx(worst, rel=1e-9)


def test_a_long_run_in_a_tank_of_many_walls_stops_and_says_where() -> None:
    walls = [
        Baffle(at_mm=at, open_mm2=300, way=way)
        for way, at in (
            ("across", 150),
            ("across", 300),
            ("across", 450),
            ("along", 130),
            ("along", 260),
        )
    ]  # type: ignore[arg-type]
    tank = make_tank(WALLED.model_copy(update={"inside": Inside(baffles=walls)}))
    assert tank is not None
    assert len(tank.vessel.full) == 12
    times = np.array([0.0, 900.0])
    s = slosh(
        tank, Flows(0.0, 0.0, 0.0, False), times, np.array([[0.1, 0.0, 1.0]] * 2), np.ones(2), 0.4
    )
    assert s.seconds == pytest.approx(MOST_WORK // (1 + len(tank.openings)) * STEP)
    assert 30 < s.seconds < 900
