"""Suction: how far the pump's inlet stays above boiling."""

from collections.abc import Iterator

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Pipe
from tall_heron.core.document.kinds import FILTERS, PIPES
from tall_heron.core.document.mounts import hung_pumps
from tall_heron.core.document.path import downstream, upstream, ways
from tall_heron.core.rules.finding import Finding, FindingFigure, Level
from tall_heron.core.rules.rule import Rule, elements, has, height, solves_with
from tall_heron.core.rules.words import named, pressure_limit
from tall_heron.core.study.cases.phases import suction_limits, suction_need
from tall_heron.core.study.inlet import inlet_of
from tall_heron.core.study.study import Study


def _by_inlet(study: Study) -> list[tuple[Element, str]]:
    """Pumps by the place they draw from: of each place the one that needs most, and the names of
    all.
    """
    places: dict[str, list[Element]] = {}
    for pump in elements(study, "pump"):
        places.setdefault(ways(pump)[0][0], []).append(pump)
    return [
        (max(pumps, key=suction_need), named([p.id for p in pumps])) for pumps in places.values()
    ]


def suction_vapor(study: Study) -> Iterator[Finding]:
    """The inlet of every pump must keep the vapor margin that the pump needs, and should keep a
    little more.
    """
    for pump, names in _by_inlet(study):
        met = [
            (clear, s)
            for s in study.solved.values()
            if (clear := study.inlet_clear(s, pump)) is not None
        ]
        if not met:
            continue
        clear, solved = min(met, key=lambda x: x[0])
        check, stop = suction_limits(pump, "load")
        if clear >= check:
            continue
        level: Level = "Stop" if clear < stop else "Check"
        losses = {
            e.id: solved.solution.links[e.id].loss or 0.0
            for e in upstream(study.build.circuit, pump)
            if e.id in solved.solution.links
        }
        most = max(losses, key=lambda x: losses[x], default=pump.id)
        figures = {
            "clear": FindingFigure(clear, "pressure_difference"),
            "check": FindingFigure(check, "pressure_difference"),
            "stop": FindingFigure(stop, "pressure_difference"),
            "vapor": FindingFigure(study.boils_at(solved.case.fuel), "pressure_absolute"),
            "takes": FindingFigure(losses.get(most, 0.0), "pressure_difference"),
            "temperature": FindingFigure(study.brief.fuel_temperature, "temperature"),
        }
        title = f"The inlet of {names} has only {{clear}} of vapor margin; {{stop}} is required"
        if clear < 0:
            figures["past"] = FindingFigure(-clear, "pressure_difference")
            title = f"The inlet of {names} boils: {{past}} past the vapor pressure"
        elif clear >= stop:
            title = f"The inlet of {names} has only {{clear}} of vapor margin"
        why = (
            f"{solved.case.fuel.name} {'' if solved.case.fuel.antoine else f'of the {study.brief.season} class '}boils at {{vapor}} absolute at {{temperature}}. "
            + (
                f"On the suction side {most} has the largest drop, {{takes}}. "
                if most != pump.id
                else ""
            )
            + "Vapor starves the pump, and a dry pump dies."
        )
        do = suction_advice(study, pump.id)
        if clear + sum(losses.values()) < stop:
            figures["all"] = FindingFigure(sum(losses.values()), "pressure_difference")
            do = "No line or pre-filter clears it: the whole suction side drops only {all}. Cooler fuel, a fuel that boils later or less height does; is {temperature} what the fuel has there?"
        yield Finding(
            level,
            pump.id,
            title,
            why,
            do,
            figures,
            solved.case.key,
            source=f"Rule S-01, Check under {{check}}, Stop under {{stop}}; {study.boiling_law(solved.case.fuel)}",
        )


def suction_advice(study: Study, pump: str) -> str:
    """What helps a pump's inlet, where it stands: one that hangs in its tank is not told to hang
    there.
    """
    hung = any(h.pump.id == pump and h.within for h in hung_pumps(study.build.circuit))
    if hung:
        return "Keep the tank cooler, with less flow back to it or shade from the exhaust, fit a coarser pre-filter, or a pump that needs less at its inlet."
    return "Keep the fuel cooler, put the pump lower or in the tank, fit a shorter or larger suction hose and a coarser pre-filter."


def pump_above_its_tank(study: Study) -> Iterator[Finding]:
    """A pump that must lift its fuel draws air, runs hot and dies; makers say how high it may sit."""
    for pump in elements(study, "pump"):
        start = ways(pump)[0][0]
        tanks = [e for e in upstream(study.build.circuit, pump) if e.kind != "tank"]
        if any(e.kind == "pump" for e in tanks):  # another one feeds it
            continue
        outlets = [
            t.ports["outlet"]
            for t in elements(study, "tank")
            if any(t.ports["outlet"] in e.ports.values() for e in tanks)
            or t.ports["outlet"] == start
        ]
        if not outlets:
            continue
        above = height(study, start) - max(height(study, n) for n in outlets)
        most = pump.properties.inlet_height_max_mm
        limit = most / 1000 if most is not None else house_figure("pump_height")
        if above > limit + 1e-6:
            figures = {
                "above": FindingFigure(above, "length"),
                "limit": FindingFigure(limit, "length"),
            }
            title = f"{pump.id} sits {{above}} above the tank's outlet"
            why = f"{'Its maker allows' if most is not None else 'A pump without a stated limit is allowed'} {{limit}}. It draws air when the level falls."
            yield Finding(
                "Check",
                pump.id,
                title,
                why,
                "Mount it at or below the tank's bottom, or in the tank.",
                figures,
            )


