"""Which of two figures counts: thresholds, fallbacks and twins that a formula's own check passes
by. Each is worked by hand or from a published source.
"""

import itertools
import math
from itertools import pairwise

import pytest

from tall_heron.core.base.constants import PSI
from tall_heron.core.document.acceleration import STRAIGHT, ahead_of
from tall_heron.core.document.build import Build
from tall_heron.core.document.faces import face
from tall_heron.core.document.figures import Tee
from tall_heron.core.document.point import reference_pressure_kpa
from tall_heron.core.document.wiring import CutOff
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import remove
from tall_heron.core.editing.wiring import set_branch, wire_by_rule
from tall_heron.core.electrics.cut_off import CutOffState, Inputs, step
from tall_heron.core.electrics.feeds import make_harness
from tall_heron.core.joining.chains import _there, join
from tall_heron.core.physics.fuel import boils_at, fuel_named, season_reid_vapor
from tall_heron.core.physics.pump import make_curve
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.sheets.buy_list import make_buy_list
from tall_heron.core.shelf.shelf import parts
from tall_heron.core.study.cases.tank_heat import pump_power
from tall_heron.core.study.study import make_study

DEMO = demo_builds()


def test_a_pound_over_the_class_is_sold_in_summer_alone() -> None:
    """40 CFR 1090.215, from memory: E9 to E10 may stand 1 psi over the class in summer."""
    e0, e10 = fuel_named("E0"), fuel_named("E10")
    over = {s: season_reid_vapor(e10, s) - season_reid_vapor(e0, s) for s in SEASONS}
    assert over["summer"] == pytest.approx(PSI, rel=0.1)
    assert over["spring or autumn"] == over["winter"] == 0.0


SEASONS = ("summer", "spring or autumn", "winter")


def ap42(reid_psi: float, rankine: float, slope: float) -> float:
    """True vapor pressure [psi] of a gasoline: EPA AP-42, 7.1, figure 7.1-14b, written out here."""
    root, log = math.sqrt(slope), math.log10(reid_psi)
    return math.exp(
        (0.7553 - 413.0 / rankine) * root * log
        - (1.854 - 1042 / rankine) * root
        + (2416 / rankine - 2.013) * log
        - 8742 / rankine
        + 15.64
    )


@pytest.mark.parametrize(("fuel", "slope"), [("100LL", 2.0), ("E0", 3.0)])
def test_aviation_gasoline_boils_by_its_own_slope(fuel: str, slope: float) -> None:
    """AP-42 gives 2 for aviation gasoline, 3 for motor gasoline."""
    made = fuel_named(fuel)
    reid = season_reid_vapor(made, "summer") / PSI
    for celsius in (10.0, 45.0):
        here = boils_at(made, "summer", celsius + 273.15) / PSI
        assert here == pytest.approx(ap42(reid, (celsius + 273.15) * 1.8, slope), rel=2e-3)


def test_beyond_its_table_a_flat_end_falls_by_a_tenth_of_its_last_piece() -> None:
    """10, 2, 1.9 over 0, 1, 2: the end slope of Fritsch and Carlson's formula, (3 x -0.1 + 8) / 2,
    has the wrong sign and is taken as 0; a tenth of the last piece's -0.1 stands for it.
    """
    curve = make_curve([0.0, 1.0, 2.0], [10.0, 2.0, 1.9])
    assert curve.at(2.5)[0] == pytest.approx(1.9 - 0.5 * 0.01)


def test_every_tee_turns_at_three_times_its_run() -> None:
    """Crane TP-410, A-29: standard tees, 20 f_T through the run and 60 f_T through the branch."""
    tees = [p.figures for p in parts().values() if isinstance(p.figures, Tee)]
    assert tees
    for tee in tees:
        assert tee.branch_loss_coefficient == pytest.approx(3 * tee.run_loss_coefficient)


def test_a_bowl_and_a_hat_feel_boost_and_no_vacuum() -> None:
    for reference in ("hat", "bowl"):
        assert reference_pressure_kpa(reference, 80.0) == 80.0
        assert reference_pressure_kpa(reference, -60.0) == 0.0
    assert reference_pressure_kpa("manifold", -60.0) == -60.0


