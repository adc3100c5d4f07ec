"""What the Route page shows."""

import json
import math
from dataclasses import dataclass
from typing import Any

from tall_heron.core.base.catalogue import table
from tall_heron.core.design import Design, design
from tall_heron.core.document.kinds import KINDS
from tall_heron.core.document.space import Zone
from tall_heron.core.editing.route import draw_line
from tall_heron.core.editing.zones import seen_once
from tall_heron.core.routing.clearance import crossings
from tall_heron.core.routing.laid import Laid, LaidLine, spacing
from tall_heron.core.routing.limits import near_zone
from tall_heron.core.routing.measure import measurable
from tall_heron.core.routing.outline import WORDS, titles
from tall_heron.core.routing.run import TubeBend, bend_table
from tall_heron.core.routing.suggest import Suggestion, suggestions
from tall_heron.core.rules.finding import LEVELS, Finding
from tall_heron.core.rules.route import laid_of, lines_of
from tall_heron.core.sheets.cut_list import make_cut_rows
from tall_heron.core.study.route_cost import route_cost
from tall_heron.core.study.study import Study
from tall_heron.web.answers import Stored
from tall_heron.web.drawing.route.scene import draw_views, fitting
from tall_heron.web.frame import frame
from tall_heron.web.show.text import ROLES, shown
from tall_heron.web.stations.route.figures import route_figures
from tall_heron.web.stations.route.frame import axes, written

ZOOMS = (1.0, 1.5, 2.0, 3.0, 4.0)
VIEWS = {"both": ("side", "plan"), "rear": ("rear",), "turn": ()}


@dataclass(frozen=True)
class LineRow:
    """A line in the list: what it is, its length as drawn and as it counts, its radius, and the
    worst that is found on it.
    """

    line: LaidLine
    letter: str
    worst: str


@dataclass(frozen=True)
class Way:
    """A suggested way with what fitting it would change."""

    number: int
    typed: Suggestion
    length: float
    cost: float | None
    clamps: int
    clears: tuple[str, ...]
    comes: tuple[str, ...]


def route_context(
    found: Stored, made: Design, line: str, part: str, view: str, zoom: str, tried: str
) -> dict[str, Any]:
    """Everything the Route page shows."""
    study = made.study
    laid = laid_of(study)
    findings, passed = made.of_route
    view = view if view in VIEWS else "both"
    times = zoom_of(laid, view, zoom)
    chosen = laid.lines.get(line)
    if chosen is not None and chosen.inside:
        chosen = None
    ways = ways_of(found, made, chosen) if tried and chosen is not None else []
    trial = next((w for w in ways if str(w.number) == tried), ways[0] if ways else None)
    paths = (
        {
            s.view.name: s.view.path(trial.typed.run.drawn())
            for s in draw_views(laid, VIEWS[view], [], "", "", times)
        }
        if trial
        else {}
    )
    drawn = draw_views(
        laid, VIEWS[view], findings, line if chosen else "", part, times, said_short(findings)
    )
    return (
        frame(found, made, "route")
        | _of_space(laid, study.build.space.zones)
        | _of_part(laid, part)
        | (_of_line(study, laid, chosen) if chosen is not None else {})
        | {
            "figures": route_figures(study, findings),
            "findings": [(f, "stays") for f in findings],
            "passed": passed,
            "numbered": True,
            "view": view,
            "zoom": f"{times:g}",
            "scenes": drawn,
            "rows": [
                LineRow(x, ROLES[x.element.role], _worst(findings, x.element.id))
                for x in lines_of(study)
            ],
            "chosen": chosen,
            "ways": ways,
            "tried": bool(tried),
            "trial": trial,
            "trial_paths": paths,
            "typed_rest": [
                x.element.id
                for x in lines_of(study)
                if x.element.length is not None and x.element.length.source in ("typed", "assumed")
            ],
        }
    )


def zoom_of(laid: Laid, view: str, asked: str) -> float:
    """How many times larger than side and plan on one page: what was asked, or what fits."""
    return next((z for z in ZOOMS if f"{z:g}" == asked), fitting(laid, VIEWS[view], ZOOMS))


def _of_space(laid: Laid, own: list[Zone]) -> dict[str, Any]:
    """The vehicle, and how its places are written; of its zones, the builder's `own`."""
    return {
        "laid": laid,
        "axes": axes(laid.outline),
        "axed": lambda values: [
            (k, word, value) for (k, word), value in zip(axes(laid.outline), values, strict=True)
        ],
        "written": lambda v: written(laid.outline, v),
        "outlines": titles(laid.outline.flies),
        "dimension_words": WORDS,
        "usual_zones": [row["title"] for row in table("zones_usual")],
        "seen_once": [z.name for z in own if seen_once(z, laid.outline)],
        "geometry": json.dumps(geometry(laid)),
        "measurable": sorted(measurable(laid)),
        "kinds": KINDS,
        "degrees": math.degrees,
    }


def _of_part(laid: Laid, part: str) -> dict[str, Any]:
    """The part that is chosen, with what it is screwed to."""
    home = laid.stands.home.get(part, part)
    stands = laid.stands.standing.get(home)
    at = (
        stands.place.at
        if stands is not None
        else laid.stands.valves.get(home) or laid.stands.joints.get(home)
    )
    return {
        "part_home": home if at is not None else "",
        "part_shown": part,
        "stands": stands,
        "part_at": written(laid.outline, at) if at is not None else None,
    }


