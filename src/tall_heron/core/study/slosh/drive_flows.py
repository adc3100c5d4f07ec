"""What a tank gives along a run, from the solved peak, and what the rail shows while its outlet is
covered.
"""

import numpy as np

from tall_heron.core.base.constants import GRAVITY
from tall_heron.core.document.acceleration import BodyAcceleration
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.tank_shape import FILLED
from tall_heron.core.physics.slosh import Array
from tall_heron.core.study.cases.moments import Moment, look
from tall_heron.core.study.failures.failure_walk import gross
from tall_heron.core.study.slosh.drive_file import Drive
from tall_heron.core.study.slosh.slosh_run import Flows
from tall_heron.core.study.study import Study

FLOOR_VALVE = 10  # times what is drawn: how fast a pot inside a tank fills through its floor while that is covered
LOOKS = 3  # accelerations along a run at which the rail is solved; between them it goes with the head of the lines, which is straight


def run_tanks(study: Study) -> list[Element]:
    """The tanks that a run can be looked at in: those that are drawn from, not a pot or header that
    another fills.
    """
    tanks = study.build.circuit.of_kind("tank")
    main = [t for t in tanks if t.properties.family not in FILLED]
    return main or tanks


def run_flows(study: Study, tank: Element) -> Flows | None:
    """The flows of a tank at peak, from its right-hand case where it is drawn there alone; None
    where it gives nothing.
    """
    for solved in (study.peak, *(s for key, s in study.solved.items() if key == "peak right")):
        if not solved.solution.converged:
            continue
        drawn, back = gross(solved.solution, tank)
        if drawn <= 0:
            continue
        burnt = study.feed_path.burnt(solved.solution)
        fillers = {p.id for p in study.build.circuit.of_kind("pump")} - {
            p.id for p in study.feed_path.pumps
        }
        pots = [
            t
            for t in study.build.circuit.of_kind("tank")
            if t.properties.family in FILLED and t is not tank
        ]
        if fillers and pots:
            from_pots = [gross(solved.solution, p) for p in pots]
            holds = sum((p.properties.capacity_l or 0.0) / 1000 for p in pots)
            lifted = sum(
                max(link.flow, 0.0)
                for link in solved.solution.links.values()
                if link.element in fillers
            )
            return Flows(
                lifted,
                back,
                burnt,
                study.turns_back,
                holds,
                sum(d for d, _ in from_pots),
                sum(b for _, b in from_pots),
            )
        if tank.properties.pot_l:
            return Flows(
                FLOOR_VALVE * drawn,
                0.0,
                burnt,
                study.turns_back,
                tank.properties.pot_l / 1000,
                drawn,
                back,
            )
        return Flows(drawn, back, min(burnt, drawn), study.turns_back)
    return None


def rail_along(study: Study, run: Drive, at: Array) -> Array | None:
    """The rail's pressure at peak at some times of a run [Pa gauge] while fuel arrives; None where
    it does not solve. The height of the lines ahead of the tank is reckoned as in every moment
    that leans.
    """
    ahead = run.readings[:, 0]
    peak = study.peak.case
    known: list[tuple[float, float]] = []
    for g in (
        np.linspace(float(ahead.min()), float(ahead.max()), LOOKS)
        if np.ptp(ahead) > 0
        else ahead[:1]
    ):
        state = look(study, Moment(peak, "", (), BodyAcceleration(ahead=float(g) * GRAVITY)))
        pressure = (
            study.rail_pressure(state.solved.solution) if state.solved.solution.converged else None
        )
        if pressure is None:
            return None
        known.append((float(g), pressure))
    out: Array = np.interp(
        np.interp(at, run.times, ahead), [g for g, _ in known], [p for _, p in known]
    )
    return out