def _suction_side(study: Study) -> dict[str, Element]:
    """What lies between tanks and the first pump that meets the fuel."""
    out: dict[str, Element] = {}
    pumps = elements(study, "pump")
    for pump in pumps:
        before = upstream(study.build.circuit, pump)
        if not any(e.kind == "pump" for e in before):
            out |= {e.id: e for e in before}
    return out


def suction_smaller_than_feed(study: Study) -> Iterator[Finding]:
    """The suction side has only the air's pressure to push with."""
    before = _suction_side(study)
    beyond = [e for pump in elements(study, "pump") for e in downstream(study.build.circuit, pump)]
    after = [e for e in beyond if e.kind in PIPES and e.role == "feed" and e.id not in before]
    for hose in (e for e in before.values() if e.kind in PIPES):
        wide = max((e.figures.bore_mm for e in after if isinstance(e.figures, Pipe)), default=0.0)
        if isinstance(hose.figures, Pipe) and hose.figures.bore_mm < wide * house_figure(
            "suction_width"
        ):
            figures = {
                "bore": FindingFigure(hose.figures.bore_mm / 1000, "length"),
                "feed": FindingFigure(wide / 1000, "length"),
            }
            title = f"{hose.id} is narrower than the feed: {{bore}} against {{feed}}"
            why = "Pressure lost before a pump brings the fuel toward boiling; after it, it only costs pump work."
            yield Finding(
                "Check",
                hose.id,
                title,
                why,
                "Make the suction hose at least as large as the feed.",
                figures,
            )


def bends_at_the_inlet(study: Study) -> Iterator[Finding]:
    """Two right angles before a pump's inlet."""
    for e in _suction_side(study).values():
        bent = [x for x in (e.end_a, e.end_b) if x is not None and x.angle_deg >= 90]
        if len(bent) == 2:
            why = "Each right angle drops as much as half a meter of hose, just where pressure is scarce."
            yield Finding(
                "Check",
                e.id,
                f"{e.id} has two 90° ends on the suction side",
                why,
                "Use straight or 45° ends there.",
            )


def air_trap(study: Study) -> Iterator[Finding]:
    """A filter that is the highest point of the suction line keeps its air."""
    outlets = {t.ports["outlet"] for t in elements(study, "tank")}
    for e in _suction_side(study).values():
        if e.kind not in FILTERS:
            continue
        own = min(height(study, n) for n in e.ports.values())
        line = [e, *upstream(study.build.circuit, e), *downstream(study.build.circuit, e)]
        tanks = [height(study, n) for x in line for n in x.ports.values() if n in outlets]
        inlets = [height(study, ways(p)[0][0]) for p in line if p.kind == "pump"]
        if not tanks or not inlets:
            continue
        over = own - max(*tanks, *inlets)
        if over > house_figure("air_trap_m"):
            why = "Air collects there and comes through in a gulp."
            do = "Put it below the line that follows it, or where it can be bled."
            title = f"{e.id} is the highest point of the suction line, by {{over}}"
            yield Finding("Check", e.id, title, why, do, {"over": FindingFigure(over, "length")})


def suction_side_under_vacuum(study: Study) -> Iterator[Finding]:
    """Depression at a pump's inlet, whatever the fuel."""
    limit = house_figure("suction_depression")
    for pump in elements(study, "pump"):
        inlet = inlet_of(study.build.circuit, pump.id).pressure(study.peak.solution)
        if inlet is not None and inlet < -limit:
            before = upstream(study.build.circuit, pump) or [pump]
            most = max(
                before,
                key=lambda e: getattr(study.peak.solution.links.get(e.id), "loss", 0.0) or 0.0,
            )
            figures = {
                "pull": FindingFigure(-inlet, "pressure"),
                "limit": FindingFigure(limit, "pressure"),
            }
            title = f"{pump.id} pulls {{pull}} below the air at its inlet"
            why = f"Over {{limit}} every connection before it draws air. {most.id} has the largest drop."
            yield Finding(
                "Check",
                pump.id,
                title,
                why,
                "Bring the pump nearer and lower, or fit a larger suction hose.",
                figures,
                "peak",
            )
            break


RULES = (
    Rule(
        "S-01",
        "The pump's inlet keeps its vapor margin in every case.",
        "",
        suction_vapor,
        solves_with("pump"),
    ),
    Rule(
        "S-02",
        "Pumps sit no higher over the tank's outlet than their maker allows.",
        "maker's limit, or level with it",
        pump_above_its_tank,
        has("pump"),
    ),
    Rule(
        "S-03",
        "The suction hose is at least as large as the feed.",
        "common practice",
        suction_smaller_than_feed,
        has(*PIPES),
    ),
    Rule(
        "S-04", "No two 90° ends before a pump.", "common practice", bends_at_the_inlet, has("hose")
    ),
    Rule(
        "S-05",
        "No filter is the highest point of the suction line.",
        "common practice",
        air_trap,
        has("strainer", "filter"),
    ),
    Rule(
        "S-06",
        f"No pump pulls more than {pressure_limit('suction_depression')} below the air.",
        "common practice",
        suction_side_under_vacuum,
        solves_with("pump"),
    ),
)
