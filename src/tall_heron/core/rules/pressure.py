"""Pressure and flow: pump margin, rail pressure, the return."""

from collections.abc import Iterator

from tall_heron.core.catalogue import by_name, house_figure
from tall_heron.core.engine import margin
from tall_heron.core.finding import Figure, Finding, Level
from tall_heron.core.path import downstream
from tall_heron.core.study import Solved, Study


def pump_margin(study: Study) -> Iterator[Finding]:
    """Pumps must deliver the burn and the margin at peak, and at least the burn at low voltage."""
    asked_margin, source = margin(study.brief)
    pumps = study.build.circuit.of_kind("pump")
    names = " ".join(p.id for p in pumps)
    for solved, limit in ((study.solved["peak"], asked_margin), (study.solved["low voltage"], 0.0)):
        if not solved.solution.converged or not pumps or solved.case.demand <= 0:
            continue
        deliver = study.pumps_deliver(solved)
        spare = deliver / solved.case.demand - 1
        error = study.rail_error(solved)
        sags = error is not None and error[0] < -0.01 * error[1] and all(s == "shut" for s in _bypasses(study, solved))
        if spare >= limit and not sags:
            continue
        short = spare < 0 or sags
        level: Level = "Stop" if short else "Check"
        voltage = solved.case.point.voltage_at(pumps[0].id) or 0.0
        figures = {
            "spare": Figure(spare, "fraction"),
            "limit": Figure(limit, "fraction"),
            "deliver": Figure(deliver, "volume_flow"),
            "burn": Figure(solved.case.demand, "volume_flow"),
            "voltage": Figure(voltage, "voltage"),
        }
        if short and error is not None:
            figures["sag"] = Figure(max(-error[0], 0.0), "pressure")
            title = f"{names} cannot keep up at {solved.case.title.lower()}: the rail sags {{sag}}"
            why = "At {voltage} the pumps give {deliver} and the engine asks {burn}. Low rail pressure leans the engine under full load."
        else:
            title = f"{names} have {{spare}} to spare over the burn at {solved.case.title.lower()}; {{limit}} is asked"
            why = "At {voltage} the pumps give {deliver}, the engine burns {burn}. Worn pumps, a loaded filter and hot fuel eat the rest."
        do = "Fit a larger pump or a second one, raise the voltage at the pump, or ask for less power or pressure."
        yield Finding("P-01", level, pumps[0].id, title, why, do, f"House rule P-01; margin: {source}", figures, solved.case.key)


def _bypasses(study: Study, solved: Solved) -> list[str]:
    out = []
    for e in study.build.circuit.of_kind("regulator"):
        if getattr(e.part, "holds", "") == "inlet" and (link := solved.solution.links.get(e.id)):
            out.append(link.state)
    return out


def return_too_small(study: Study) -> Iterator[Finding]:
    """At idle nearly the whole pump flow goes back: a bypass regulator that stands wide open there cannot hold base."""
    solved = study.solved["idle"]
    error = study.rail_error(solved)
    if error is None or not solved.solution.converged:
        return
    off, asked = error
    check, stop = house_figure("rail_error_check"), house_figure("rail_error_stop")
    for regulator in study.build.circuit.of_kind("regulator"):
        link = solved.solution.links.get(regulator.id)
        if link is None or link.state != "wide open" or off < check * asked:
            continue
        back = [e for e in downstream(study.build.circuit, regulator) if e.id in solved.solution.links]
        losses = {e.id: solved.solution.links[e.id].loss or 0.0 for e in back} | {regulator.id: link.loss or 0.0}
        worst = max(losses, key=lambda x: losses[x])
        figures = {
            "high": Figure(off, "pressure"),
            "share": Figure(off / asked, "fraction"),
            "limit": Figure(check, "fraction"),
            "flow": Figure(link.flow, "volume_flow"),
            "takes": Figure(losses[worst], "pressure"),
        }
        level: Level = "Stop" if off > stop * asked else "Check"
        title = f"{regulator.id} cannot hold base at idle: the rail stands {{high}} high"
        why = f"The return carries {{flow}} at idle with the regulator wide open, and {worst} takes {{takes}} of it."
        do = f"Fit a larger return, a larger regulator seat, or straighter ends; start with {worst}."
        source = f"House rule P-02: {by_name('house_figures')['rail_error_check']['source']} of 2 % and 5 %"
        yield Finding("P-02", level, worst, title, why, do, source, figures, solved.case.key)


RULES = (pump_margin, return_too_small)
