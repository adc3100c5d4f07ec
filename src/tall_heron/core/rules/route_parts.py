"""Where parts stand and how lines end on them: joints in the cabin, vents' ends, pumps over tanks,
reach, slack to what moves, ends that foul, lengths that should be equal or were measured.
"""

import math
from collections.abc import Iterator

import numpy as np

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.acceleration import BodyAcceleration
from tall_heron.core.document.airspace import airspaces
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.kinds import BURNERS
from tall_heron.core.document.mounts import hung_pumps
from tall_heron.core.document.path import reach, upstream
from tall_heron.core.document.space import Zone
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.routing.assembly import body_of
from tall_heron.core.routing.clearance import distance, vector
from tall_heron.core.routing.limits import HARD
from tall_heron.core.routing.vectors import Vector, size, subtract_vectors
from tall_heron.core.rules.finding import Finding, FindingFigure, Level
from tall_heron.core.rules.route import drawn_lines, laid_of, line_finding, lines_of, mm
from tall_heron.core.rules.rule import Rule, elements, flies, has
from tall_heron.core.rules.words import length_limit, named
from tall_heron.core.study.study import Study

VENT_RISE_MM = 60.0  # a vent over its tank's top: house rule
VENT_HEAT_MM = 150.0
OVER_OUTLET_MM = 150.0  # a pump's inlet over its tank's outlet, as it leans
FILLER_RISE_MM = 12.0
FOUL_GAP = 4.0  # mm clear between two ends
MEASURED_OFF = 25.0  # mm between a measured length and the drawn one
SETTLED = (
    "vent_valve",
    "selector",
    "valve",
    "crossover",
)  # parts that belong where a pilot reaches them


def _inside(zone: Zone, at: Vector) -> bool:
    return bool(distance(zone, np.array([at]))[0] < 0)


def parts_in_cabin(study: Study) -> list[tuple[str, Vector, bool]]:
    """Parts with joints that stand in the cabin, where, and whether somebody put them there; valves
    that a pilot reaches for belong there.
    """
    laid = laid_of(study)
    cabins = [z for z in laid.outline.zones if z.kind == "cabin"]
    met = []
    for e, at, _, _ in laid.stands.boxes():
        if (
            e.kind != "tank"
            and not (flies(study) and e.kind in SETTLED)
            and any(_inside(z, at) for z in cabins)
        ):
            met.append((e.id, at, laid.stands.standing[laid.stands.home[e.id]].typed))
    return met


def joints_in_cabin(study: Study) -> Iterator[Finding]:
    """A connection that weeps in the cabin burns the people in it."""
    met = [m for m in parts_in_cabin(study) if m[2]]
    if met:
        level: Level = "Check" if flies(study) else "Stop"
        title = f"{named([m[0] for m in met])} {'stands' if len(met) == 1 else 'stand'} in the cabin with {'its' if len(met) == 1 else 'their'} connections"
        why, do = (
            "Every connection weeps one day, and fuel in the cabin burns people.",
            "Put it outside, or box it in with a drain to the outside.",
        )
        yield Finding(level, met[0][0], title, why, do, {}, station="route", spot=met[0][1])


def vent_ends(study: Study) -> Iterator[Finding]:
    """A vent that nowhere rises over its tank lets fuel out; one that ends by something hot lights
    it.
    """
    laid = laid_of(study)
    airs = airspaces(study.build.circuit.elements) or elements(study, "tank")
    vents = [x for x in lines_of(study) if x.element.role == "vent" and x.element.kind == "vent"]
    for i, x in enumerate(vents):
        if not x.drawn:
            continue
        tank = airs[min(i, len(airs) - 1)]
        stands = laid.stands.standing[laid.stands.home[tank.id]]
        top = stands.place.at[2] + body_of(tank).high
        crest = float(x.path.points[:, 2].max())
        end = x.run.other.port.seat
        above = _tank_above(study, tank)
        if above is not None and crest < (
            over := laid.stands.standing[laid.stands.home[above.id]].place.at[2]
            + body_of(above).high
        ):
            why = f"{tank.id} is full under {above.id}: fuel rises in its vent as high as its level there, and pours out where the vent ends lower."
            title = f"{x.element.id} ends its rise {{under}} under the top of {above.id}"
            yield line_finding(
                x,
                "Stop",
                title,
                why,
                f"Route it up over the top of {above.id}, or join it to the air there.",
                {"under": mm(over - crest)},
                end,
            )
        elif crest < top + VENT_RISE_MM:
            yield line_finding(
                x,
                "Check",
                f"{x.element.id} nowhere rises over {tank.id}",
                "A full tank on a slope runs out through it.",
                "Route it up over the tank's top before it goes down.",
                {},
                end,
            )
        for zone in laid.outline.zones:
            if zone.kind == "hot" and float(distance(zone, np.array([end]))[0]) < VENT_HEAT_MM:
                yield line_finding(
                    x,
                    "Stop",
                    f"{x.element.id} ends {{far}} from the {zone.title or zone.name}",
                    "What it breathes out burns.",
                    "Let it end away from heat and sparks.",
                    {"far": mm(max(float(distance(zone, np.array([end]))[0]), 0.0))},
                    end,
                )


