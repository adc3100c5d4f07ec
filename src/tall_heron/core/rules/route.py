"""Where lines run: bends, clearances, supports, traps, panels. Each looks at a build laid out in
its vehicle, and only at what somebody drew or placed there: a finding about a guess is no finding.
"""

import math
from collections.abc import Iterator

import numpy as np

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.routing.clearance import crossings, stretches, surely_beyond, vector
from tall_heron.core.routing.laid import Laid, LaidLine, lay_out, least_radius, spacing
from tall_heron.core.routing.limits import FUEL, MOST_KEPT_MM, limit_for, near_zone, own_end
from tall_heron.core.routing.vectors import Vector
from tall_heron.core.rules.finding import Finding, FindingFigure, Level
from tall_heron.core.rules.rule import Rule, flies
from tall_heron.core.rules.words import listed, named
from tall_heron.core.study.derived import derived
from tall_heron.core.study.study import Study

STOP_BEND = 0.8  # of a hose's least bend: it kinks
UNDER_MM = 5.0  # under the lowest part of a car
TRAP_MM = 12.0  # a rise or a dip that holds air or liquid
COVERED_GAP = 60.0  # mm bare of a stretch that counts as protected


@derived("brief", "hydraulics", "titles", "clocks", "wiring", "space", "shop", "texts")
def laid_of(study: Study) -> Laid:
    """A study's build in its vehicle, laid out once."""
    return lay_out(study.build)


def lines_of(study: Study) -> list[LaidLine]:
    """The lines that are led through the vehicle."""
    return [x for x in laid_of(study).lines.values() if not x.inside]


def drawn_lines(study: Study) -> list[LaidLine]:
    """Those of them that somebody drew."""
    return [x for x in lines_of(study) if x.drawn]


def line_finding(
    line: LaidLine,
    level: Level,
    title: str,
    why: str,
    do: str,
    figures: dict[str, FindingFigure],
    spot: Vector | None,
    source: str = "",
) -> Finding:
    """A finding on a line."""
    return Finding(
        level, line.element.id, title, why, do, figures, station="route", spot=spot, source=source
    )


def mm(value: float) -> FindingFigure:
    """A length of so many millimeters."""
    return FindingFigure(value / 1000, "length")


def tight_bends(study: Study) -> Iterator[Finding]:
    """A hose bent tighter than it may be flattens or kinks; a tube cracks."""
    for x in drawn_lines(study):
        least = least_radius(x.element)
        if x.run.bends and x.radius < least - 0.05:
            worst = max(x.run.bends, key=lambda b: b.angle)
            level: Level = "Stop" if x.radius < STOP_BEND * least else "Check"
            yield line_finding(
                x,
                level,
                f"{x.element.id} is bent by {{radius}}; {{least}} is the least",
                "Bent tighter a hose flattens and kinks, and a tube cracks.",
                "Bend it by more, or lead it round a wider corner.",
                {"radius": mm(x.radius), "least": mm(least)},
                worst.at,
            )


def no_room(study: Study) -> Iterator[Finding]:
    """A corner whose bend does not fit between its neighbors."""
    for x in drawn_lines(study):
        bad = [b for b in x.run.bends if not b.fits]
        if bad:
            yield line_finding(
                x,
                "Check",
                f"{x.element.id} has no room for {'a bend' if len(bad) == 1 else f'{len(bad)} bends'} of {{radius}}",
                "The straights beside it are too short for its arc; it is drawn with {drawn}, and its length counts that.",
                "Move the corner away from its neighbor, take one out, or fit an end with an angle.",
                {"radius": mm(x.radius), "drawn": mm(min(b.radius for b in bad))},
                bad[0].at,
            )
        if x.trouble:
            yield line_finding(
                x,
                "Check",
                f"{x.element.id} cannot be drawn",
                f"{x.trouble[:1].upper()}{x.trouble[1:]}.",
                "Move one of its ends or take out a corner.",
                {},
                x.run.points[0],
            )


def kinked_ends(study: Study) -> Iterator[Finding]:
    """A hose leaves its end straight; a bend right at the socket works it loose."""
    limit = house_figure("route_kink_deg")
    for x in drawn_lines(study):
        if x.trouble:
            continue
        worst = max(range(2), key=lambda i: x.run.kinks[i])
        degrees = math.degrees(x.run.kinks[worst])
        if degrees > limit:
            spot = x.run.points[0] if worst == 0 else x.run.points[-1]
            yield line_finding(
                x,
                "Check",
                f"{x.element.id} bends by {degrees:.0f}° right where it leaves end {'AB'[worst]}",
                f"Over {limit:g}° the socket is levered at; leave it straight for a little.",
                "Move the nearest corner in front of the end, or fit an end with that angle.",
                {},
                spot,
            )


