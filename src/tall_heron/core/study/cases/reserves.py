"""How long tanks and pots last, what of them is out of reach when they lean, and how warm their
fuel gets over a run.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import LPH
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.mounts import hung_pumps
from tall_heron.core.document.tank_shape import FILLED, out_of_reach_l
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.hydraulics.vessel import make_tank
from tall_heron.core.physics.heat import tank_rise
from tall_heron.core.physics.slosh import slopes
from tall_heron.core.study.cases.moments import SolvedMoment, look, solved_moments
from tall_heron.core.study.cases.tank_heat import pump_power, tank_heat
from tall_heron.core.study.failures.failure_walk import gross, net_flow
from tall_heron.core.study.study import Study
from tall_heron.core.study.what_if import Off

LEAST = 0.1 * LPH  # m3/s: a tank that gives less is not drawn from
PLACES = (("front", 1.0), ("middle", 0.5), ("rear", 0.0))  # of an outlet along its tank
TIMES = (600.0, 1800.0, 3600.0)  # s of a run


@dataclass(frozen=True)
class Lasts:
    """How long a tank gives what is drawn at a moment: `flow` [m3/s] that it loses, `liters` within
    reach, and that as `seconds`. `why` says what else has stopped for it; `reserve` is what a header
    of an aircraft would hold to feed it through its reserve [L].
    """

    tank: str
    moment: str
    flow: float
    liters: float
    seconds: float
    why: str = ""
    reserve: float | None = None


def lasts(study: Study) -> list[Lasts]:
    """Every tank at peak and at cruise while it is drawn from; a pot or header too, from when what
    fills it stops, or no tank falls to it.
    """
    out = []
    overflows = bool(study.build.circuit.of_kind("overflow"))
    fillers = [
        p.id
        for p in study.build.circuit.of_kind("pump")
        if p.id not in {x.id for x in study.feed_path.pumps}
    ]
    stopped = (
        f"once {' and '.join(fillers)} {'stops' if len(fillers) == 1 else 'stop'}"
        if fillers
        else "once no tank falls to it"
    )
    reserve = house_figure("flight_reserve_s") if study.brief.use == "flight" else None
    for x, title, forgotten in _drawn_from(study):
        if not x.solved.solution.converged:
            continue
        for tank in study.build.circuit.of_kind("tank"):
            filled = tank.properties.family in FILLED
            solution = (
                x.solved.solution
                if not filled or not fillers
                else x.study.what_if.changed(*(Off(p) for p in fillers)).at(
                    x.solved.case.point, x.solved.case.demand
                )
            )
            liters = _within_reach(tank)
            flow = -net_flow(study.build.circuit, tank.id, solution) if solution.converged else 0.0
            if filled and not fillers:
                flow = _share(study, tank, solution)
            if (
                overflows and not filled
            ):  # what a pot's lift pump brings beyond the demand comes back by the overflow, which is not solved
                flow = min(flow, study.feed_path.burnt(solution))
            if liters is not None and flow > LEAST:
                out.append(
                    Lasts(
                        tank.id,
                        title,
                        flow,
                        liters,
                        liters / 1000 / flow,
                        stopped if filled else forgotten or "from full",
                        1000 * flow * reserve
                        if filled and reserve is not None and x.moment.case.key == "cruise"
                        else None,
                    )
                )
    return out


def _drawn_from(study: Study) -> Iterator[tuple[SolvedMoment, str, str]]:
    """The moments that tanks are drawn at, their titles, and, where a selector draws from one tank
    until somebody turns it, that it is left there: at cruise each of both.
    """
    moments = {x.moment.case.key: x for x in solved_moments(study, hidden=True)}
    right = study.cases.get("peak right")
    for key in ("peak", "peak right", "cruise"):
        if key in moments:
            left_on = "from full, the selector left on it" if right and key == "cruise" else ""
            yield moments[key], moments[key].moment.case.title, left_on
    cruise = moments.get("cruise")
    if right is None or cruise is None:
        return
    case = cruise.moment.case
    point = case.point.model_copy(
        update={"name": "cruise right", "position": dict(right.point.position)}
    )
    turned = replace(case, key="cruise right", title="Cruise, right tank", point=point)
    moment = replace(cruise.moment, case=turned)
    yield look(study, moment), turned.title, "from full, the selector left on it"


def _share(study: Study, header: Element, solution: Solution) -> float:
    """What a header gives of what the engine burns [m3/s], by what leaves each of them."""
    headers = [t for t in study.build.circuit.of_kind("tank") if t.properties.family in FILLED]
    leaves = {t.id: gross(solution, t)[0] for t in headers}
    total = sum(leaves.values())
    return study.feed_path.burnt(solution) * leaves[header.id] / total if total > 0 else 0.0


def _within_reach(tank: Element) -> float | None:
    holds = tank.properties.capacity_l
    return None if holds is None else holds - (out_of_reach_l(tank.properties) or 0.0)


@dataclass(frozen=True)
class TiltedTank:
    """What of a tank is out of reach in a moment that leans [L], by where along it its outlet lies,
    or `where it is` where that is known; `level` is what is out of reach when it stands level.
    """

    tank: str
    moment: str
    holds: float
    level: float
    liters: dict[str, float]


def tilted_tanks(study: Study) -> list[TiltedTank]:
    """Every tank that says its sides, in every moment that leans. Baffles, doors and foam hold fuel
    back for a while: these are the figures when it has run all the way.
    """
    out = []
    tanks = [
        (t, shape)
        for t in study.build.circuit.of_kind("tank")
        if (shape := make_tank(t.properties)) is not None
    ]
    for x in solved_moments(study):
        if not x.moment.acceleration:
            continue
        along, across = slopes(*x.moment.acceleration.readings)
        for tank, shape in tanks:
            here = {"where it is": shape.out_of_reach(along, across)}
            liters = (
                here
                if shape.placed
                else {
                    name: shape.out_of_reach(along, across, at * shape.long) for name, at in PLACES
                }
            )
            out.append(
                TiltedTank(
                    tank.id,
                    x.moment.case.title,
                    1000 * shape.holds,
                    1000 * shape.out_of_reach(),
                    {k: 1000 * v for k, v in liters.items()},
                )
            )
    return out


@dataclass(frozen=True)
class Warms:
    """How much the fuel has warmed over its start after some `times` of a run [K], None from where
    the tanks are empty; what it rests on.
    """

    moment: str
    power: float
    liters: float
    rises: tuple[float | None, ...]


def warms(study: Study, times: tuple[float, ...] = TIMES) -> list[Warms]:
    """Hot idle and cruise after some times [s], from tanks half full whose level falls as it burns."""
    heat = tank_heat(study)
    out = []
    for x in (
        y for y in solved_moments(study, hidden=True) if y.moment.case.key in ("idle", "cruise")
    ):
        if x.solved.solution.converged and heat.liters > 0:
            out.append(_warms(study, x, heat.liters, heat.heat_capacity, times))
    return out


def _warms(
    study: Study, x: SolvedMoment, liters: float, heat_capacity: float, times: tuple[float, ...]
) -> Warms:
    solution, density = x.solved.solution, x.solved.solution.density
    burnt, given = study.feed_path.burnt(solution), x.study.pumps_deliver(x.solved)
    back = min(max(1 - burnt / given, 0.0), 1.0) if given > 0 and study.turns_back else 0.0
    power, loss, mass = (
        pump_power(x.solved) * back,
        house_figure("tank_loss_w_k"),
        liters / 1000 * density,
    )

    def rise(seconds: float) -> float | None:
        gone = burnt * density * seconds
        return (
            tank_rise(power, loss, mass, heat_capacity, burnt * density, seconds)
            if gone < mass * (1 - EMPTY)
            else None
        )

    return Warms(x.moment.case.title, power, liters, tuple(rise(t) for t in times))


EMPTY = 0.05  # of what was there: a tank with less is empty


@dataclass(frozen=True)
class Heating:
    """Rises of the tank's fuel over its start [K] after some `times` [s], None from where the tanks
    are empty: as the return runs, with a short return from a regulator at the tank, and with pumps
    whose speed is controlled. `pick_up` [W] is what fuel that passes the engine brings back.
    """

    moment: str
    times: tuple[float, ...]
    returns: tuple[float | None, ...]
    short: tuple[float | None, ...]
    controlled: tuple[float | None, ...]
    liters: float
    power: float
    pick_up: float


EVERY = 60.0  # s between the points of a chart of heat
LONGEST = 3600.0


def heating(study: Study, pick_up: float = 0.0) -> list[Heating]:
    """The three ways side by side, at hot idle and at cruise. Controlled pumps take what the demand
    needs of the power they take now; what a regulator at the tank turns back never passes the
    engine.
    """
    heat = tank_heat(study)
    times = tuple(EVERY * i for i in range(round(LONGEST / EVERY) + 1))
    out = []
    for x in (
        y for y in solved_moments(study, hidden=True) if y.moment.case.key in ("idle", "cruise")
    ):
        given = x.study.pumps_deliver(x.solved) if x.solved.solution.converged else 0.0
        if given <= 0 or heat.liters <= 0 or not study.feed_path.pumps:
            continue
        burnt, density = study.feed_path.burnt(x.solved.solution), x.solved.solution.density
        back, power = min(max(1 - burnt / given, 0.0), 1.0), pump_power(x.solved)

        def rises(
            watts: float, burnt: float = burnt, density: float = density
        ) -> tuple[float | None, ...]:
            mass, flow = heat.liters / 1000 * density, burnt * density
            lasts = mass * (1 - EMPTY) / flow if flow > 0 else LONGEST + 1
            return tuple(
                tank_rise(watts, house_figure("tank_loss_w_k"), mass, heat.heat_capacity, flow, t)
                if t < lasts
                else None
                for t in times
            )

        wasted = (
            power * burnt / given * (1 - EFFICIENCY) if hung_pumps(study.build.circuit) else 0.0
        )
        out.append(
            Heating(
                x.moment.case.title,
                times,
                rises(power * back + pick_up),
                rises(power * back),
                rises(wasted),
                heat.liters,
                power,
                pick_up,
            )
        )
    return out


EFFICIENCY = 0.4  # of an electric pump: the rest warms what it stands in, common practice