def test_what_returns_runs_back() -> None:
    build = DEMO["bittern"]
    ahead = ahead_of(build.circuit, False)
    returns = [
        e for e in build.circuit.elements if e.role == "return" and e.kind in ("hose", "line")
    ]
    assert returns
    for e in returns:
        placed = {n.id: n.ahead_mm for n in build.circuit.nodes}
        if e.length is None or any(placed[n] is not None for n in e.ports.values()):
            continue
        gone = ahead[e.ports["end"]] - ahead[e.ports["start"]]
        assert gone == pytest.approx(-STRAIGHT * e.length.mm / 1000)


def test_a_latch_is_not_reset_while_the_car_lies_on_its_roof() -> None:
    cut = CutOff(inertia=True, roll_over=True, breaks="supply")
    on = Inputs(ignition=True, turning=True)
    state = step(cut, CutOffState(), on)
    for _ in range(20):
        state = step(cut, state, Inputs(ignition=True, turning=True, rolled=True))
    assert state.latched
    state = step(cut, state, Inputs(ignition=True, turning=True, rolled=True, reset=True))
    assert state.latched, "it still lies there"
    state = step(cut, state, Inputs(ignition=True, turning=True, reset=True))
    assert not state.latched


def shared(build: Build) -> Build:
    """A build whose pumps hang on one relay."""
    wired = wire_by_rule(build)
    assert wired.wiring is not None
    first = wired.wiring.branches["P1"].relay
    return set_branch(wired, "P2", relay=first)


def test_the_wire_to_a_shared_relay_and_its_fuse_are_for_all_its_pumps() -> None:
    """Two pumps draw what two draw: the fuse at least 1.25 times that (common practice)."""
    build = shared(DEMO["bittern"])
    assert build.wiring is not None
    harness = make_harness(build.circuit, build.wiring, 14.0, 550.0)
    contact = next(c for c in harness.relays.values() if len(c.pumps) == 2)
    together = sum(harness.feeds[p].highest for p in contact.pumps)
    assert contact.fuse is not None
    assert contact.fuse >= 1.25 * together
    assert contact.ampere == pytest.approx(together)


def test_what_pumps_draw_is_at_the_volts_that_reach_them() -> None:
    solved = make_study(DEMO["bittern"]).solved["low voltage"]
    by_hand = sum(
        link.current * solved.solution.voltage(link.element)
        for link in solved.solution.links.values()
        if link.current
    )
    assert pump_power(solved) == pytest.approx(by_hand)
    amps = sum(x.current or 0.0 for x in solved.solution.links.values())
    assert by_hand < 12.5 * amps, "not at the 13.5 V of a sheet"


def test_spares_are_bought_and_not_carried() -> None:
    bought = make_buy_list(DEMO["bittern"], lay_out(DEMO["bittern"]))
    spares = sum(i.mass_kg or 0.0 for i in bought.items if i.group == "spares")
    every = sum(i.mass_kg or 0.0 for i in bought.items)
    assert spares > 0
    assert bought.mass_kg == pytest.approx(every - spares)


def test_of_chains_as_long_and_as_straight_the_wider_is_offered_first() -> None:
    """What narrows costs pressure; those in stock come before all others, whatever their bore."""
    compared = 0
    sizes = ("-4", "-6", "-8", "-10", "-12")
    faces = [face(f"{sort} {size}") for sort in ("flare", "port") for size in sizes]
    for one, other in itertools.product(faces, faces):
        for a, b in pairwise(join(one, other).ways):
            rank = [(len(w), sum(p.angle_deg > 0 for p in w), not _there(w)) for w in (a, b)]
            if rank[0] == rank[1]:
                compared += 1
                assert min(p.bore_mm for p in a) >= min(p.bore_mm for p in b)
    assert compared


def test_a_part_that_ends_in_a_tank_is_taken_out() -> None:
    """What brings the return home ends at the tank; without it the line before it does."""
    build = DEMO["bittern"]
    tanks = {n for e in build.circuit.of_kind("tank") for n in e.ports.values()}
    last = next(
        e
        for e in build.circuit.elements
        if e.role == "return" and e.kind != "tank" and set(e.ports.values()) & tanks
    )
    after = remove(build, last.id)
    assert after.circuit.element(last.id) is None
    assert make_study(after).peak.solution.converged
