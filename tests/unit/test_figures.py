"""Every figure of the demos, of lines begun and of runs replayed, as it was when it was last read
over: for each field of each result how many numbers it has, their sum, the least and the most.

What is right is held elsewhere, against sources; this sees that nothing moves unread. Run
`python tests/unit/test_figures.py` to write the file anew, and read the difference before it is
committed.
"""

import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

KIT = Path(__file__).parents[1] / "kit"
sys.path.insert(0, str(KIT))

import pytest  # noqa: E402
from figures import Figures, as_read_over, gathered, write_anew  # noqa: E402

from tall_heron.core.begin.started import start  # noqa: E402
from tall_heron.core.design import design  # noqa: E402
from tall_heron.core.editing.demo import demo_builds  # noqa: E402
from tall_heron.core.electrics.cut_off import truth_table  # noqa: E402
from tall_heron.core.electrics.cut_off_claims import properties  # noqa: E402
from tall_heron.core.electrics.sender import make_sender_sheet  # noqa: E402
from tall_heron.core.electrics.volt_walk import volt_walk  # noqa: E402
from tall_heron.core.hydraulics.epanet import make_inp  # noqa: E402
from tall_heron.core.hydraulics.vessel import make_tank  # noqa: E402
from tall_heron.core.joining.joints import joints_of  # noqa: E402
from tall_heron.core.prove.car import drive_text, switchable  # noqa: E402
from tall_heron.core.prove.log_file import read_log  # noqa: E402
from tall_heron.core.prove.log_head import read_head  # noqa: E402
from tall_heron.core.prove.predict import Predictor  # noqa: E402
from tall_heron.core.prove.proof_limits import limit_at  # noqa: E402
from tall_heron.core.prove.proofs import proofs, usual  # noqa: E402
from tall_heron.core.prove.replay import replay  # noqa: E402
from tall_heron.core.prove.rig import measured_map, read_rig, rig_rows, rig_text  # noqa: E402
from tall_heron.core.routing.laid import lay_out  # noqa: E402
from tall_heron.core.routing.suggest import suggestions  # noqa: E402
from tall_heron.core.rules.cases import matrix_of  # noqa: E402
from tall_heron.core.rules.route import laid_of  # noqa: E402
from tall_heron.core.sheets.bend_sheet import make_bend_sheets  # noqa: E402
from tall_heron.core.sheets.buy_list import make_buy_list  # noqa: E402
from tall_heron.core.sheets.cut_sheet import make_cut_sheet  # noqa: E402
from tall_heron.core.sheets.fits import make_injector_sheets, make_rail_sheets  # noqa: E402
from tall_heron.core.sheets.job_order import make_job_order  # noqa: E402
from tall_heron.core.sheets.labels import make_labels  # noqa: E402
from tall_heron.core.sheets.loom import make_loom  # noqa: E402
from tall_heron.core.sheets.order_form import highest_met, make_orders  # noqa: E402
from tall_heron.core.sheets.plate import make_plate, usual_plate  # noqa: E402
from tall_heron.core.sheets.route_files import points_csv  # noqa: E402
from tall_heron.core.sheets.tank_sheet import make_tank_sheets, tiles_of  # noqa: E402
from tall_heron.core.sizing.lines import lines_of  # noqa: E402
from tall_heron.core.sizing.other_fuels import make_fuel_rows  # noqa: E402
from tall_heron.core.sizing.swaps import make_swaps  # noqa: E402
from tall_heron.core.study.cases.curves import power_sweep, pump_chart  # noqa: E402
from tall_heron.core.study.cases.dyno import dyno_card  # noqa: E402
from tall_heron.core.study.cases.moments import solved_moments  # noqa: E402
from tall_heron.core.study.cases.pulsation import pulsation, rail_swing  # noqa: E402
from tall_heron.core.study.cases.reserves import (  # noqa: E402
    heating,
    lasts,
    tilted_tanks,
    warms,
)
from tall_heron.core.study.cases.speed_loop import speed_loop  # noqa: E402
from tall_heron.core.study.cases.suction_map import suction_map  # noqa: E402
from tall_heron.core.study.cases.supply import balances, battery_alone  # noqa: E402
from tall_heron.core.study.cases.tank_heat import tank_heat  # noqa: E402
from tall_heron.core.study.cases.worst_cylinder import worst_cylinder  # noqa: E402
from tall_heron.core.study.explain import why_part  # noqa: E402
from tall_heron.core.study.failures.failure_walk import pairs, walk  # noqa: E402
from tall_heron.core.study.failures.key_off import lags, prime, restarts  # noqa: E402
from tall_heron.core.study.failures.shut_off import shut_off_pressures  # noqa: E402
from tall_heron.core.study.route_cost import route_cost  # noqa: E402
from tall_heron.core.study.sections import sections  # noqa: E402
from tall_heron.core.study.slosh.drive_file import SHIPPED, shipped  # noqa: E402
from tall_heron.core.study.slosh.drive_flows import rail_along, run_flows, run_tanks  # noqa: E402
from tall_heron.core.study.slosh.slosh_run import slosh  # noqa: E402
from tall_heron.core.study.study import Study, make_study  # noqa: E402

