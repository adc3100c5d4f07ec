"""What only the cases see: dirt, heat, height, lean, stages, failures that nobody notices, pots
that run out, pulses that meet a mode. They solve a build many times over and are looked at
apart from the other rules.
"""

from collections.abc import Callable, Iterator
from dataclasses import replace

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import CELSIUS
from tall_heron.core.document.airspace import ONE_AIR
from tall_heron.core.document.figures import Displacement
from tall_heron.core.document.kinds import FILTERS
from tall_heron.core.document.tank_shape import FILLED
from tall_heron.core.rules.finding import LEVELS, Finding, FindingFigure, Level
from tall_heron.core.rules.rule import Rule, drives, elements, flies, has, rail_word, solves
from tall_heron.core.rules.suction import suction_advice
from tall_heron.core.rules.words import MOST_NAMED, does, named
from tall_heron.core.study.cases.moments import Moment
from tall_heron.core.study.cases.phases import suction_need
from tall_heron.core.study.cases.pulsation import pulsation
from tall_heron.core.study.cases.requirements import (
    Cell,
    Matrix,
    MatrixRow,
    Requirement,
    make_matrix,
)
from tall_heron.core.study.cases.reserves import lasts, warms
from tall_heron.core.study.cases.suction_map import margin_at
from tall_heron.core.study.derived import derived
from tall_heron.core.study.failures.failure_walk import LITTLE, sensor_for, walk
from tall_heron.core.study.study import Study

AT_LEAST = ("spare", "suction")  # columns whose figure must not fall under its limit
STARTS = 0.8  # of its target, with which an injected engine starts, common practice
POWER_BAND = 0.5  # of the speed at peak power, from where a lean hole hurts


@derived("brief", "hydraulics", "wiring", "titles", "cases", "space")
def matrix_of(study: Study) -> Matrix:
    """The matrix of a build, made once."""
    return make_matrix(study)


def _worse(study: Study, rows: list[MatrixRow]) -> Iterator[tuple[MatrixRow, Requirement, Cell]]:
    """Of each requirement the worst of some rows, where it is worse than at peak."""
    matrix = matrix_of(study)
    peak = next((r for r in matrix.rows if r.moment.case.key == "peak"), None)
    order = ["", *reversed(LEVELS[:2])]
    for column in matrix.columns:
        usual = peak.cells.get(column.key) if peak is not None else None
        met = [
            (cell, row)
            for row in rows
            if (cell := row.cells.get(column.key)) is not None and cell.level
        ]
        if met:
            cell, row = max(met, key=lambda x: (order.index(x[0].level), x[0].beyond))
            if order.index(cell.level) > order.index(usual.level if usual is not None else ""):
                yield row, column, cell


def _findings(
    study: Study, rows: list[MatrixRow], do: dict[str, str], also: str
) -> Iterator[Finding]:
    """A finding for each requirement that fails in some rows, and one for those that do not solve."""
    for row, column, cell in _worse(study, rows):
        findings = cell_finding(
            row.moment, column, cell, do.get(column.key, do[""]), rail_word(study)
        )
        yield replace(findings, why=f"{findings.why} {also}".strip())
    for row in rows:
        if row.trouble:
            yield Finding(
                "Stop",
                "",
                f"{row.moment.case.title} does not solve",
                f"{row.trouble}.",
                do[""],
                {},
                row.moment.case.key,
                "cases",
            )


def cell_finding(
    moment: Moment, column: Requirement, cell: Cell, do: str, word: str = "rail"
) -> Finding:
    """A requirement that is missed at a moment, as a finding."""
    figures = {
        "value": FindingFigure(cell.value, column.quantity),
        "limit": FindingFigure(
            cell.beside if column.key == "rail" and cell.beside is not None else cell.limit,
            column.quantity,
        ),
    }
    what = {
        "rail": f"the {word} shows {{value}}, {{limit}} required",
        "spare": "{value} headroom, {limit} required",
        "suction": "{value} vapor margin at the inlet, {limit} required",
    }
    what |= {
        "duty": "open {value} of the time, {limit} allowed",
        "reach": "{value} of the tank is out of reach, {limit} allowed",
        "back": "{value} behind the regulator, {limit} allowed",
    }
    what |= {
        "amps": f"the pumps draw {cell.value:.0f} A, {cell.limit:g} A is what an alternator spares"
    }
    title = f"{moment.case.title}: {what.get(column.key, f'{cell.part}: pressure drop {{value}}, {{limit}} allowed')}"
    level: Level = "Stop" if cell.level == "Stop" else "Check"
    return Finding(
        level,
        cell.part,
        title,
        f"{moment.says[:1].upper()}{moment.says[1:]}.",
        do,
        figures,
        moment.case.key,
        "cases",
    )


