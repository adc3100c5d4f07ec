"""What sizes must hold: one look at a choice asks the requirements of some moments, and those rules
that sizes decide, by how much each is missed.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from tall_heron.core.physics.fuel import boils_at
from tall_heron.core.rules import CASE_RULES, RULES
from tall_heron.core.rules.cases import cell_finding, matrix_of
from tall_heron.core.rules.finding import AGAINST, Finding, FindingFigure
from tall_heron.core.study.cases.moments import Moment, look
from tall_heron.core.study.cases.phases import CLOGGED, bowl_carries, rail_under
from tall_heron.core.study.cases.requirements import Cell, Requirement, requirements
from tall_heron.core.study.delivery import pump_doubt
from tall_heron.core.study.demand import allowance
from tall_heron.core.study.failures.pump_out import ALL_LEFT, stopped
from tall_heron.core.study.study import Solved, Study

# Rules that sizes decide beside the requirements of the cases, and the figures of their findings
# that say by how much: what is met, and its limit.
BESIDE = {
    "P-04": None,
    "P-07": ("differ", "limit"),
    "P-08": ("takes", "limit"),
    "P-10": ("works", "rated"),
    "P-15": ("falls", "needed"),
    "P-19": ("stands", "most"),
    "P-21": ("takes", "limit"),
    "S-03": ("bore", "feed"),
    "S-06": ("pull", "limit"),
    "H-02": ("meets", "bears"),
    "L-10": ("lifts", "loses"),
    "L-11": ("takes", "limit"),
    "L-17": ("moves", "needs"),
    "L-19": None,
}
# What may mend a requirement, or what a rule finds: kinds of groups.
MENDERS: dict[str, tuple[str, ...]] = {
    "spare": ("pump", "boost pump", "feed", "legs", "filter", "regulator", "suction"),
    "rail": (
        "feed",
        "legs",
        "filter",
        "regulator",
        "return",
        "pump",
        "boost pump",
        "injectors",
        "carburettor",
    ),
    "back": ("return", "regulator", "pump"),
    "suction": ("suction", "strainer", "lift suction"),
    "duty": ("injectors", "carburettor"),
    "drop": ("filter",),
    "solve": ("pump", "boost pump", "feed", "suction", "regulator", "jet"),
    "P-04": ("regulator", "return", "pump"),
    "P-07": ("legs", "feed"),
    "P-08": ("feed", "legs"),
    "P-10": ("pump", "boost pump", "lift pump", "feed"),
    "P-15": ("suction", "feed", "strainer", "carburettor"),
    "P-19": ("pump", "boost pump", "regulator"),
    "P-21": ("feed", "legs"),
    "S-03": ("suction",),
    "S-06": ("suction", "strainer"),
    "H-02": ("filter", "feed", "pump"),
    "L-08": ("pump", "boost pump", "feed", "filter"),
    "L-10": ("lift pump", "lift", "lift suction"),
    "L-11": ("overflow", "lift pump"),
    "L-17": ("jet", "return", "jet suction", "pump"),
    "L-19": ("header fill", "suction", "strainer"),
}
LOOKS = [r for r in RULES if r.id in BESIDE]
NOT_SIZED = ("reach", "amps")  # requirements that sizes of parts do not decide
MOST_MISSED = 2.0  # times a limit: further off is no worse
WEIGHTS = {"Stop": 4.0, "Check": 1.0}
IN_HAND = 0.95  # of what may go back or stand over a rail, what sizes use of it
AT_ALL = 0.25  # of a weight, for missing a limit at all


@dataclass(frozen=True)
class Lack:
    """One requirement that a choice misses: the finding it is, and by what share of its limit."""

    finding: Finding
    by: float

    @property
    def key(self) -> tuple[str, str, str]:
        """What it is known by: rule or requirement, part, case."""
        return self.finding.rule, self.finding.element_id, self.finding.case

    @property
    def menders(self) -> tuple[str, ...]:
        """The kinds of groups that may mend it."""
        return MENDERS.get(self.finding.rule.partition(" ")[0], ())

    @property
    def weight(self) -> float:
        """How much it counts against a choice."""
        return WEIGHTS[self.finding.level] * (AT_ALL + min(self.by, MOST_MISSED))


def lacks(study: Study, moments: Sequence[Moment]) -> list[Lack]:
    """What a study misses at some moments."""
    if not study.peak.solution.converged:
        solution = study.peak.solution
        return [
            Lack(
                Finding(
                    "Stop",
                    solution.part or "",
                    "Peak does not solve",
                    solution.reason or "",
                    "",
                    rule="solve",
                    case="peak",
                ),
                10 * MOST_MISSED,
            )
        ]
    return worst_of([*of_moments(study, moments), *_of_rules(study), *_one_pump_out(study)])


def worst_of(lacking: Sequence[Lack]) -> list[Lack]:
    """Of what a part lacks in several cases the worst: one lack is no worse for being looked at
    often.
    """
    worst: dict[tuple[str, str], Lack] = {}
    for x in lacking:
        key = x.finding.rule, x.finding.element_id
        if key not in worst or x.weight > worst[key].weight:
            worst[key] = x
    return list(worst.values())


def of_moments(study: Study, moments: Sequence[Moment]) -> Iterator[Lack]:
    """What a study misses of the requirements of some moments."""
    columns = [(c, read) for c, read in requirements(study) if c.key not in NOT_SIZED]
    for moment in moments:
        x = look(study, moment)
        if not x.solved.solution.converged:
            yield _unsolved(moment, x.solved.solution.part or "", x.solved.solution.reason or "")
            continue
        for column, read in columns:
            if column.key == "spare" and not study.tells_surplus:
                yield from _with_margin(x.study, x.solved, moment)
            elif (cell := read(x.study, x.solved, moment)) is not None:
                yield from _of_cell(study, moment, column, cell)


def of_matrix(study: Study) -> Iterator[Lack]:
    """What a study misses in any case that is not hidden and has the circuit as it is: failures are
    no case that sizes hold.
    """
    matrix = matrix_of(study)
    for row in matrix.rows:
        if row.moment.changes:
            continue
        if row.trouble:
            part, _, reason = row.trouble.partition(": ")
            yield _unsolved(row.moment, part, reason)
        for column in matrix.columns:
            cell = row.cells.get(column.key)
            if cell is not None and column.key not in NOT_SIZED:
                yield from _of_cell(study, row.moment, column, cell)


def _unsolved(moment: Moment, part: str, reason: str) -> Lack:
    return Lack(
        Finding(
            "Stop",
            part,
            f"{moment.case.title} does not solve",
            reason,
            "",
            rule="solve",
            case=moment.case.key,
        ),
        MOST_MISSED,
    )


def _of_cell(study: Study, moment: Moment, column: Requirement, cell: Cell) -> Iterator[Lack]:
    if not cell.level and _close(study, column, moment, cell):
        cell = replace(cell, level="Check")
    if not cell.level or (column.key.startswith("drop ") and moment.case.key.endswith(CLOGGED)):
        return  # dirt is what the moment is about
    if column.key == "suction":
        there = study.brief.model_copy(
            update={"fuel_temperature_c": moment.case.point.temperature_c}
        )
        boils = boils_at(moment.case.fuel, there.season, there.fuel_temperature)
        room = moment.case.point.atmosphere - boils
        if room < cell.limit and (cell.level == "Check" or room < 0):
            return  # it boils so near there that no size clears it: then that it does not boil is all that is asked
    yield Lack(replace(cell_finding(moment, column, cell, ""), rule=column.key), _missed(cell))


def _close(study: Study, column: Requirement, moment: Moment, cell: Cell) -> bool:
    """Whether what goes back stands so near its limit that pumps on good wires, half a volt more
    than the house takes from them, would push it over.
    """
    if moment.phase != "light" or column.key not in ("back", "rail"):
        return False
    over = cell.value - cell.beside if cell.beside is not None else cell.value
    limit = (
        allowance(study.brief, "rail_over_check") * cell.beside
        if cell.beside is not None
        else cell.limit
    )
    return over > IN_HAND * limit


def _missed(cell: Cell) -> float:
    """By what share of its limit a figure misses it."""
    if cell.beside is not None:  # a rail: its limit is how far it may be off
        return abs(abs(cell.value - cell.beside) - cell.limit) / max(cell.beside, 1.0) * 10
    return abs(cell.value - cell.limit) / max(abs(cell.limit), 1e-9)


def _with_margin(study: Study, solved: Solved, moment: Moment) -> Iterator[Lack]:
    """Where pumps give just what is burnt: whether the rail holds when that much more is burnt, in
    one solution instead of the search for the largest demand.
    """
    asked, margin = study.asked(solved), solved.case.margin
    if margin is None or solved.case.demand <= 0 or bowl_carries(study.brief, moment.phase):
        return
    wanted = max(margin, pump_doubt(study.feed_path.pumps))
    solution = study.what_if.unlimited.at(solved.case.point, solved.case.demand * (1 + wanted))
    least = (1 - rail_under(study.brief, moment.phase)) * asked
    rail = study.rail_pressure(solution) if solution.converged else None
    if rail is None or rail < least:
        by = MOST_MISSED if rail is None else (least - rail) / max(asked, 1.0) * 10
        figures = {"limit": FindingFigure(wanted, "fraction")}
        pumps = study.feed_path.pumps or study.feed_path.tanks
        yield Lack(
            Finding(
                "Check",
                pumps[0].id if pumps else "",
                f"{moment.case.title}: less than {{limit}} headroom",
                "",
                "",
                figures,
                moment.case.key,
                rule="spare",
            ),
            by,
        )


def _of_rules(study: Study) -> Iterator[Lack]:
    for rule in LOOKS:
        if rule.applies(study):
            for f in rule.look(study):
                if f.level in AGAINST:
                    yield Lack(replace(f, rule=rule.id), _by(rule.id, f))


def _by(rule: str, f: Finding) -> float:
    """By what share the figure of a finding misses its limit."""
    names = BESIDE[rule]
    if names is None or any(n not in f.figures for n in names):
        return AT_ALL
    value, limit = (f.figures[n].value for n in names)
    return abs(value - limit) / max(abs(limit), 1e-9)


def _one_pump_out(study: Study) -> Iterator[Lack]:
    """An aircraft's engine on all pumps but one, in one solution for each."""
    if study.brief.use != "flight" or not study.feed_path.pumps:
        return
    peak = study.peak
    least = (1 - allowance(study.brief, "rail_error_check")) * study.asked(peak)
    for pump in study.build.circuit.of_kind("pump"):
        if pump.id in peak.case.point.off:
            continue
        solution = study.what_if.unlimited.changed(stopped(pump)).at(
            peak.case.point, peak.case.demand * ALL_LEFT
        )
        rail = study.rail_pressure(solution) if solution.converged else None
        if rail is None or rail < least:
            by = MOST_MISSED if rail is None else (least - rail) / max(study.asked(peak), 1.0)
            yield Lack(
                Finding(
                    "Check",
                    pump.id,
                    f"Less than all of the power is left when {pump.id} stops",
                    "",
                    "",
                    {},
                    "peak",
                    rule="L-08",
                ),
                by,
            )


CASE_LOOKS = [r for r in CASE_RULES if r.id in ("C-01", "C-02", "C-03", "C-04", "C-05")]


def in_cases(study: Study) -> list[Finding]:
    """The Stops and Checks of the rules that read the cases and that sizes decide, the reach of
    tanks apart.
    """
    lacking = [
        replace(f, rule=rule.id)
        for rule in CASE_LOOKS
        if rule.applies(study)
        for f in rule.look(study)
    ]
    return [f for f in lacking if f.level in AGAINST]