def twisted(study: Study) -> Iterator[Finding]:
    """A clocking angle that is not the drawn one twists the hose over its length."""
    limit = house_figure("route_twist_deg_m")
    for x in drawn_lines(study):
        e, clock = x.element, x.run.clock
        if (
            clock is None
            or e.clock_deg is None
            or e.clock_source in ("assumed", "outline", "route")
        ):
            continue
        off = (e.clock_deg - math.degrees(clock) + 180) % 360 - 180
        turn = abs(off) / max(x.length / 1000, 1e-3)
        if turn > limit:
            yield line_finding(
                x,
                "Check",
                f"{e.id} is twisted by {turn:.0f}° a meter",
                f"Its clocking angle is {e.clock_deg:g}° as {e.clock_source}; as drawn it would lie untwisted at {math.degrees(clock):.0f}°. A twisted hose works its ends loose.",
                "Clock it as drawn, or draw it as it lies.",
                {},
                x.path.at(float(x.path.along[-1]) / 2),
            )


WORDS = {
    "hot": (
        "Heat boils the fuel in it and ages the hose.",
        "Route it further away, or sleeve it there or put a heat shield between.",
    ),
    "moving": ("What moves there cuts it through in time.", "Route it clear of all of its travel."),
    "battery": ("A leak beside it meets sparks.", "Route it lower or further away."),
    "wiring": (
        "A chafed wire beside it sparks; wires lie over fuel lines, never under.",
        "Route it under and away from the wires, or clamp both.",
    ),
    "brake": (
        "Two lines that rub wear through, and one of them stops the car.",
        "Route it further away, or put separators between.",
    ),
    "hands": ("Hands and feet catch it there.", "Route it out of reach, or cover it."),
    "obstacle": ("It chafes where it touches.", "Route it clear, or sleeve it where it may touch."),
}


def near_to(study: Study, kind: str) -> Iterator[Finding]:
    """Lines that come nearer to zones of a kind than they may; one finding for each line and zone."""
    laid = laid_of(study)
    for x in drawn_lines(study):
        for zone in laid.outline.zones:
            if zone.kind != kind or surely_beyond(zone, x.path, MOST_KEPT_MM + x.outside):
                continue
            near = near_zone(x, zone, laid.outline.flies)
            if near is None or not near.short or own_end(x, near):
                continue
            title = (
                f"{x.element.id} passes {{clear}} from the {zone.title or zone.name}"
                if near.clear > 0
                else f"{x.element.id} goes through the {zone.title or zone.name}"
            )
            why, do = WORDS[kind]
            level: Level = "Stop" if near.limit.level == "Stop" else "Check"
            yield line_finding(
                x,
                level,
                title,
                f"{{limit}} is required. {why}",
                do,
                {"clear": mm(max(near.clear, 0.0)), "limit": mm(near.limit.mm)},
                near.at,
                near.limit.source[:1].upper() + near.limit.source[1:],
            )


def beside_heat(study: Study) -> list[tuple[str, str, float, float | None, bool]]:
    """Stretches of fuel lines that pass something hot within what a bare hose should keep: the
    line, what is hot, how long the stretch is [mm], how hot [degC], and whether somebody drew the
    line.
    """
    laid = laid_of(study)
    out = []
    for x in lines_of(study):
        for zone in laid.outline.zones:
            if (
                x.element.role not in FUEL
                or zone.kind != "hot"
                or limit_for(x.element, zone, laid.outline.flies) is None
                or surely_beyond(zone, x.path, MOST_KEPT_MM + x.outside)
            ):
                continue
            long = sum(b - a for a, b in stretches(zone, x.path, MOST_KEPT_MM + x.outside))
            if long > 0:
                out.append(
                    (x.element.id, zone.title or zone.name, long, zone.temperature_c, x.drawn)
                )
    return sorted(out, key=lambda s: -s[2])


def unguarded(study: Study, kind: str, what: str, do: str) -> Iterator[Finding]:
    """Stretches within a zone of a kind that nothing protects: one finding for all lines."""
    laid = laid_of(study)
    met: list[tuple[float, LaidLine, Vector]] = []
    for x in drawn_lines(study):
        for zone in laid.outline.zones:
            if zone.kind != kind or limit_for(x.element, zone, laid.outline.flies) is None:
                continue
            for a, b in stretches(zone, x.path, 0.0):
                bare = (
                    b
                    - a
                    - sum(
                        max(0.0, min(b, g.to_mm) - max(a, g.from_mm))
                        for g in x.route.guards
                        if limit_for(x.element, zone, laid.outline.flies, (g.kind,)) is None
                    )
                )
                if bare > COVERED_GAP:
                    met.append((bare, x, x.path.at((a + b) / 2)))
    if met:
        worst = max(met, key=lambda m: m[0])
        names = list(dict.fromkeys(x.element.id for _, x, _ in met))
        total = sum(m[0] for m in met)
        yield line_finding(
            worst[1],
            "Check",
            f"{named(names)} {'runs' if len(names) == 1 else 'run'} {{total}} {what}",
            "Stones, curbs and ramps reach it there.",
            do,
            {"total": FindingFigure(total / 1000, "run")},
            worst[2],
        )