def _rows(study: Study, keep: Callable[[MatrixRow], bool]) -> list[MatrixRow]:
    return [r for r in matrix_of(study).rows if keep(r)]


def clogged(study: Study) -> Iterator[Finding]:
    """A filter that is half full of dirt is still in the car; what it takes when new says little."""
    rows = [
        MatrixRow(
            r.moment, {k: c for k, c in r.cells.items() if not k.startswith("drop")}, r.trouble
        )
        for r in _rows(study, lambda r: r.moment.case.key.endswith(" clogged"))
    ]
    do = {
        "": "Fit a larger filter, or change it sooner; a gauge before and one behind it tells when.",
        "suction": "Fit a coarser or larger pre-filter before the pump, and the fine filter behind it.",
    }
    yield from _findings(
        study,
        rows,
        do,
        f"Half of its area clogged drops {house_figure('half_clogged'):g} times as much.",
    )


def hot_and_high(study: Study) -> Iterator[Finding]:
    """Air is thinner than in the brief on the first mountain road, and fuel boils at less."""
    rows = _rows(study, lambda r: r.moment.case.key == "hot and high")
    pump = next((c.part for r in rows if (c := r.cells.get("suction")) is not None), "")
    yield from _findings(
        study,
        rows,
        {
            "": "Ask for less power there, or fit what gives more.",
            "suction": suction_advice(study, pump),
        },
        "",
    )


def accelerated(study: Study) -> Iterator[Finding]:
    """Speeding up lifts the engine over the tank; leaning takes fuel from the outlet."""
    do = {
        "": "Ask for less, or fit a pump that gives more.",
        "reach": "Move the outlet to where fuel runs, fit baffles with doors, foam or a surge tank, or start with more fuel: see it slosh.",
        "suction": "Put the pump where its suction does not run uphill when the vehicle leans.",
    }
    guessed = any(n.ahead_mm is None for n in study.build.circuit.nodes)
    also = (
        "Places along the vehicle are calculated from the lengths of the lines until Route places them: this is a guess."
        if guessed
        else ""
    )
    for findings in _findings(
        study, _rows(study, lambda r: bool(r.moment.acceleration) and not r.moment.own), do, also
    ):
        yield (
            replace(findings, level=LEVELS[LEVELS.index(findings.level) + 1])  # type: ignore[arg-type]
            if guessed
            else findings
        )


def stages(study: Study) -> Iterator[Finding]:
    """What one pump must do alone just before the next comes on."""
    do = {"": "Let the stage come on sooner, or fit a larger first pump."}
    rows = _rows(
        study, lambda r: r.moment.case.key.endswith((" before", " after")) and not r.moment.own
    )
    yield from _findings(study, rows, do, "")


def cranks(study: Study) -> Iterator[Finding]:
    """On the starter a pump on the engine slips most of what it sweeps."""
    turned = [
        e.id for e in study.build.circuit.of_kind("pump") if isinstance(e.figures, Displacement)
    ]
    for row in _rows(study, lambda r: r.moment.phase == "cranking"):
        cell = row.cells.get("rail")
        if cell is not None and cell.beside and cell.value < STARTS * cell.beside:
            yield Finding(
                "Note",
                turned[0],
                f"On the starter the {rail_word(study)} reads {{got}} of {{asked}}",
                f"At {house_figure('crank_rpm'):g} rpm {does(turned, 'slips', 'slip')} about as much as it sweeps.",
                "Prime it for the first start: an electric pump before it, a squeeze bulb, or fuel at the injectors.",
                {
                    "got": FindingFigure(cell.value, "pressure"),
                    "asked": FindingFigure(cell.beside, "pressure"),
                },
                row.moment.case.key,
                "cases",
            )


def own_cases(study: Study) -> Iterator[Finding]:
    """A case that the builder asked for."""
    yield from _findings(
        study,
        _rows(study, lambda r: r.moment.own),
        {"": "Mend what the figure names, or change the case."},
        "Your own case.",
    )