def _of_line(study: Study, laid: Laid, line: LaidLine) -> dict[str, Any]:
    """The line that is chosen: what it costs, crosses, comes near to, and how it is bent."""
    return {
        "cut_mm": next(
            (
                c.cut_mm
                for c in make_cut_rows(study.build.circuit)
                if c.element.id == line.element.id
            ),
            None,
        ),
        "cost": route_cost(study, line),
        "met": _panels(laid, line),
        "bent": _bent(line) if line.element.kind == "line" else None,
        "nears": _nears(laid, line),
        "others": [x.element.id for x in lines_of(study) if x.element.id != line.element.id],
        "clamps_text": [shown(c / 1000, "length").replace(",", "") for c in line.clamps],
        "spacing": spacing(line.element) / 1000,
    }


def said_short(findings: list[Finding]) -> dict[int, str]:
    """What stands beside a finding's number on the drawing: its first figure."""
    first = {i: next(iter(f.figures.values()), None) for i, f in enumerate(findings, 1)}
    return {
        i: shown(figure.value, figure.quantity) for i, figure in first.items() if figure is not None
    }


def _worst(findings: list[Finding], name: str) -> str:
    return min((f.level for f in findings if f.element_id == name), key=LEVELS.index, default="")


def _panels(laid: Laid, line: LaidLine) -> list[tuple[str, str, bool]]:
    """Panels that a line goes through: name, title, and whether in a grommet."""
    return [
        (p.name, p.title or p.name, p.name in line.route.grommets)
        for p in laid.outline.panels
        if any(2 < s < float(line.path.along[-1]) - 2 for s, _ in crossings(p, line.path))
    ]


def _bent(line: LaidLine) -> tuple[list[TubeBend], float] | None:
    """How a hard line is bent; None where a corner has no room."""
    try:
        return bend_table(line.run)
    except ValueError:
        return None


def _nears(laid: Laid, line: LaidLine) -> list[tuple[str, float, float, bool]]:
    """The nearest things that a line keeps away from: title, clear and limit [m], and whether that
    is short.
    """
    met = [
        n
        for z in laid.outline.zones
        if z.kind not in ("ground", "crush")
        and (n := near_zone(line, z, laid.outline.flies)) is not None
    ]
    met.sort(key=lambda n: n.clear - n.limit.mm)
    return [
        (n.zone.title or n.zone.name, max(n.clear, 0.0) / 1000, n.limit.mm / 1000, n.short)
        for n in met[:4]
    ]


def ways_of(found: Stored, made: Design, line: LaidLine) -> list[Way]:
    """The suggested ways of a line, each tried on the build."""
    out = []
    before = {(f.rule, f.element_id): f for f in made.of_route[0]}
    for i, said in enumerate(suggestions(laid_of(made.study), line)):
        tried = design(draw_line(found.build, line.element.id, said.corners), made)
        after = {(f.rule, f.element_id): f for f in tried.of_route[0]}
        laid = laid_of(tried.study).lines[line.element.id]
        now = (
            made.study.friction(made.study.peak, line.element.id)
            if made.study.peak.solution.converged
            else 0.0
        )
        cost = (
            tried.study.friction(tried.study.peak, line.element.id) - now
            if tried.study.peak.solution.converged and line.element.ports
            else None
        )
        own = line.element.id
        clears = tuple(f"{r} {n}" for (r, n) in before if (r, n) not in after and n == own)
        comes = tuple(f"{r} {n}" for (r, n) in after if (r, n) not in before and n == own)
        out.append(Way(i, said, laid.length / 1000, cost, len(laid.clamps), clears, comes))
    return out


def geometry(laid: Laid) -> dict[str, Any]:
    """What the page draws while a hand drags and for the view that turns: lines with their ends,
    corners and radii, bodies and zones [mm].
    """
    lines = {
        i: {
            "a": x.run.points[0],
            "b": x.run.points[-1],
            "corners": [list(c) for c in x.run.corners],
            "r": x.radius,
            "role": x.element.role,
            "clamps": list(x.clamps),
            "inside": bool(x.inside),
        }
        for i, x in laid.lines.items()
    }
    boxes = [
        {"id": e.id, "at": [round(v, 1) for v in at], "size": [b.long, b.wide, b.high], "yaw": yaw}
        for e, at, b, yaw in laid.stands.boxes()
    ]
    zones = [
        {"kind": z.kind, "low": z.low, "high": z.high, "shape": z.shape, "r": z.radius_mm or 0}
        for z in laid.outline.zones
        if z.kind not in ("ground", "crush")
    ]
    o = laid.outline
    return {
        "lines": lines,
        "boxes": boxes,
        "zones": zones,
        "size": o.size,
        "side": [[[p[0], p[1]] for p in s] for s in o.side],
        "plan": [[[p[0], p[1]] for p in s] for s in o.plan],
        "homes": {name: list(s.place.at) for name, s in laid.stands.standing.items()}
        | {n: list(at) for n, at in {**laid.stands.valves, **laid.stands.joints}.items()},
    }
