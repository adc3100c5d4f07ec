"""What the shelf's figures must be for their class: bounds of the trade, not the sheets themselves,
which are invented.
"""

import itertools
import math

import pytest

from tall_heron.core.base.catalogue import table
from tall_heron.core.document.figures import Injectors, Loss, PumpMap, Quadratic
from tall_heron.core.shelf.shelf import ShelfPart, parts

PUMPS = [p for p in parts().values() if p.kind == "pump" and isinstance(p.figures, PumpMap)]
INJECTORS = sorted(
    (p for p in parts().values() if p.kind == "injectors"), key=lambda p: p.figures.rated_lph
)  # type: ignore[union-attr]
DASHES = ("-6", "-8", "-10", "-12", "-16")


def useful(pump: ShelfPart) -> list[tuple[float, float, float]]:
    """Points of a pump's sheet from a quarter to nine tenths of what it is rated for: flow [L/h],
    pressure [kPa], current [A].
    """
    assert isinstance(pump.figures, PumpMap)
    most = pump.properties.rated_kpa or max(r[1] for r in pump.figures.curves[-1].rows)
    return [
        (r[0], r[1], r[2])
        for r in pump.figures.curves[-1].rows
        if 0.25 * most <= r[1] <= 0.9 * most and r[0] > 0 and len(r) > 2
    ]


@pytest.mark.parametrize("pump", PUMPS, ids=lambda p: p.name)
def test_a_pump_turns_a_usual_share_of_its_current_into_flow(pump: ShelfPart) -> None:
    """Wire to fuel 15 to 45 % at best, and no point of use over that: small DC pumps, common
    practice. At 3 bar and 13.5 V that is 24 to 73 L/h for each ampere.
    """
    assert isinstance(pump.figures, PumpMap)
    volts = pump.figures.curves[-1].voltage_v
    shares = [q / 3.6e6 * p * 1000 / (volts * a) for q, p, a in useful(pump)]
    assert shares
    assert max(shares) <= 0.45
    assert max(shares) >= (
        0.15 if (pump.properties.rated_kpa or 0) >= 200 else 0.01
    )  # at a few psi nearly all goes into turning it


@pytest.mark.parametrize("pump", PUMPS, ids=lambda p: p.name)
def test_a_pump_gives_less_against_more_and_at_less_voltage(pump: ShelfPart) -> None:
    assert isinstance(pump.figures, PumpMap)
    for curve in pump.figures.curves:
        assert all(a[0] < b[0] and a[1] > b[1] for a, b in itertools.pairwise(curve.rows))
    for low, high in itertools.pairwise(pump.figures.curves):
        assert low.voltage_v < high.voltage_v
        assert low.rows[-1][0] < high.rows[-1][0]


def test_there_is_a_pump_for_any_engine() -> None:
    """From small aircraft to four figures of horsepower, hung in a tank or outside, and none far
    from the next.
    """
    for mount, least, most in (("in-tank", 90, 1300), ("external", 40, 1500)):
        flows = sorted(
            p.figures.curves[-1].rows[-1][0]
            for p in PUMPS
            if p.properties.mount == mount and (p.properties.rated_kpa or 0) > 200
        )  # type: ignore[union-attr]
        assert flows[0] <= least
        assert flows[-1] >= most
        assert max(b / a for a, b in itertools.pairwise(flows)) <= 2.0


def test_injectors_come_in_steps_of_fifteen_in_a_hundred() -> None:
    sizes = [
        p.figures.rated_lph / 60 * 1000
        for p in INJECTORS
        if isinstance(p.figures, Injectors) and p.figures.rated_lph
    ]
    assert (round(sizes[0]), round(sizes[-1])) == (200, 4500)
    assert max(b / a for a, b in itertools.pairwise(sizes)) <= 1.155
    for p in INJECTORS:  # a larger needle opens later: about a millisecond at 12 V, less at 14
        about = p.properties
        assert about.dead_time_14v_ms is not None
        assert about.dead_time_12v_ms is not None
        assert 0.5 < about.dead_time_14v_ms < about.dead_time_12v_ms < 2.5


@pytest.mark.parametrize("kind", ["check", "filter"])
def test_parts_come_by_dash_and_a_larger_one_takes_less(kind: str) -> None:
    """At the largest burn of a line of its size (common practice) a check valve takes no more than
    15 kPa and a clean filter no more than 15.
    """
    by_dash = {
        d: [p for p in parts().values() if p.kind == kind and p.properties.dash == d]
        for d in DASHES
    }
    assert all(by_dash[d] for d in DASHES)
    burns = {r["dash"]: r["burn_to_lph"] for r in table("line_sizes")}
    for dash in DASHES[:-1]:
        if kind == "check":
            least = min(_takes(p, burns[dash]) for p in by_dash[dash])
            assert least <= 15.0, dash
        if kind == "filter":
            assert min(_takes(p, burns[dash]) for p in by_dash[dash]) <= 15.0, dash


def _takes(part: ShelfPart, lph: float) -> float:
    """What a part takes of petrol of 745 kg/m3 [kPa]: its table, or Borda's K on its bore."""
    figures = part.figures
    if isinstance(figures, Quadratic):
        return figures.a_kpa_per_lph * lph + figures.b_kpa_per_lph2 * lph**2
    bore, k = figures.bore_mm / 1000, figures.loss_coefficient  # type: ignore[union-attr]
    assert isinstance(figures, Loss) or figures.law == "check"
    return k * 745 * (lph / 3.6e6 / (math.pi * bore**2 / 4)) ** 2 / 2000


def test_a_small_pump_of_an_aircraft_draws_little() -> None:
    """What turns 42 to 62 L/h at 300 kPa draws 1.4 to 2 A on 12 V, common practice; by hand 54 L/h
    against 300 kPa are 4.5 W of 16.8 W, 27 %.
    """
    pump = parts()["sallow-60"].figures
    assert isinstance(pump, PumpMap)
    at_300 = [next(r for r in c.rows if r[1] == 300) for c in pump.curves]
    assert all(42 <= r[0] <= 62 and 1.4 <= r[2] <= 2.0 for r in at_300)
    flow, kpa, ampere = at_300[1]
    assert flow / 3.6e6 * kpa * 1000 / (12 * ampere) == pytest.approx(0.268, abs=0.001)