def _tank_above(study: Study, tank: Element) -> Element | None:
    """The tank that a header falls full from; None for any other tank."""
    if not getattr(tank.figures, "floats", False):
        return None
    outlets = {t.ports["outlet"]: t for t in elements(study, "tank")}
    before = [
        n
        for e in reach(study.build.circuit, tank.ports["outlet"], backward=True)
        for n in e.ports.values()
    ]
    return next((outlets[n] for n in before if n in outlets and n != tank.ports["outlet"]), None)


def fillers(study: Study) -> Iterator[Finding]:
    """A filler that does not fall all the way spits back; one without a vent of its own fills by
    glugs.
    """
    vents = elements(study, "vent")
    for x in drawn_lines(study):
        if x.element.kind != "filler":
            continue
        z = x.path.points[:, 2]  # from the tank up to the cap
        rise = float((np.maximum.accumulate(z) - z).max())
        if rise > FILLER_RISE_MM:
            i = int((np.maximum.accumulate(z) - z).argmax())
            yield line_finding(
                x,
                "Check",
                f"{x.element.id} does not fall all the way to the tank: it holds {{rise}} of fuel",
                "Fuel in the dip spits back when the tank is filled.",
                "Let it fall all the way.",
                {"rise": mm(rise)},
                vector(x.path.points[i]),
            )
        if not vents:
            yield line_finding(
                x,
                "Check",
                f"{x.element.id} fills a tank that has no vent",
                "Air must leave as fuel comes in, or it comes back up the hose.",
                "Add a vent line.",
                {},
                vector(x.path.points[0]),
            )


def pump_over_outlet(study: Study) -> Iterator[Finding]:
    """How far a pump must lift as the vehicle stands, climbs or descends."""
    laid = laid_of(study)
    nodes = laid.stands.nodes(study.build.circuit)
    hung = {h.pump.id for h in hung_pumps(study.build.circuit)}
    tanks = [t for t in elements(study, "tank") if t.ports["outlet"] in nodes]
    for pump in elements(study, "pump"):
        here = nodes.get(pump.ports["start"])
        if (
            not _placed(study, pump.id)
            or pump.id in hung
            or here is None
            or not tanks
            or any(e.kind == "pump" for e in upstream(study.build.circuit, pump))
        ):
            continue  # what another pump feeds draws nothing up
        outlet = min(
            (nodes[t.ports["outlet"]] for t in tanks), key=lambda p: size(subtract_vectors(p, here))
        )
        far = subtract_vectors(here, outlet)
        worst = max(
            (
                (acceleration.height(far[0], -far[1], far[2]), words)
                for words, acceleration in _accelerations(study)
            ),
            key=lambda x: x[0],
        )
        if worst[0] > OVER_OUTLET_MM:
            title = f"{pump.id} draws {{lift}} uphill {worst[1]}"
            why = "A pump pushes; what it must lift it loses from its suction, and fuel boils there first."
            yield Finding(
                "Check",
                pump.id,
                title,
                why,
                "Put it lower and nearer to the tank, or hang it in the tank.",
                {"lift": mm(worst[0])},
                station="route",
                spot=here,
            )


def _accelerations(study: Study) -> list[tuple[str, BodyAcceleration]]:
    """How it stands for longer than a moment: what a corner or a launch asks of a suction is looked
    at with the cases.
    """
    rest = [("at rest", BodyAcceleration())]
    if flies(study):
        return [
            *rest,
            ("in a climb", BodyAcceleration(pitch=math.radians(house_figure("climb_deg")))),
            ("in a descent", BodyAcceleration(pitch=-math.radians(house_figure("descent_deg")))),
        ]
    return rest


