"""The first drawing of a build in the outline of its vehicle: lines along the usual lanes, round
what is in their way, guarded and crossed as it asks; a line that cannot be led so that a
builder would sign it is left undrawn.
"""

import math
from collections.abc import Iterator
from dataclasses import replace

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.space import Guard, GuardKind, Route
from tall_heron.core.editing.drawn import followed
from tall_heron.core.editing.fields import set_end
from tall_heron.core.editing.measured import with_element
from tall_heron.core.editing.route import with_routes
from tall_heron.core.routing.clearance import crossings, polyline, stretches
from tall_heron.core.routing.laid import Laid, LaidLine, lay_line, lay_out
from tall_heron.core.routing.limits import SHIELDS, limit_for, near_zone, own_end
from tall_heron.core.routing.suggest import way_round
from tall_heron.core.routing.vectors import add_vectors
from tall_heron.core.rules import route_causes
from tall_heron.core.rules.finding import AGAINST, Finding
from tall_heron.core.study.study import make_study

ROUNDS = 4  # of looking at what was drawn
OVER_MM = 80.0  # beyond what it covers, a guard at each end
MOST_WAYS = 5  # searches for a way round: what a start may take
SLACK_MM, SLACK_SHARE = (
    (30.0, 60.0, 90.0),
    0.02,
)  # how far a corner is moved out, and by how much a line must gain
ANGLES = ((0, 0), (0, 90), (90, 0), (45, 0), (0, 45), (90, 90), (45, 90), (90, 45), (45, 45))
ROAD = ("ground", "crush")
GUARDED: dict[str, tuple[tuple[str, ...], tuple[GuardKind, ...]]] = {
    "R-05": (("hot",), ("heat shield", "sleeve")),
    "R-08": (("wiring",), ("sleeve",)),
    "R-09": (("brake",), ("separator",)),
    "R-12": (ROAD, ("stone guard",)),
    "R-13": (ROAD, ("stone guard",)),
}  # zones, what protects from them, the second where the first does not do


def begun_route(build: Build) -> Build:
    """The build with its outline said and its lines drawn, lengths and heights those of that
    drawing. What somebody drew already stays.
    """
    laid = lay_out(build)
    build = build.model_copy(
        update={"space": build.space.model_copy(update={"outline": laid.outline.name})}
    )
    own = set(build.space.routes)
    mine = {
        x.element.id: Route(corners=[_rounded(c) for c in x.run.corners])
        for x in laid.lines.values()
        if not x.inside and not x.trouble and x.element.id not in own
    }
    build, searched, tried = _crossed(followed(with_routes(build, mine))), 0, set[str]()
    for turn in range(ROUNDS):
        bad = [f for f in route_findings(build) if f.element_id in mine]
        if not bad:
            break
        laid, changed, fitted = lay_out(build), dict[str, Route](), dict[str, Element]()
        for f in bad:
            line = laid.lines[f.element_id]
            if f.rule in GUARDED and turn < ROUNDS - 1:
                kinds, words = GUARDED[f.rule]
                word = words[min(turn, len(words) - 1)]
                for x in laid.lines.values() if kinds == ROAD else (line,):
                    if (
                        x.element.id in mine
                        and (
                            route := _guarded(
                                laid, x, changed.get(x.element.id, x.route), kinds, word
                            )
                        )
                        is not None
                    ):
                        changed[x.element.id] = route
            elif f.element_id in tried:
                continue
            elif f.rule == "R-22" and (slacker := _slacker(laid, line)) is not None:
                tried.add(f.element_id)
                changed[f.element_id] = slacker
            elif (ends := _other_ends(build, laid, line)) is not None:
                tried.add(f.element_id)
                fitted[f.element_id], changed[f.element_id] = ends
            elif searched < MOST_WAYS:
                tried.add(f.element_id)
                searched += 1
                detour = way_round(laid, line)
                if detour is not None:
                    changed[f.element_id] = Route(corners=[_rounded(c) for c in detour.corners])
        for e in fitted.values():
            build = with_element(build, e)
        if not changed:
            break
        build = _crossed(followed(with_routes(build, changed)))
    return signed_only(build, set(mine))


def signed_only(build: Build, mine: set[str]) -> Build:
    """The build without those of some drawn lines that bring a Stop or a Check of the route; what
    is left out may be what another is judged beside.
    """
    for _ in range(len(mine)):
        left = {f.element_id for f in route_findings(build)} & mine
        if not left:
            break
        build = followed(with_routes(build, dict.fromkeys(left)))
    return build


def route_findings(build: Build) -> list[Finding]:
    """Stops and Checks on how lines are drawn."""
    return [f for f in route_causes(make_study(build, ("peak",))) if f.level in AGAINST]


