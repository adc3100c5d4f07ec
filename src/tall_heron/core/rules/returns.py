"""What goes back to a tank, and what a tank breathes: returns that froth, warm or shut the pumps
in, vents that are blocked.
"""

import math
from collections.abc import Iterator

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.airspace import airspaces
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Air, TankLevel
from tall_heron.core.document.kinds import PIPES
from tall_heron.core.document.path import downstream, ways
from tall_heron.core.document.tank_shape import FILLED
from tall_heron.core.rules.finding import Finding, FindingFigure, Level
from tall_heron.core.rules.rule import Rule, bypasses, elements, has, height
from tall_heron.core.study.failures.shut_off import shut_off_pressures
from tall_heron.core.study.study import Study

AIR_DENSITY = 1.2  # kg/m3 at sea level
VENT_K, VENT_F = 1.5, 0.03  # in and out of a tube, and its friction factor: common practice
ABOVE_MM = 20.0  # over the fuel


def into_the_suction(study: Study) -> Iterator[Finding]:
    """A return that ends before the pumps gives them back what they have warmed and frothed."""
    for regulator in bypasses(study):
        back = downstream(study.build.circuit, regulator)
        pump = next((e for e in back if e.kind == "pump"), None)
        if pump is not None:
            last = next(
                (e for e in back if any(end == ways(pump)[0][0] for _, end in ways(e))), regulator
            )
            why = "Warm, frothed fuel goes round and round, a little hotter each time, until it boils in the pump; and no air leaves it in a tank."
            yield Finding(
                "Check",
                last.id,
                f"{last.id} routes the return into the suction of {pump.id}",
                why,
                "Route the return to the tank.",
            )


def from_above(study: Study) -> Iterator[Finding]:
    """A return that falls through the air froths the fuel under the pickup."""
    tanks = {t.ports["outlet"]: t for t in elements(study, "tank")}
    for regulator in bypasses(study):
        for e in downstream(study.build.circuit, regulator):
            start, end = ways(e)[0]
            tank = tanks.get(end)
            if (
                tank is None
                or e.kind in PIPES
                or tank.properties.family in FILLED
                or e.properties.drop_tube
                or not isinstance(tank.figures, TankLevel)
                or tank.figures.floats
            ):
                continue
            over = height(study, start) - height(study, end) - tank.figures.level_mm / 1000
            if over > ABOVE_MM / 1000:
                figures = {"over": FindingFigure(over, "length")}
                why = "What falls through air takes air along, and the pickup draws the froth; it also charges the fuel."
                title = f"{e.id} lets the return into {tank.id} {{over}} over the fuel"
                yield Finding(
                    "Check",
                    e.id,
                    title,
                    why,
                    "Fit an inlet with a drop tube that ends under the fuel, or lead it in lower.",
                    figures,
                )


def shut_in_by_hand(study: Study) -> Iterator[Finding]:
    """A valve in the return that somebody shuts with the pump running."""
    tops = shut_off_pressures(study) if study.peak.solution.converged else {}
    for regulator in bypasses(study):
        for e in downstream(study.build.circuit, regulator):
            if e.kind not in ("valve", "crossover"):
                continue
            asked = study.asked(study.peak)
            top = max((tops.get(n, 0.0) for n in study.feed_path.nodes), default=0.0)
            figures = {
                "top": FindingFigure(top, "pressure"),
                "asked": FindingFigure(asked, "pressure"),
            }
            level: Level = "Stop" if top > (1 + house_figure("rail_over_stop")) * asked else "Check"
            why = "With the return shut nothing holds the rail: the pumps press all they can into rail, hoses and injectors."
            yield Finding(
                level,
                e.id,
                f"{e.id} can shut the return: the rail then goes to {{top}} instead of {{asked}}",
                why,
                "Take it out. A return is never shut while a pump runs.",
                figures,
            )


def cannot_breathe(study: Study) -> Iterator[Finding]:
    """A vent that is blocked, or too narrow for what leaves the tank."""
    takes_most, holds = house_figure("vent_takes"), house_figure("vent_holds")
    for tank in elements(study, "tank"):
        under = -getattr(tank.figures, "gauge_kpa", 0.0) * 1000
        if under > takes_most:
            yield _stifled(study, tank.id, tank.id, under, holds)
    for tank, vent in zip(
        airspaces(study.build.circuit.elements), elements(study, "vent"), strict=False
    ):
        takes = vent_takes(vent, study.fuel_demand.volume_flow)
        if takes > takes_most:
            yield _stifled(study, vent.id, tank.id, takes, holds)


def vent_takes(vent: Element, flow: float) -> float:
    """What a vent takes [Pa] of the air that comes in for a flow of fuel [m3/s]: (K + f L/D) rho v2
    / 2, Darcy.
    """
    if not isinstance(vent.figures, Air):
        return 0.0
    bore = vent.figures.bore_mm / 1000
    speed = flow / (math.pi / 4 * bore**2)
    along = vent.length.mm / 1000 / bore if vent.length is not None else 0.0
    return (VENT_K + VENT_F * along) * AIR_DENSITY * speed**2 / 2


def _stifled(study: Study, part: str, tank: str, under: float, holds: float) -> Finding:
    level: Level = "Stop" if under > holds else "Check"
    why = "The pump draws the tank empty of air: its inlet comes nearer to boiling, and at last the pump starves or the tank folds."
    title = f"{tank} is {{under}} under atmosphere" + (
        "" if part == tank else f" for what {part} takes of what it breathes"
    )
    return Finding(
        level,
        part,
        title,
        why,
        "Clear its vent, or run a wider one from its top to a safe place outside.",
        {"under": FindingFigure(under, "pressure_difference")},
    )


def _turns_back(study: Study) -> bool:
    return bool(bypasses(study))


RULES = (
    Rule(
        "L-25",
        "The return goes to a tank, not to a pump's inlet.",
        "handbook of layouts; common practice",
        into_the_suction,
        _turns_back,
    ),
    Rule(
        "L-26",
        "The return ends under the fuel.",
        "handbook of findings; common practice",
        from_above,
        _turns_back,
    ),
    Rule(
        "L-27",
        "Every tank breathes what leaves it.",
        "Darcy; 1 kPa, house figure",
        cannot_breathe,
        has("tank"),
    ),
    Rule("L-29", "Nothing can shut the return.", "common practice", shut_in_by_hand, _turns_back),
)