def out_of_reach(study: Study) -> Iterator[Finding]:
    """What must be changed or set must be reached, with room for a tool."""
    laid = laid_of(study)
    boxes = laid.stands.boxes()
    for e, at, body, _ in boxes:
        if (
            not _placed(study, e.id)
            or not body.reach
            or laid.stands.home[e.id] in {t.id for t in elements(study, "tank")}
        ):
            continue
        closed = next(
            (z for z in laid.outline.zones if z.kind in ("obstacle", "moving") and _inside(z, at)),
            None,
        )
        if closed is not None:
            yield _part(
                e.id,
                at,
                f"{e.id} stands within the {closed.title or closed.name}",
                "Nobody reaches it there.",
                "Put it where a hand and a tool reach it.",
            )
            continue
        room = min(
            (
                (_gap(at, body, other, b), o)
                for o, other, b, _ in boxes
                if o.id != e.id and laid.stands.home[o.id] != laid.stands.home[e.id]
            ),
            key=lambda x: x[0],
            default=None,
        )
        if room is not None and room[0] < min(body.tool, 40.0):
            yield _part(
                e.id,
                at,
                f"{e.id} has {{room}} to {room[1].id}",
                "A wrench needs more to turn.",
                "Move one of them.",
                {"room": mm(max(room[0], 0.0))},
            )


def _gap(a: Vector, one: object, b: Vector, other: object) -> float:
    """Clear between two upright boxes, turned to the nearest quarter, by their larger plan sides
    [mm]; below 0 where they overlap.
    """
    halves = [max(getattr(one, k) + getattr(other, k), 0.0) / 2 for k in ("long", "wide", "high")]
    return max(abs(a[i] - b[i]) - halves[i] for i in range(3))


def _part(
    name: str,
    at: Vector,
    title: str,
    why: str,
    do: str,
    figures: dict[str, FindingFigure] | None = None,
) -> Finding:
    return Finding("Check", name, title, why, do, figures or {}, station="route", spot=at)


def _placed(study: Study, name: str) -> bool:
    """Whether somebody said where a part stands."""
    laid = laid_of(study)
    return name in laid.stands.home and laid.stands.standing[laid.stands.home[name]].typed


def slack(study: Study) -> Iterator[Finding]:
    """An engine rocks on its mounts: what leads to it from the body must give."""
    laid = laid_of(study)
    least = house_figure("route_slack")
    rocks = {
        home for e in elements(study, "rail", *BURNERS) if (home := laid.stands.home.get(e.id))
    }
    for x in drawn_lines(study):
        ends = [laid.stands.home.get(_part_at(study, n), "") for n in x.element.ports.values()]
        if sum(h in rocks for h in ends) != 1 or x.trouble:
            continue
        straight = size(subtract_vectors(x.run.points[-1], x.run.points[0]))
        extra = x.run.center_line / max(straight, 1.0) - 1
        spot = x.run.points[0] if ends[0] in rocks else x.run.points[-1]
        if x.element.properties.family in HARD:
            yield line_finding(
                x,
                "Check",
                f"{x.element.id} is a hard line to an engine that moves",
                "The engine rocks on its mounts and the line cracks at its flare.",
                "Make its last stretch a hose.",
                {},
                spot,
            )
        elif extra < least:
            yield line_finding(
                x,
                "Check",
                f"{x.element.id} has {100 * extra:.1f} % of slack to an engine that moves",
                f"{100 * least:g} % is required: the engine rocks on its mounts and pulls at the ends.",
                "Give it a bend.",
                {},
                spot,
                "AC 43.13-1B, slack of hoses 5 to 8 %, from memory",
            )


def _part_at(study: Study, node: str) -> str:
    laid = laid_of(study)
    return next(
        (
            e.id
            for s in laid.stands.standing.values()
            for e in s.assembly.parts
            if node in e.ports.values()
        ),
        "",
    )


def fouled_ends(study: Study) -> Iterator[Finding]:
    """Two ends that want the same place cannot both be tightened."""
    ends = [
        (x, i, end.port.seat, end.socket)
        for x in drawn_lines(study)
        if not x.trouble
        for i, end in enumerate((x.run.one, x.run.other))
    ]
    for k, (x, _, _, socket) in enumerate(ends):
        for y, _, _, other in ends[k + 1 :]:
            gap = size(subtract_vectors(socket, other)) - x.outside - y.outside
            if x is not y and gap < FOUL_GAP:
                yield line_finding(
                    x,
                    "Check",
                    f"The ends of {x.element.id} and {y.element.id} foul each other",
                    "They want the same place, so neither can be tightened.",
                    "Turn one of them, or fit an end of another angle.",
                    {},
                    socket,
                )