STORED = "figures.txt"
DEMOS = ("bittern", "curlew", "dunlin", "egret", "plover", "stonechat")
OFTEN = ("bittern",)  # the others in the sweep
REPLAYED = ("Curlew",)
LINES = (
    "twin-turbo V8 6.8 L, 1500 hp, E85, 58 psi + 30",
    "off-road V8 6.2 L 700 hp, E10, 58 psi, surge pot",
    "high wing 180 hp flat four 5.9 L carburetor",
    "28 volt light twin, 310 hp flat six, 100LL injected",
    "saddle tank, turbo six 3.0 L, 420 hp, E10, 5 bar + 1 bar",
    "V8 6.6 L 425 hp carburettor drag, 7 psi",
    "flex fuel turbo four 2.3 L 400 hp, 43.5 psi + 22, two 340 lph pumps, -8 feed, 60 L tank",
    "turbo rotary 1.3 L, 450 hp, 43.5 psi + 16, 12 gal cell, 10 micron filter",
)


def of_cases(study: Study) -> Iterator[Any]:
    yield study.fuel_demand
    yield [(s.case, s.solution.nodes, s.solution.links) for s in study.solved.values()]
    yield make_inp(study.peak.case.demand, study.peak.solution, "x")
    yield matrix_of(study)
    yield [m.solved.solution.nodes for m in solved_moments(study)]
    yield (
        pump_chart(study),
        power_sweep(study),
        dyno_card(study),
        pulsation(study),
        rail_swing(study),
    )
    yield lasts(study), tilted_tanks(study), warms(study), heating(study)
    yield speed_loop(study), worst_cylinder(study), tank_heat(study)
    yield suction_map(study, 20e3, 5e3)
    yield balances(study), battery_alone(study), sections(study)
    yield prime(study), restarts(study), lags(study), shut_off_pressures(study)
    for element in study.build.circuit.elements:
        yield why_part(study, study.peak, element)


def of_failures(study: Study) -> Iterator[Any]:
    yield walk(study)
    yield pairs(study)[:6]


def of_sizes(study: Study) -> Iterator[Any]:
    made = design(study.build)
    yield made.every_finding, made.limits, made.whole
    yield lines_of(study, study.fuel_demand.volume_flow * 3.6e6)
    yield make_fuel_rows(study.build)
    for kind in ("pump", "regulator", "filter", "tank"):
        for element in study.build.circuit.of_kind(kind)[:1]:
            yield make_swaps(study, "peak", element)


def of_route(study: Study) -> Iterator[Any]:
    laid = laid_of(study)
    yield laid.lines
    yield [vars(line.run) for line in laid.lines.values()]
    yield [suggestions(laid, line) for line in list(laid.lines.values())[:4]]
    yield [route_cost(study, line) for line in laid.lines.values()]
    yield make_bend_sheets(laid), points_csv(laid)


