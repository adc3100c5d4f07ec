"""What pumps have as headroom: too little, and far too much."""

from collections.abc import Iterator
from dataclasses import replace

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import KPA
from tall_heron.core.rules import words
from tall_heron.core.rules.finding import Finding, FindingFigure, Level
from tall_heron.core.rules.rule import Rule, bypasses, drives, elements, solves, solves_with
from tall_heron.core.rules.words import does, named
from tall_heron.core.study.cases.phases import rail_level
from tall_heron.core.study.cases.tank_heat import pump_current, tank_heat
from tall_heron.core.study.delivery import pump_doubt
from tall_heron.core.study.demand import margin
from tall_heron.core.study.study import Study, tapped


def pump_margin(study: Study) -> Iterator[Finding]:
    """Pumps wear, filters load and voltage drops: what is spare today is needed later."""
    source = margin(study.brief)[1]
    pumps = study.feed_path.pumps
    if not pumps:
        return
    names = [p.id for p in pumps]
    met: list[Finding] = []
    for solved in study.solved.values():
        limit = solved.case.margin
        if limit is None:
            continue
        headroom = study.headroom(solved) if solved.solution.converged else None
        if headroom is None:
            continue
        error = study.rail_error(solved)
        states = [
            solved.solution.links[r.id].state
            for r in bypasses(study)
            if r.id in solved.solution.links
        ]
        sags = (
            bool(states)
            and error is not None
            and rail_level(study.brief, error[0] / error[1], "load") == "Stop"
            and all(s == "shut" for s in states)
        )
        doubt = pump_doubt(pumps)
        if headroom >= max(limit, doubt) and not sags:
            continue
        short = headroom < 0 or sags
        figures = {
            "limit": FindingFigure(max(limit, doubt), "fraction"),
            "deliver": FindingFigure(study.capacity(solved), "volume_flow"),
            "burn": FindingFigure(solved.case.demand, "volume_flow"),
            "voltage": FindingFigure(solved.solution.voltage(pumps[0].id) or 0.0, "voltage"),
        }
        if short and error is not None and (sags or error[0] < 0):
            figures["sag"] = FindingFigure(max(-error[0], 0.0), "pressure")
            title = f"{named(names)} cannot keep up at {solved.case.title.lower()}: {'the pressure at the bowl' if study.brief.carbureted else 'the rail'} sags {{sag}}"
            why = "At {voltage} the pumps can feed {deliver} and the demand is {burn}. Low rail pressure leans the engine under full load."
        else:
            asks = (
                "{limit} headroom is required"
                if limit >= doubt
                else "a pump's sheet is good to {limit}"
            )
            title = f"{words.headroom(names, headroom, 'the demand', figures)} at {solved.case.title.lower()}; {asks}"
            why = "At {voltage} the pumps can feed {deliver} and the demand is {burn}. Worn pumps, a loaded filter and hot fuel eat the rest."
        if tapped(study.build.circuit, solved.solution):
            why = why.replace(
                "have {deliver}", "have {deliver} beside what the auxiliary tap takes"
            )
        do = "Fit a larger pump or a second one, raise the voltage at the pump as far as its maker allows, or lower the power or pressure."
        level: Level = "Stop" if short else "Check"
        met.append(
            Finding(
                level,
                pumps[0].id,
                title,
                why,
                do,
                figures,
                solved.case.key,
                source=f"Rule P-01; margin: {source}",
            )
        )
    if met:  # one pump that is short is short in more than one case: the worst says it
        worst = min(met, key=lambda f: (f.level != "Stop", _left(f)))
        others = [study.solved[f.case].case.title.lower() for f in met if f is not worst]
        yield replace(
            worst, why=f"{worst.why} So it is at {named(others)}." if others else worst.why
        )


def _left(short_finding: Finding) -> float:
    """What is left over the demand, or below 0 what is short of it [-]."""
    deliver, fuel_demand = (
        short_finding.figures["deliver"].value,
        short_finding.figures["burn"].value,
    )
    return deliver / fuel_demand if fuel_demand > 0 else 0.0


def gross_excess(study: Study) -> Iterator[Finding]:
    """What pumps give beyond any need goes round and warms the fuel."""
    most, headroom = house_figure("spare_gross"), study.headroom(study.peak)
    later = study.brief.later_power
    over = (
        None
        if headroom is None
        else (1 + headroom) * study.brief.power / study.brief.most_power - 1
    )
    if over is None or over <= most or not study.tells_surplus:
        return
    pumps = [p.id for p in study.feed_path.pumps]
    heat = tank_heat(study)
    figures = {
        "over": FindingFigure(over, "fraction"),
        "most": FindingFigure(most, "fraction"),
        "warms": FindingFigure(heat.rise, "temperature_difference"),
    }
    title = f"{does(pumps, 'gives', 'give')} {{over}} more than {'even later power' if later else 'the engine'} demands at peak"
    why = f"Beyond {{most}} the rest only goes round: {pump_current(study.peak):.0f} A, a larger return, and a tank that warms by {{warms}} in an hour of idling."
    yield Finding(
        "Note",
        pumps[0],
        title,
        why,
        "Fit a smaller pump, stage one, or leave it where more power is to come.",
        figures,
        "peak",
    )


def never_on(study: Study) -> Iterator[Finding]:
    """A stage that no case reaches is a pump that is carried along."""
    for pump in elements(study, "pump"):
        if pump.stage is None or not all(
            pump.id in solved.case.point.off for solved in study.solved.values()
        ):
            continue
        figures = {
            "at": FindingFigure(
                pump.stage.at * (KPA if pump.stage.by == "boost" else 1.0),
                "pressure" if pump.stage.by == "boost" else "fraction",
            )
        }
        at = {"boost": "{at} of boost", "speed": f"{pump.stage.at:g} rpm", "duty": "{at} of duty"}[
            pump.stage.by
        ]
        unboosted = pump.stage.by == "boost" and not study.brief.boosted
        why = (
            "The brief has no boost: it never runs."
            if unboosted
            else "No case of the brief gets there: it never runs."
        )
        yield Finding(
            "Check",
            pump.id,
            f"{pump.id} waits for {at}",
            why,
            "Let it run always, by a speed, by duty or by a switch, or leave it out.",
            figures,
        )


RULES = (
    Rule(
        "P-01",
        "Pump flow meets the demand with its headroom at peak, and the demand at low voltage.",
        "margin of the brief",
        pump_margin,
        solves_with("pump"),
    ),
    Rule(
        "P-18",
        "Every staged pump comes on in some case.",
        "common practice",
        never_on,
        lambda s: any(e.stage is not None for e in elements(s, "pump")),
    ),
    Rule(
        "P-17",
        f"Pumps give no more than {100 * house_figure('spare_gross'):g} % over the demand.",
        "house figure",
        gross_excess,
        lambda s: solves(s) and bool(s.feed_path.pumps) and drives(s),
    ),
)