def unsupported(study: Study) -> Iterator[Finding]:
    """A line that hangs swings, chafes and tires."""
    for x in drawn_lines(study):
        at = [0.0, *x.clamps, float(x.path.along[-1])]
        gaps = np.diff(at)
        most = spacing(x.element)
        i = int(gaps.argmax())
        if gaps[i] > most + 0.5:
            middle = (at[i] + at[i + 1]) / 2
            yield line_finding(
                x,
                "Check",
                f"{x.element.id} hangs {{gap}} without a clamp; {{most}} is the most",
                "A line that hangs swings, chafes and tires.",
                "Clamp it at about {clamp}.",
                {"gap": mm(float(gaps[i])), "most": mm(most), "clamp": mm(float(middle))},
                x.path.at(middle),
                "AC 43.13-1B, supports of fluid lines, from memory",
            )


def air_trap(study: Study) -> Iterator[Finding]:
    """A crest on the suction side keeps the air that lets a pump run dry."""
    for x in drawn_lines(study):
        if x.element.role != "suction":
            continue
        z = x.path.points[:, 2]
        i = int(z.argmax())
        rise = float(z[i] - max(z[0], z[-1]))
        if rise > TRAP_MM:
            yield line_finding(
                x,
                "Check",
                f"{x.element.id} rises {{rise}} over both its ends before the pump",
                "Air gathers in the crest, and the pump loses its prime there.",
                "Let it fall all the way to the pump, or hang the pump in the tank.",
                {"rise": mm(rise)},
                vector(x.path.points[i]),
            )


def liquid_trap(study: Study) -> Iterator[Finding]:
    """A dip in a vent fills with fuel and closes it."""
    for x in drawn_lines(study):
        if x.element.kind != "vent":
            continue
        z = x.path.points[:, 2]
        dips = np.minimum(np.maximum.accumulate(z), np.maximum.accumulate(z[::-1])[::-1]) - z
        i = int(dips.argmax())
        if dips[i] > TRAP_MM:
            yield line_finding(
                x,
                "Check",
                f"{x.element.id} dips by {{dip}} along its route",
                "Fuel and water collect in the dip and close the vent.",
                "Let it rise or fall all the way.",
                {"dip": mm(float(dips[i]))},
                vector(x.path.points[i]),
            )


def through_panels(study: Study) -> Iterator[Finding]:
    """A line through a bare hole is sawn through by its edge."""
    laid = laid_of(study)
    for x in drawn_lines(study):
        for panel in laid.outline.panels:
            if panel.name in x.route.grommets:
                continue
            met = [
                (s, at) for s, at in crossings(panel, x.path) if 2 < s < float(x.path.along[-1]) - 2
            ]
            if met:
                do = (
                    "Join it there with a bulkhead fitting, or route it through a grommet: both are chosen here."
                    if x.element.ports
                    else "Route it through a grommet: that is chosen here."
                )
                title, why = (
                    f"{x.element.id} goes through the {panel.title or panel.name} bare",
                    "The edge of the hole saws it through, and fire and fumes pass.",
                )
                yield line_finding(x, "Check", title, why, do, {}, met[0][1])


def not_drawn(study: Study) -> Iterator[Finding]:
    """What nobody has drawn runs as the layout takes it to run, and is judged by nobody."""
    lines = lines_of(study)
    left = [x.element.id for x in lines if not x.drawn]
    if not left:
        return
    title = (
        "No line is drawn in the vehicle yet"
        if len(left) == len(lines)
        else f"{len(left)} of {len(lines)} lines are not drawn yet: {listed(left)}"
    )
    yield Finding(
        "Note",
        "",
        title,
        "Bends, clearances, clamps and supports are judged once a line is drawn where it will lie.",
        "Place the parts and draw the lines.",
        station="route",
    )


def _lines_of_role(study: Study) -> bool:
    return any(x.element.role in FUEL for x in drawn_lines(study))


def _any_line(study: Study) -> bool:
    return bool(drawn_lines(study))