def overrun(study: Study) -> Iterator[Finding]:
    """Off the throttle nothing is burned, and all that the pumps give goes back at the deepest
    vacuum.
    """
    for row in _rows(study, lambda r: r.moment.phase == "overrun"):
        cell = row.cells.get("rail")
        if (
            cell is None
            or cell.beside is None
            or cell.beside <= 0
            or cell.value <= (1 + house_figure("rail_over_stop")) * cell.beside
        ):
            continue
        figures = {
            "over": FindingFigure(cell.value - cell.beside, "pressure_difference"),
            "asked": FindingFigure(cell.beside, "pressure"),
        }
        why = "All that the pumps give goes back then. Nothing is burned, so it harms nothing; the first tip-in after it is rich."
        title = (
            f"Off the throttle the {rail_word(study)} reads {{over}} over its target of {{asked}}"
        )
        yield Finding(
            "Note",
            "",
            title,
            why,
            "Live with it, or fit a larger return.",
            figures,
            row.moment.case.key,
            "cases",
        )


def silent_failures(study: Study) -> Iterator[Finding]:
    """What fails without a sign goes on until the next thing fails."""
    met = [
        o
        for o in walk(study)
        if o.silent and (o.starves or o.spills or o.cut_off) and o.failure.vented
    ]
    if not met:
        return
    lost = any(o.leaks > LITTLE for o in met)
    level: Level = "Note" if not flies(study) else "Stop" if lost else "Check"
    names = [f"{o.failure.part} {o.failure.what}".strip() for o in met]
    more = f", and {len(names) - MOST_NAMED} more" if len(names) > MOST_NAMED else ""
    title = f"{len(names)} single failure{'s' if len(names) > 1 else ''} would show on nothing that is fitted"
    why = (
        f"{'; '.join(names[:MOST_NAMED])}{more}: power, fuel or a tank is lost, and no gauge moves."
    )
    sensor = sensor_for(study.build.circuit, met[0].failure.part) or "a gauge that moves with it"
    yield Finding(
        level,
        met[0].failure.part,
        title,
        why,
        f"The cheapest that would show the first: {sensor}.",
        {},
        "",
        "cases",
    )


def soon_over(study: Study) -> Iterator[Finding]:
    """A valve turned alone, or a regulator stuck, fills a tank that nobody looks at."""
    sheds = (
        {t.id for t in elements(study, "tank") if t.properties.family in FILLED}
        if elements(study, "overflow")
        else set()
    )  # made to run over, into its tank
    sheds |= {
        t.id for t in elements(study, "tank") if t.properties.family in ONE_AIR
    }  # over its hump a half runs into the other
    met = [
        (f.seconds, f, o)
        for o in walk(study)
        for f in o.fills
        if f.tank not in sheds
        and f.seconds is not None
        and f.seconds < house_figure("overflow_soon_s")
    ]
    if met:
        seconds, fills, o = min(met, key=lambda x: x[0] or 0.0)
        title = f"When {o.failure.part} {o.failure.what}, {fills.tank} runs over in {(seconds or 0.0) / 60:.0f} min"
        why = "It gains {gains} more than is drawn from it, from half full on; then fuel leaves by its vent."
        do = "Turn feed and return with one lever, return to the tank that is drawn from, and let its vent discharge where fuel does no harm."
        yield Finding(
            "Check" if flies(study) else "Note",
            o.failure.part,
            title,
            why,
            do,
            {"gains": FindingFigure(fills.flow, "volume_flow")},
            o.failure.key,
            "cases",
        )


def pot_runs_out(study: Study) -> Iterator[Finding]:
    """How long a driver has from the lift pump's last turn."""
    pots = {t.id for t in elements(study, "tank") if t.properties.family in FILLED}
    met = [
        x
        for x in lasts(study)
        if x.tank in pots and x.moment == "Peak" and x.seconds < house_figure("pot_lasts_s")
    ]
    for x in met:
        title = f"{x.tank} lasts {x.seconds:.0f} s at full power {x.why}"
        why = f"{x.liters:.1f} L within reach; {house_figure('pot_lasts_s'):g} s is required."
        yield Finding(
            "Check",
            x.tank,
            title,
            why,
            "Fit a larger surge tank, or return to the surge tank instead of the tank.",
            {},
            "peak",
            "cases",
        )