def unequal(study: Study) -> Iterator[Finding]:
    """Lines that should be equally long, and what the difference does."""
    laid = laid_of(study)
    for name, ids in study.build.space.groups.items():
        met = [laid.lines[i] for i in ids if i in laid.lines]
        if len(met) < 2:
            continue
        ordered = sorted(met, key=lambda x: x.length)
        off = ordered[-1].length - ordered[0].length
        solution: Solution = study.peak.solution
        takes = (
            [study.friction(study.peak, x.element.id) for x in (ordered[0], ordered[-1])]
            if solution.converged
            else [0.0, 0.0]
        )
        rail = study.rail_pressure(solution) if solution.converged else None
        base = study.brief.base
        acceleration = (
            ""
            if rail is None or base <= 0
            else f", {0.5 * abs(takes[1] - takes[0]) / base:.3f} of lambda at the worst cylinder"
        )  # flow goes with the root of the pressure across an injector
        if off > 1.0:
            yield line_finding(
                ordered[-1],
                "Note",
                f"{name}: {ordered[-1].element.id} is {{off}} longer than {ordered[0].element.id}",
                f"At peak that is {{psi}} between them{acceleration}.",
                "Make them equal, or live with it.",
                {
                    "off": mm(off),
                    "psi": FindingFigure(abs(takes[1] - takes[0]), "pressure_difference"),
                },
                ordered[-1].path.at(ordered[-1].length / 2),
            )


def measured_otherwise(study: Study) -> Iterator[Finding]:
    """What was measured or typed stands over the drawing; a large difference says that one of them
    is wrong.
    """
    for x in drawn_lines(study):
        length = x.element.length
        if (
            length is not None
            and length.source in ("typed", "measured")
            and abs(length.mm - x.length) > max(MEASURED_OFF, 0.03 * x.length)
        ):
            figures = {"said": mm(length.mm), "drawn": mm(x.length)}
            yield line_finding(
                x,
                "Note",
                f"{x.element.id} is {{said}} as {length.source}; drawn it would be {{drawn}}",
                "What was typed or measured stands.",
                "Draw it as it lies, or let the drawn length stand.",
                figures,
                x.path.at(float(x.path.along[-1]) / 2),
            )


RULES = (
    Rule(
        "R-18",
        "No connection is in the cabin.",
        "handbook of findings; common practice",
        joints_in_cabin,
        lambda s: any(z.kind == "cabin" for z in laid_of(s).outline.zones),
    ),
    Rule(
        "R-19",
        "Vents rise over their tank and end away from heat.",
        "handbook of findings; common practice",
        vent_ends,
        lambda s: any(x.element.kind == "vent" for x in drawn_lines(s)),
    ),
    Rule(
        "R-20",
        f"No pump draws more than {length_limit(OVER_OUTLET_MM)} uphill as the vehicle stands, climbs or descends.",
        "hydrostatics; the figure is ours",
        pump_over_outlet,
        has("pump"),
    ),
    Rule(
        "R-21",
        "Filters, regulators and valves can be reached, with room for a tool.",
        "common practice",
        out_of_reach,
        has("filter", "regulator", "selector"),
    ),
    Rule(
        "R-22",
        "Lines to the engine have slack.",
        "AC 43.13-1B, from memory",
        slack,
        lambda s: bool(drawn_lines(s)),
    ),
    Rule(
        "R-23",
        "No two ends foul each other.",
        "arithmetic",
        fouled_ends,
        lambda s: bool(drawn_lines(s)),
    ),
    Rule(
        "R-24",
        "Lines meant to be equal are equal.",
        "arithmetic",
        unequal,
        lambda s: bool(s.build.space.groups),
    ),
    Rule(
        "R-25",
        "Measured lengths agree with the drawing.",
        "common practice",
        measured_otherwise,
        lambda s: bool(drawn_lines(s)),
    ),
    Rule(
        "R-27",
        "Fillers fall all the way to their tank, and it has a vent.",
        "common practice",
        fillers,
        has("filler"),
    ),
)