def under_floor(study: Study) -> Iterator[Finding]:
    """Stones and ramps reach what runs under the floor."""
    yield from unguarded(
        study, "ground", "under the floor without a guard", "Guard it there, or lead it higher."
    )


def hangs_under(study: Study) -> Iterator[Finding]:
    """A line that is the lowest thing of a car is the first that a curb tears off."""
    clearance = laid_of(study).outline.dimensions["ground"]
    for x in drawn_lines(study):
        spot = min((vector(p) for p in x.path.points), key=lambda p: p[2])
        low = spot[2] - x.outside
        if x.element.role in FUEL and low < clearance - UNDER_MM:
            figures = {
                "low": FindingFigure(low / 1000, "length"),
                "by": FindingFigure((clearance - low) / 1000, "length"),
                "limit": FindingFigure(clearance / 1000, "length"),
            }
            why = "The lowest part of the car stands {limit} over the ground. What hangs lower is torn off by a curb or a ramp, and then fuel runs out."
            yield line_finding(
                x,
                "Check",
                f"{x.element.id} hangs {{by}} under the lowest part of the car",
                why,
                "Route it higher, or turn its ends so that they do not look down.",
                figures,
                spot,
            )


def outside_rails(study: Study) -> Iterator[Finding]:
    """What runs outside the frame rails is hit first."""
    yield from unguarded(
        study,
        "crush",
        "outside the frame rails without a guard",
        "Route it within the rails, or guard it there.",
    )


def _near(rule: str, asks: str, source: str, kind: str) -> Rule:
    def look(study: Study) -> Iterator[Finding]:
        yield from near_to(study, kind)

    look.__doc__ = WORDS[kind][0]
    return Rule(
        rule,
        asks,
        source,
        look,
        lambda s: _any_line(s) and any(z.kind == kind for z in laid_of(s).outline.zones),
    )


RULES = (
    Rule(
        "R-28",
        "Lines are drawn where they will lie.",
        "common practice",
        not_drawn,
        lambda s: bool(lines_of(s)),
    ),
    Rule(
        "R-01",
        "No line is bent tighter than its sheet allows.",
        "SAE J517 and AC 43.13-1B, from memory; the maker's sheet",
        tight_bends,
        _any_line,
    ),
    Rule("R-02", "Every bend has room between its neighbors.", "arithmetic", no_room, _any_line),
    Rule("R-03", "Hoses leave their ends straight.", "common practice", kinked_ends, _any_line),
    Rule("R-04", "No hose is twisted by its clocking.", "common practice", twisted, _any_line),
    _near(
        "R-05",
        "Lines keep clear of what is hot.",
        "handbook of findings: 75 mm shielded, 150 mm bare",
        "hot",
    ),
    _near(
        "R-06",
        "Lines keep clear of what moves.",
        "common practice; AC 43.13-1B for controls, from memory",
        "moving",
    ),
    _near("R-07", "Lines keep clear of the battery.", "AC 43.13-1B, from memory", "battery"),
    _near("R-08", "Lines keep clear of wiring.", "AC 43.13-1B, from memory", "wiring"),
    _near("R-09", "Lines keep clear of brake lines or are separated.", "common practice", "brake"),
    _near(
        "R-10", "Lines are out of reach of hands, feet and controls.", "common practice", "hands"
    ),
    _near("R-11", "Lines touch nothing that chafes.", "AC 43.13-1B, from memory", "obstacle"),
    Rule(
        "R-12",
        "Lines under the floor have a guard.",
        "common practice",
        under_floor,
        lambda s: not flies(s) and _lines_of_role(s),
    ),
    Rule(
        "R-29",
        "No line is the lowest part of a car.",
        "common practice",
        hangs_under,
        lambda s: not laid_of(s).outline.flies and bool(drawn_lines(s)),
    ),
    Rule(
        "R-13",
        "Lines run within the frame rails, or have a guard.",
        "common practice",
        outside_rails,
        lambda s: not flies(s) and _lines_of_role(s),
    ),
    Rule(
        "R-14",
        "Lines are clamped as often as their size requires.",
        "AC 43.13-1B, from memory",
        unsupported,
        _any_line,
    ),
    Rule(
        "R-15",
        "Suction lines have no crest.",
        "common practice",
        air_trap,
        lambda s: any(x.element.role == "suction" for x in lines_of(s)),
    ),
    Rule(
        "R-16",
        "Vent lines have no dip.",
        "common practice",
        liquid_trap,
        lambda s: any(x.element.kind == "vent" for x in lines_of(s)),
    ),
    Rule(
        "R-17",
        "Panels are crossed by a bulkhead fitting or a grommet.",
        "common practice",
        through_panels,
        _any_line,
    ),
)