def warmed_up(study: Study) -> Iterator[Finding]:
    """Fuel that comes back warm, and an inlet that had vapor margin when it was cold."""
    seconds = house_figure("hot_idle_drag_s" if study.brief.use == "drag" else "hot_idle_s")
    idle = next((w for w in warms(study, (seconds,)) if w.moment == "Hot idle"), None)
    rise = idle.rises[0] if idle is not None else None
    clear = study.clear_of_boiling(study.peak)
    if rise is None or clear is None:
        return
    celsius = study.brief.fuel_temperature_c + rise
    then = margin_at(study, celsius, study.brief.altitude_m)
    pump = study.build.circuit.element(clear[1])
    limit = suction_need(pump) if pump is not None else 0.0
    if then is None or then >= limit or clear[0] < limit:
        return
    figures = {
        name: FindingFigure(x, "pressure_difference")
        for name, x in (("then", then), ("now", clear[0]), ("limit", limit))
    } | {
        "hot": FindingFigure(celsius + CELSIUS, "temperature"),
        "rise": FindingFigure(rise, "temperature_difference"),
    }
    title = f"After {seconds / 60:.0f} min of hot idle the inlet of {clear[1]} has {{then}} of vapor margin"
    why = "The tank has warmed by {rise} to {hot}; cold it had {now}, and the pump needs {limit}."
    yield Finding(
        "Check",
        clear[1],
        title,
        why,
        f"Turn a pump down or off at idle, return less, or cool the return. {suction_advice(study, clear[1])}",
        figures,
        "peak",
        "cases",
    )


def pulses(study: Study) -> Iterator[Finding]:
    """A mode in the range of power starves some cylinders at one speed: an indication, never one
    speed.
    """
    p = pulsation(study)
    if p is None or p.has_damper:
        return
    top = p.speeds[1]
    met = [b for b in p.bands if b.rpm[1] > POWER_BAND * top and b.rpm[0] < top]
    if met:
        b = met[0]
        title = f"The injectors' pulses meet mode {b.mode} of the feed somewhere between {_round(b.rpm[0])} and {_round(b.rpm[1])} rpm"
        why = f"{named(p.parts[:MOST_NAMED])} and on ring at {b.hertz[0]:.0f} to {b.hertz[1]:.0f} Hz, by how soft the hoses are; no damper is fitted."
        yield Finding(
            "Note",
            "",
            title,
            why,
            "Fit a damper at the rail, or look at the rail's pressure there with a fast sensor.",
            {},
            "",
            "cases",
        )


def _round(rpm: float) -> str:
    return f"{round(rpm / 100) * 100:,.0f}"


def _has_pot(study: Study) -> bool:
    return solves(study) and any(t.properties.family in FILLED for t in elements(study, "tank"))


def _staged(study: Study) -> bool:
    return any(e.stage is not None for e in elements(study, "pump"))


RULES = (
    Rule(
        "C-01",
        "With any filter half clogged the engine is fed.",
        "arithmetic: half of the area doubles the speed",
        clogged,
        lambda s: solves(s) and has(*FILTERS)(s),
    ),
    Rule(
        "C-02",
        "With the fuel of the brief and thin air the pumps draw fuel, not vapor.",
        "house figure",
        hot_and_high,
        solves,
    ),
    Rule(
        "C-03",
        "Speeding up, braking, cornering, climbing and slipping leave fuel and pressure.",
        "hydrostatics; figures common practice",
        accelerated,
        solves,
    ),
    Rule(
        "C-04",
        "Just before and after each stage the engine is fed.",
        "arithmetic",
        stages,
        lambda s: solves(s) and _staged(s),
    ),
    Rule(
        "C-11",
        "Off the throttle the rail comes down.",
        "common practice; a Note at most",
        overrun,
        solves,
    ),
    Rule(
        "C-12",
        "On the starter a pump on the engine brings pressure to the rail.",
        "arithmetic: slip against what is swept",
        cranks,
        lambda s: (
            solves(s) and any(isinstance(e.figures, Displacement) for e in s.build.circuit.elements)
        ),
    ),
    Rule(
        "C-05",
        "The builder's own cases are within every limit.",
        "the builder",
        own_cases,
        lambda s: solves(s) and bool(s.build.cases),
    ),
    Rule(
        "C-06",
        "Every single failure that costs power or fuel shows on something.",
        "handbook of findings: silent failures",
        silent_failures,
        solves,
    ),
    Rule(
        "C-07",
        f"No failure fills a tank over within {house_figure('overflow_soon_s') / 60:g} min.",
        "house figure",
        soon_over,
        solves,
    ),
    Rule(
        "C-08",
        f"A surge tank or header lasts {house_figure('pot_lasts_s'):g} s at full power once nothing fills it.",
        "house figure",
        pot_runs_out,
        _has_pot,
    ),
    Rule(
        "C-09",
        f"After {house_figure('hot_idle_s') / 60:g} min of hot idle the inlet still has vapor margin.",
        "house figure",
        warmed_up,
        lambda s: solves(s) and drives(s) and s.turns_back,
    ),
    Rule(
        "C-10",
        "The injectors' pulses meet no mode of the feed in the range of power, or a damper takes them.",
        "organ pipe; hoses common practice",
        pulses,
        lambda s: pulsation(s) is not None,
    ),
)