def of_sheets(study: Study) -> Iterator[Any]:
    build, laid = study.build, lay_out(study.build)
    joints, rows = joints_of(build), make_cut_sheet(build, laid)
    bought = make_buy_list(build, laid, rows, joints)
    yield rows, bought, make_orders(rows, highest_met(study)), make_labels(rows)
    yield make_job_order(build, laid, rows, bought)
    yield make_injector_sheets(build), make_rail_sheets(build)
    for sheet in make_tank_sheets(build, laid, joints):
        yield sheet, tiles_of(sheet)
    for plate in (build.shop.plate, usual_plate(build)):
        shop = build.shop.model_copy(update={"plate": plate})
        yield make_plate(build.model_copy(update={"shop": shop}))


def of_wires(study: Study) -> Iterator[Any]:
    harness = study.what_if.harness
    if harness is None or study.build.wiring is None:
        return
    amperes = {k: f.highest for k, f in harness.feeds.items()}
    yield harness, make_loom(harness), [volt_walk(harness, p, amperes) for p in harness.feeds]
    cut = study.build.wiring.cut_off
    yield truth_table(cut), properties(cut)
    yield make_sender_sheet(study.build.wiring.sender)


def of_proofs(study: Study) -> Iterator[Any]:
    predictor = Predictor(study)
    for proof in proofs(predictor):
        yield proof, usual(study, proof), limit_at(study, proof, usual(study, proof))
    for pump in [p.id for p in study.feed_path.pumps][:1]:
        for fault in switchable(study):
            if fault.part == pump:
                points = read_rig(rig_text(rig_rows(study, pump, fault, 3)))
                element = study.build.circuit.element(pump)
                yield points, measured_map(element, points) if element is not None else None


def of_runs(study: Study) -> Iterator[Any]:
    """What the tanks do on each run, and what a log with a fault comes to."""
    for tank in run_tanks(study):
        flows, shape = run_flows(study, tank), make_tank(tank.properties)
        for run in map(shipped, SHIPPED):
            if flows is not None and shape is not None:
                yield slosh(shape, flows, run.times, run.readings, run.loads, 0.3)
                yield rail_along(study, run, run.times)
    for fault in switchable(study)[2:3] if study.build.name in REPLAYED else ():
        text = drive_text(study.build, fault, 4)
        log = read_log(text, read_head(text), study.peak.case.point.atmosphere)
        yield replay(Predictor(study), log) if log is not None else None


ROOMS: dict[str, Callable[[Study], Iterator[Any]]] = {
    "cases": of_cases,
    "failures": of_failures,
    "sizes": of_sizes,
    "route": of_route,
    "sheets": of_sheets,
    "wires": of_wires,
    "proofs": of_proofs,
    "runs": of_runs,
}


def begun(line: str) -> Iterator[tuple[str, Figures]]:
    """What comes of a line: its brief, its circuit with all parts, and its route."""
    build = start(line).sized
    parts = (build.circuit.elements, build.circuit.nodes)
    looked = design(build)
    yield line, gathered((build, *parts, lay_out(build).lines, looked.every_finding, looked.limits))


def of_demo(name: str) -> Iterator[tuple[str, Figures]]:
    study = make_study(demo_builds(wired=True)[name])
    for room, results in ROOMS.items():
        yield f"{name}, {room}", gathered(list(results(study)), room)


@pytest.mark.figures
@pytest.mark.parametrize(
    "name", [pytest.param(x, marks=[] if x in OFTEN else [pytest.mark.sweep]) for x in DEMOS]
)
def test_no_figure_of_a_demo_moves_unread(name: str) -> None:
    as_read_over(STORED, of_demo(name))


@pytest.mark.figures
@pytest.mark.parametrize(
    "line",
    [pytest.param(x, marks=[pytest.mark.sweep] if i else []) for i, x in enumerate(LINES)],
)
def test_no_figure_of_a_line_moves_unread(line: str) -> None:
    as_read_over(STORED, begun(line))


if __name__ == "__main__":
    write_anew(
        STORED,
        (x for make in (*map(of_demo, DEMOS), *map(begun, LINES)) for x in make),
    )