def _other_ends(build: Build, laid: Laid, line: LaidLine) -> tuple[Element, Route] | None:
    """A hose with ends of other angles, and its usual way with them, where that keeps clear of
    everything and bends as it may; None where none does.
    """
    e = line.element
    if e.end_a is None or e.end_b is None:
        return None
    undrawn = build.model_copy(update={"space": build.space.model_copy(update={"routes": {}})})
    for a, b in ANGLES:
        if a == b == 90 and e.role == "suction":  # house rule S-04
            continue
        try:
            other = _with_ends(build, e, a, b)
        except BuildErrors:
            continue
        new = lay_line(undrawn, laid.outline, other, line.run.one.port, line.run.other.port, 0, "")
        if not new.trouble and _clear(laid, new):
            return other, Route(corners=[_rounded(c) for c in new.run.corners])
    return None


def _slacker(laid: Laid, line: LaidLine) -> Route | None:
    """A line with one of its corners further out, so that it gives as its engine moves; None where
    none does and keeps clear.
    """
    corners = list(line.run.corners)
    for by in SLACK_MM:
        for i, c in enumerate(corners):
            for way in ((0.0, 0.0, by), (0.0, by, 0.0), (0.0, -by, 0.0), (-by, 0.0, 0.0)):
                moved = [*corners[:i], add_vectors(c, way), *corners[i + 1 :]]
                run = replace(line.run, corners=tuple(moved))
                new = replace(line, run=run, path=polyline(run.drawn()))
                if run.center_line > (1 + SLACK_SHARE) * line.run.center_line and _clear(laid, new):
                    return line.route.model_copy(update={"corners": [_rounded(x) for x in moved]})
    return None


def _with_ends(build: Build, e: Element, a: int, b: int) -> Element:
    """A hose with ends of two angles. Raises BuildErrors where the shelf has none such."""
    fitted = set_end(set_end(build, e.id, "a", a), e.id, "b", b).circuit.element(e.id)
    assert fitted is not None
    return fitted


def _clear(laid: Laid, line: LaidLine) -> bool:
    """Whether every bend of a line has room and it keeps clear of what no guard protects it from."""
    if not all(b.fits for b in line.run.bends) or max(line.run.kinks) > math.radians(
        house_figure("route_kink_deg")
    ):
        return False
    zones = [z for z in laid.outline.zones if z.kind not in (*ROAD, "cabin", "wiring", "brake")]
    near = [n for z in zones if (n := near_zone(line, z, laid.outline.flies)) is not None]
    return not any(n.short and not own_end(line, n) for n in near)


def _rounded(corner: tuple[float, ...]) -> tuple[float, float, float]:
    x, y, z = (round(v, 1) for v in corner)
    return x, y, z


def _guarded(
    laid: Laid, line: LaidLine, route: Route, kinds: tuple[str, ...], word: GuardKind
) -> Route | None:
    """A line protected wherever it comes nearer to zones of some kinds than it may bare; None where
    that changes nothing.
    """
    guards = [g for g in route.guards if not any(g.kind in SHIELDS.get(kind, ()) for kind in kinds)]
    total = float(line.path.along[-1])
    for zone in laid.outline.zones:
        limit = limit_for(line.element, zone, laid.outline.flies)
        if zone.kind not in kinds or limit is None:
            continue
        for a, b in stretches(zone, line.path, (limit.mm if kinds != ROAD else 0.0) + line.outside):
            guards.append(
                Guard(
                    kind=word,
                    from_mm=max(round(a - OVER_MM, 1), 0.0),
                    to_mm=min(round(b + OVER_MM, 1), round(total, 1)),
                )
            )
    guards = list(_joined(guards))
    return route.model_copy(update={"guards": guards}) if guards != route.guards else None


def _joined(guards: list[Guard]) -> Iterator[Guard]:
    """Guards of one kind that overlap, as one."""
    for kind in dict.fromkeys(g.kind for g in guards):
        at: Guard | None = None
        for g in sorted((g for g in guards if g.kind == kind), key=lambda g: g.from_mm):
            if at is not None and g.from_mm <= at.to_mm:
                at = at.model_copy(update={"to_mm": max(at.to_mm, g.to_mm)})
                continue
            if at is not None:
                yield at
            at = g
        if at is not None:
            yield at


def _crossed(build: Build) -> Build:
    """Lines through panels, each in a grommet."""
    laid = lay_out(build)
    grommets: dict[str, Route] = {}
    for x in laid.lines.values():
        if x.element.id not in build.space.routes or x.inside:
            continue
        met = [p.name for p in laid.outline.panels if crossings(p, x.path)]
        if sorted(met) != sorted(x.route.grommets):
            grommets[x.element.id] = x.route.model_copy(update={"grommets": met})
    return with_routes(build, grommets) if grommets else build
