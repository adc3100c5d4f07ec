"""What is asked of a build in each of its moments: a figure, its limit, how much of it is left, and
how bad it is.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.kinds import FILTERS
from tall_heron.core.document.tank_shape import FILLED
from tall_heron.core.hydraulics.vessel import make_tank
from tall_heron.core.physics.slosh import slopes
from tall_heron.core.study.cases.injector_duty import doses
from tall_heron.core.study.cases.moments import Moment, SolvedMoment, look, moments, solved_moments
from tall_heron.core.study.cases.phases import (
    bowl_carries,
    rail_level,
    rail_room,
    rail_under,
    suction_limits,
)
from tall_heron.core.study.cases.tank_heat import pump_current
from tall_heron.core.study.delivery import pump_doubt, turns_back
from tall_heron.core.study.demand import allowance
from tall_heron.core.study.failures.failure_walk import net_flow
from tall_heron.core.study.study import Solved, Study

Level = Literal["", "Check", "Stop"]


@dataclass(frozen=True)
class Cell:
    """One figure in one moment, in SI: its `value` and `limit`, what is `left` of the room to the
    limit [0 to 1], its level, and the part it is read at. `beside` is a second figure shown
    small, such as what was asked.
    """

    value: float
    limit: float
    left: float
    level: Level
    part: str = ""
    beside: float | None = None

    @property
    def beyond(self) -> float:
        """By how many times its limit a figure that fails stands beyond it [-], that of a rail from
        what was asked; 0.0 where it does not fail.
        """
        return (
            abs(self.value - (self.limit if self.beside is None else self.beside))
            / (abs(self.limit) or 1.0)
            if self.level
            else 0.0
        )


@dataclass(frozen=True)
class Requirement:
    """A column: its key, its title, what the limit says, and the quantity of its figures."""

    key: str
    title: str
    asks: str
    quantity: str


@dataclass(frozen=True)
class MatrixRow:
    """A moment with its cells by requirement, None where a requirement does not apply; `trouble`
    says why a moment does not solve.
    """

    moment: Moment
    cells: dict[str, Cell | None]
    trouble: str = ""

    @property
    def worst(self) -> Level:
        """The worst level in it."""
        levels = {c.level for c in self.cells.values() if c is not None} | (
            {"Stop"} if self.trouble else set()
        )
        return "Stop" if "Stop" in levels else "Check" if "Check" in levels else ""


@dataclass(frozen=True)
class Matrix:
    """Moments down, requirements across."""

    columns: tuple[Requirement, ...]
    rows: tuple[MatrixRow, ...]

    @property
    def passed(self) -> int:
        """How many moments are within every limit."""
        return sum(not r.worst for r in self.rows)

    @property
    def worst(self) -> tuple[MatrixRow, Requirement | None] | None:
        """The moment that fails worst, and in what; the one with the least left where none fails;
        None without moments.
        """
        if not self.rows:
            return None

        def rank(ranked: tuple[MatrixRow, Requirement | None]) -> tuple[int, float]:
            row, column = ranked
            cell = row.cells[column.key] if column is not None else None
            if cell is None:
                return 0, -1.0
            return int(cell.level != "Stop"), cell.left - cell.beyond

        every: list[tuple[MatrixRow, Requirement | None]] = [
            (r, c) for r in self.rows for c in self.columns if r.cells.get(c.key) is not None
        ]
        every += [(r, None) for r in self.rows if r.trouble]
        return min(every, key=rank, default=None)


Read = Callable[[Study, Solved, Moment], Cell | None]


def _least(
    value: float, limit: float, stop: float, part: str = "", full: float | None = None
) -> Cell:
    """A figure that must not fall under its limit; under `stop` it is one. `full` is where nothing
    is lacking.
    """
    left = min(max((value - limit) / ((full or 2 * limit or 1.0) - limit or 1.0), 0.0), 1.0)
    return Cell(
        value, limit, left, "Stop" if value < stop else "Check" if value < limit else "", part
    )


def _most(value: float, limit: float, stop: float | None = None, part: str = "") -> Cell:
    """A figure that must not go beyond its limit; beyond `stop` it is one."""
    level: Level = "Stop" if stop is not None and value > stop else "Check" if value > limit else ""
    return Cell(
        value, limit, min(max((limit - value) / limit, 0.0), 1.0) if limit > 0 else 0.0, level, part
    )


def _rail(study: Study, solved: Solved, moment: Moment) -> Cell | None:
    error = study.rail_error(solved)
    if error is None or error[1] <= 0 or bowl_carries(study.brief, moment.phase):
        return None
    off, asked = error
    off -= min(max(off, 0.0), sprung(study, solved))
    phase = moment.phase
    has_rail = study.feed_path.pumps and not (
        study.brief.carbureted and not study.build.circuit.of_kind("regulator")
    )
    share = (
        off if has_rail else min(off, 0.0)
    ) / asked  # what falls by height may stand higher, and so may what a pump's own spring sets
    check = (
        allowance(study.brief, "rail_over_check") if share > 0 else rail_under(study.brief, phase)
    )
    return Cell(
        asked + off,
        check * asked,
        min(max(1 - rail_room(study.brief, share, phase), 0.0), 1.0),
        rail_level(study.brief, share, phase),
        beside=asked,
    )


def sprung(study: Study, solved: Solved) -> float:
    """What pumps with a spring do not add to the pressure that comes to them [Pa]: such a one gives
    its own or lets through what is more.
    """
    out = 0.0
    for pump in study.build.circuit.of_kind("pump"):
        link = solved.solution.links.get(pump.id)
        before = solved.solution.nodes.get(link.start) if link is not None else None
        if (
            pump.properties.passes_stopped
            and link is not None
            and link.loss is not None
            and before is not None
        ):
            out += min(max(before, 0.0), max(-link.loss, 0.0))
    return out


def _headroom(study: Study, solved: Solved, moment: Moment) -> Cell | None:
    headroom = (
        study.headroom(solved)
        if solved.case.margin is not None
        and not (study.brief.carbureted and moment.phase == "moment")
        else None
    )  # what comes to the bowl then says enough
    if headroom is None:
        return None
    limit = solved.case.margin or 0.0
    return _least(headroom, max(limit, pump_doubt(study.feed_path.pumps)), 0.0, full=1.0)


def _suction(study: Study, solved: Solved, moment: Moment) -> Cell | None:
    met = [
        (clear, *suction_limits(p, moment.phase), p.id)
        for p in study.build.circuit.of_kind("pump")
        if (clear := study.inlet_clear(solved, p)) is not None
    ]
    if not met:
        return None
    clear, check, stop, pump = min(met, key=lambda x: x[0] - x[1])
    return _least(clear, check, stop, pump, full=check + FULL_SUCTION)


FULL_SUCTION = 20e3  # Pa over what is asked, where nothing is lacking


def _filter(element_id: str) -> Read:
    def drop(study: Study, solved: Solved, moment: Moment) -> Cell | None:
        if moment.phase in ("overrun", "cranking"):
            return None  # for a moment and with nothing burnt it is no matter
        return _most(
            max(study.friction(solved, element_id), 0.0),
            allowance(study.brief, "filter_allowance"),
            part=element_id,
        )

    return drop


def _back(study: Study, solved: Solved, moment: Moment) -> Cell | None:
    if moment.acceleration or moment.phase in ("overrun", "cranking"):
        return None  # its effect on the rail is what counts then
    behind = [
        (p, e.id)
        for e in study.build.circuit.of_kind("regulator")
        if turns_back(e) and (p := solved.solution.nodes.get(e.ports["end"])) is not None
    ]
    return (
        _most(max(behind)[0], house_figure("return_back_pressure"), part=max(behind)[1])
        if behind
        else None
    )


def _duty(study: Study, solved: Solved, moment: Moment) -> Cell | None:
    if bowl_carries(study.brief, moment.phase):
        return None
    met = [(d.duty, d.element) for d in doses(study, solved)]
    if not met:
        return None
    duty, element = max(met, key=lambda x: x[0])
    return _most(duty, element.figures.duty_limit, 1.0, element.id)  # type: ignore[union-attr]


def _current(study: Study, solved: Solved, _: Moment) -> Cell | None:
    amps = pump_current(solved)
    alternator = study.build.wiring.alternator_said if study.build.wiring is not None else None
    most = house_figure("alternator_usual") if alternator is None else alternator
    return (
        _most(amps, most if study.brief.use != "drag" else max(most, amps)) if amps else None
    )  # a car on a strip is charged between its runs


def _reach(study: Study, solved: Solved, moment: Moment) -> Cell | None:
    """The share of a tank that its outlet does not reach, of the tank drawn from that strands most.
    Over a moment foam, baffles, a sump or a pot inside hold what the outlet needs, and a tank that
    has none of them is a finding of its own; with the throttle shut nothing is burnt.
    """
    if moment.phase in ("moment", "overrun") or moment.case.key.startswith("slip"):
        return None
    along, across = slopes(*moment.acceleration.readings)
    drawn = [
        t
        for t in study.build.circuit.of_kind("tank")
        if net_flow(study.build.circuit, t.id, solved.solution) < 0
        and t.properties.family not in FILLED
    ]
    met = [
        (shape.out_of_reach(along, across) / shape.holds, t.id)
        for t in drawn
        if (shape := make_tank(t.properties)) is not None
    ]
    if not met:
        return None
    share, tank = max(met)
    return _most(
        share,
        house_figure("tank_out_of_reach_leaning" if moment.acceleration else "tank_out_of_reach"),
        part=tank,
    )


def requirements(study: Study) -> list[tuple[Requirement, Read]]:
    """The columns of a build, each with how its cells are read."""
    out: list[tuple[Requirement, Read]] = [
        (
            Requirement("rail", "Bowl" if study.brief.carbureted else "Rail", "asked", "pressure"),
            _rail,
        )
    ]
    if study.feed_path.pumps:
        out.append((Requirement("spare", "Headroom", "over the demand", "fraction"), _headroom))
        out.append(
            (
                Requirement("suction", "Vapor margin", "at the pump inlet", "pressure_difference"),
                _suction,
            )
        )
    out += [
        (Requirement(f"drop {e.id}", e.id, "drops", "pressure_difference"), _filter(e.id))
        for e in study.build.circuit.of_kind(*FILTERS)
        if e.kind == "filter"
    ]
    if any(turns_back(e) for e in study.build.circuit.of_kind("regulator")):
        out.append((Requirement("back", "Return", "behind the regulator", "pressure"), _back))
    out.append(
        (
            Requirement(
                "duty", "Needles" if study.brief.carbureted else "Injectors", "open", "fraction"
            ),
            _duty,
        )
    )
    out.append((Requirement("amps", "Pumps", "current", "current"), _current))
    out.append((Requirement("reach", "Tank", "out of reach", "fraction"), _reach))
    return out


def make_matrix(study: Study, only: Callable[[Moment], bool] | None = None) -> Matrix:
    """Every moment of a build, or `only` some that are then solved alone, against every
    requirement, those left out that apply nowhere.
    """
    columns = requirements(study)
    looked = (
        solved_moments(study)
        if only is None
        else [
            look(study, m)
            for m in moments(study)
            if only(m) and m.case.key not in study.build.hidden_cases
        ]
    )
    rows = [_row(x, columns) for x in looked]
    used = [c for c, _ in columns if any(r.cells.get(c.key) is not None for r in rows)]
    return Matrix(tuple(used), tuple(rows))


def _row(x: SolvedMoment, columns: list[tuple[Requirement, Read]]) -> MatrixRow:
    solved = x.solved
    if not solved.solution.converged:
        return MatrixRow(
            x.moment,
            {c.key: None for c, _ in columns},
            f"{solved.solution.part}: {solved.solution.reason}",
        )
    return MatrixRow(x.moment, {c.key: read(x.study, solved, x.moment) for c, read in columns})
