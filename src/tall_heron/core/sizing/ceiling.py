"""The ceiling of a whole circuit: the largest demand at which every requirement of the brief holds at
peak and at low voltage (docs/model.md, Ladder).

Only the commanded flow is scaled; boost, voltage and parts stay. An allowance of pressure is a
finding, no requirement.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace

from tall_heron.core.base.constants import KPA
from tall_heron.core.base.roots import expanding_root
from tall_heron.core.document.figures import Injectors
from tall_heron.core.document.point import reference_pressure_kpa
from tall_heron.core.hydraulics.compile import injectors_full_flow
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.physics.suction import suction_margin
from tall_heron.core.study.cases.injector_duty import dead_share
from tall_heron.core.study.cases.moments import solved_moments
from tall_heron.core.study.cases.phases import Phase, rail_stop, suction_limits, suction_need
from tall_heron.core.study.demand import allowance, margin
from tall_heron.core.study.inlet import inlet_of
from tall_heron.core.study.study import Solved, Study
from tall_heron.core.study.what_if import WhatIf

LEAST, MOST = 1e-6, 10.0  # times the power wanted: beyond it a part counts as without limit
CLOSE = 2e-4  # of the power, to which ceilings are found
FAR = 0.3  # a requirement this far from its end at one ceiling is not looked at for near ones, but once at the end
SECANTS = 7  # looks before the root is bracketed instead
SUCTION_SCALE = 20e3  # Pa, what a lack of suction is measured in
Strain = float  # what is used of what is allowed, less one: 0 is the limit, above it the requirement does not hold


@dataclass(frozen=True)
class Need:
    """One requirement at one case: in a word what it is, the parts it is about, and its strain at a
    solution of the demand it is asked at.
    """

    what: str  # margin, rail, duty, suction
    case: Solved
    times: float  # of the demand, what it is asked at
    parts: tuple[str, ...]
    strain: Callable[
        [Solution, float], Strain
    ]  # at a solution and the demand commanded there [m3/s]


@dataclass
class Ceiling:
    """The requirements of a study, and the largest multiple of the power wanted at which they hold
    in a circuit; each demand of each circuit is solved once.
    """

    study: Study
    needs: tuple[Need, ...]
    known: dict[tuple[int, str, float], Solution] = field(default_factory=dict)
    asked: dict[int, WhatIf] = field(default_factory=dict)
    slope: float = 1.0  # of the strain over the share of the power, where it was looked at last

    def strains(self, what_if: WhatIf, times: float, needs: tuple[Need, ...]) -> list[Strain]:
        """The strain of each need at a multiple of the power."""
        return [self._strain(what_if, times, need) for need in needs]

    def _strain(self, what_if: WhatIf, times: float, need: Need) -> Strain:
        case = need.case.case
        fuel_demand = case.demand * times * need.times
        solution = self._solution(what_if, case.key, fuel_demand)
        return need.strain(solution, fuel_demand) if solution.converged else math.inf

    def _solution(self, what_if: WhatIf, key: str, fuel_demand: float) -> Solution:
        place = id(what_if), key, fuel_demand
        if place not in self.known:
            self.asked[id(what_if)] = what_if  # held, so that its id stays its own
            self.known[place] = what_if.at(self.study.cases[key].point, fuel_demand)
        return self.known[place]

    def of(
        self, what_if: WhatIf, guess: float = 1.0, needs: tuple[Need, ...] | None = None
    ) -> float:
        """The largest multiple of the power wanted at which all needs hold in a circuit: infinite
        beyond MOST, 0.0 where they never do.
        """
        every = self.needs if needs is None else needs
        if not every:
            return math.inf
        near = [
            n
            for n, s in zip(
                every, self.strains(what_if, min(max(guess, LEAST), MOST), every), strict=True
            )
            if s > -FAR
        ] or list(every)
        root = self._root(what_if, guess, tuple(near))
        if len(near) < len(every) and (
            math.isinf(root)
            or max(self.strains(what_if, min(max(root, LEAST), MOST), every)) > CLOSE
        ):
            root = self._root(what_if, min(root, MOST), every)
        return root

    def _root(self, what_if: WhatIf, guess: float, needs: tuple[Need, ...]) -> float:
        near = self._by_secant(what_if, guess, needs)
        return near if near is not None else self._by_bracket(what_if, guess, needs)

    def _by_secant(self, what_if: WhatIf, guess: float, needs: tuple[Need, ...]) -> float | None:
        """The root from a good guess in three or four looks; None where that does not close in, or
        leads out of what is looked at.
        """

        def over(times: float) -> Strain:
            return max(self.strains(what_if, times, needs))

        at, before = min(max(guess, LEAST), MOST), None
        value = over(at)
        for _ in range(SECANTS):
            if not math.isfinite(value):
                return None
            slope = self.slope / at if before is None else (value - before[1]) / (at - before[0])
            if slope <= 0:
                return None
            step = -value / slope
            if abs(step) > 0.3 * at or not LEAST < at + step < MOST:
                return None
            if abs(step) <= CLOSE / 4 * at:
                return at + step
            before = at, value
            at += step
            value = over(at)
            self.slope = (
                (value - before[1]) / (at - before[0]) * at
                if math.isfinite(value) and value != before[1]
                else self.slope
            )
        return None

    def _by_bracket(self, what_if: WhatIf, guess: float, needs: tuple[Need, ...]) -> float:
        return expanding_root(
            lambda times: max(self.strains(what_if, times, needs)), guess, LEAST, MOST, CLOSE
        )

    def binding(self, what_if: WhatIf, times: float) -> Need:
        """The need that ends it at a ceiling."""
        strains = self.strains(what_if, min(max(times, LEAST), MOST), self.needs)
        return self.needs[strains.index(max(strains))]


def make_ceiling(study: Study) -> Ceiling:
    """The requirements of a study: pumps give the demand with the brief's margin at peak and
    without at low voltage, the rail is not low by what the house marks as a Check, injectors and
    needles keep their duty limit at peak, and every pump's inlet stays above boiling by what it
    needs.
    """
    needs: list[Need] = []
    for key in ("peak", "low voltage"):
        solved = study.solved.get(key)
        if solved is not None:
            needs += [*_delivery(study, solved), *_suction(study, solved)]
    return Ceiling(study, (*needs, *_duty(study, study.peak)))


def make_ceiling_in_cases(study: Study) -> Ceiling:
    """The same in every case besides that has the circuit as it is and is not hidden: both ends of
    a range of blends, the right tank, filters half clogged, hot fuel high up, stages, the builder's
    own; without the brief's margin, which is asked at peak, and held to what is a Stop there: what
    is a Check ends no run. Empty of needs where there is none.
    """
    needs: list[Need] = []
    for key, case in study.solved.items():
        if (
            key not in ("peak", "low voltage")
            and case.case.kind != "idle"
            and case.solution.converged
        ):
            needs += [
                *_delivery(study, case, "load"),
                *_suction(study, case, "load"),
                *(_duty(study, case) if case.case.kind == "peak" else ()),
            ]
    cases, solved = dict(study.cases), dict(study.solved)
    for x in solved_moments(study):
        key = x.moment.case.key
        if (
            key in study.cases
            or x.moment.changes
            or x.moment.acceleration
            or x.solved.case.demand < FULL * study.peak.case.demand
            or not x.solved.solution.converged
        ):
            continue
        cases[key], solved[key] = x.solved.case, x.solved
        needs += [
            *_delivery(x.study, x.solved, x.moment.phase),
            *_suction(x.study, x.solved, x.moment.phase),
        ]
    return Ceiling(replace(study, cases=cases, solved=solved, answers={}), tuple(needs))


FULL = 0.3  # of the demand at peak: a case with less says little of what power there may be


def headroom_required(study: Study, key: str) -> float:
    """The headroom asked over the demand at a case [-]."""
    return margin(study.brief, gravity=not study.feed_path.pumps)[0] if key == "peak" else 0.0


def _delivery(study: Study, solved: Solved, ends: Phase | None = None) -> list[Need]:
    """What pumps give and what the rail holds: to its Check, or to what is a Stop in a phase."""
    key, pumps = solved.case.key, tuple(p.id for p in study.feed_path.pumps)
    bears = rail_stop(study.brief, ends) if ends else allowance(study.brief, "rail_error_check")
    asked, headroom = study.asked(solved), headroom_required(study, solved.case.key)

    def low(solution: Solution, fuel_demand: float) -> Strain:
        return (asked - (study.rail_pressure(solution) or 0.0)) / (bears * asked) - 1

    if not study.tells_surplus:
        return [Need("rail", solved, 1 + headroom, pumps, low)]

    def short(solution: Solution, fuel_demand: float) -> Strain:
        can = study.feed_path.burnt(solution) + study.feed_path.surplus(solution)
        return fuel_demand * (1 + headroom) / can - 1 if can > 0 else math.inf

    return [
        Need("rail", solved, 1.0, (), low),
        Need("margin", study.solved[key], 1.0, pumps, short),
    ]


def _suction(study: Study, solved: Solved, ends: Phase | None = None) -> list[Need]:
    vapor, air = study.boils_at(solved.case.fuel), solved.case.point.atmosphere
    out = []
    for pump in study.build.circuit.of_kind("pump"):
        if pump.id in solved.case.point.off:
            continue
        need = suction_limits(pump, ends)[1] if ends else suction_need(pump)

        def dry(
            solution: Solution, fuel_demand: float, pump: str = pump.id, need: float = need
        ) -> Strain:
            pressure = inlet_of(solution.net.geometry.circuit, pump).pressure(solution)
            return (
                -math.inf
                if pressure is None
                else (need - suction_margin(pressure, air, vapor)) / SUCTION_SCALE
            )

        out.append(Need("suction", solved, 1.0, (pump.id,), dry))
    return out


def _duty(study: Study, solved: Solved) -> list[Need]:
    out = []
    for e in study.feed_path.burners:
        part = e.figures
        if not isinstance(part, Injectors) or part.rated_lph is None:
            continue
        opening = dead_share(study, solved, e)
        share = study.wanted(solved, part) / solved.case.demand

        node, behind = (
            e.ports["start"],
            reference_pressure_kpa(part.into, solved.case.point.manifold_kpa) * KPA,
        )

        def wide(
            solution: Solution,
            fuel_demand: float,
            part: Injectors = part,
            node: str = node,
            behind: float = behind,
            opening: float = opening,
            share: float = share,
        ) -> Strain:
            across = (solution.pressure(node) or 0.0) - behind
            if across <= 0:
                return math.inf
            return (
                fuel_demand * share / injectors_full_flow(part, across, solution.density) + opening
            ) / part.duty_limit - 1

        out.append(Need("duty", solved, 1.0, (e.id,), wide))
    return out
