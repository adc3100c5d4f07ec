"""What the drawing of the vehicle is made of: plain places and words for the template. Text finds
its own place and leaders cross none.
"""

import math
from dataclasses import dataclass, field
from itertools import pairwise

from tall_heron.core.document.circuit import Element
from tall_heron.core.document.space import VIEW_AXES
from tall_heron.core.routing.clearance import Polyline
from tall_heron.core.routing.laid import Laid, LaidLine
from tall_heron.core.routing.vectors import Vector
from tall_heron.core.rules.finding import Finding
from tall_heron.web.drawing.labels import PlacedLabel, Placer, box_of
from tall_heron.web.drawing.route.view import Box, View
from tall_heron.web.show.text import ROLES

WIDE = 880.0  # px, what the page has for a view
TALL = 566.0  # px, for side and plan together, where the vehicle's shape allows
LEAST = 0.118  # px a mm: below it nothing can be told apart
MARGIN = 90.0  # mm round a view
MOST_MARKS = 3
EVERY = 200.0  # px between letters on a line
TRUE_FROM = 0.189  # px a mm: from 1:20 up a hose is drawn as thick as it is
FONT = 16.0
MARK = 22.0  # px, a finding's mark


@dataclass(frozen=True)
class DrawnLine:
    """A line in a view: its path, how thick [px], its letters, its clamps as short strokes, guards
    as paths, and its ends.
    """

    element: Element
    d: str
    thick: float
    letters: tuple[tuple[float, float], ...]
    clamps: tuple[tuple[float, float, float, float], ...]
    guards: tuple[tuple[str, str], ...]
    chosen: bool
    drawn: bool


@dataclass(frozen=True)
class DrawnPart:
    """A part's body in a view, and the assembly it moves with."""

    element: Element
    box: Box
    home: str
    chosen: bool
    typed: bool


@dataclass(frozen=True)
class FindingSpot:
    """A finding's mark with its number, its leader to the place it is about, and what stands beside
    it.
    """

    number: int
    level: str
    x: float
    y: float
    to: tuple[float, float]
    words: str


@dataclass
class Scene:
    """One view with everything drawn in it [px]."""

    view: View
    title: str
    width: float
    height: float
    bodies: list[str] = field(default_factory=list)
    glass: list[str] = field(default_factory=list)
    wheels: list[tuple[str, Box]] = field(default_factory=list)
    zones: list[tuple[str, str, str, str]] = field(default_factory=list)
    panels: list[tuple[str, str, bool]] = field(default_factory=list)
    lines: list[DrawnLine] = field(default_factory=list)
    parts: list[DrawnPart] = field(default_factory=list)
    valves: list[tuple[str, float, float]] = field(default_factory=list)
    joints: list[tuple[str, float, float]] = field(default_factory=list)
    handles: list[tuple[int, float, float]] = field(default_factory=list)
    labels: list[PlacedLabel] = field(default_factory=list)
    spots: list[FindingSpot] = field(default_factory=list)
    ticks: list[tuple[float, str, str]] = field(default_factory=list)
    ground: float | None = None


def draw_views(
    laid: Laid,
    names: tuple[str, ...],
    findings: list[Finding],
    line: str,
    part: str,
    zoom: float = 1.0,
    words: dict[int, str] | None = None,
    named: bool = True,
) -> list[Scene]:
    """The views of a build to one scale, `zoom` times that at which side and plan fill the page,
    with a line or part chosen and findings numbered as they stand in their list; unless `named`,
    only what changes while a hand drags.
    """
    if not names:
        return []
    region = _region(laid)
    scale = _whole(region) * zoom
    return [
        _draw(laid, name, scale, region, findings, line, part, words or {}, named) for name in names
    ]


Region = tuple[Vector, Vector]


def _region(laid: Laid) -> Region:
    """What is looked at: the whole of a car; of an aircraft its length, and across it what has fuel
    in it.
    """
    size = laid.outline.size
    places = [p for x in laid.lines.values() for p in x.path.box]
    places += [at for _, at, _, _ in laid.stands.boxes()]
    low = [min((float(p[i]) for p in places), default=0.0) for i in range(3)]
    high = [max((float(p[i]) for p in places), default=0.0) for i in range(3)]
    half = size[1] / 2
    if laid.outline.flies:
        half = min(half, max(abs(low[1]), abs(high[1]), laid.outline.dimensions["cabin"]) + 500)
    return (min(0.0, low[0]) - MARGIN, min(-half, low[1]) - MARGIN, min(0.0, low[2]) - 40), (
        max(size[0], high[0]) + MARGIN,
        max(half, high[1]) + MARGIN,
        max(size[2], high[2]) + MARGIN / 2,
    )


def _whole(region: Region) -> float:
    """The scale [px a mm] at which side and plan stand on the page one over the other."""
    span = [region[1][i] - region[0][i] for i in range(3)]
    return max(min(WIDE / span[0], TALL / (span[1] + span[2])), min(LEAST, WIDE / span[0]))


def fitting(laid: Laid, names: tuple[str, ...], zooms: tuple[float, ...]) -> float:
    """The largest of some zooms, rising, at which a single view is seen whole."""
    if len(names) != 1:
        return zooms[0]
    region = _region(laid)
    (i, _), (j, _) = VIEW_AXES[names[0]]
    wide, tall = ((region[1][k] - region[0][k]) * _whole(region) for k in (i, j))
    return max((z for z in zooms if wide * z <= WIDE and tall * z <= TALL), default=zooms[0])


TITLES = {"side": "Side", "plan": "Plan", "rear": "Rear"}


def _draw(
    laid: Laid,
    name: str,
    scale: float,
    region: Region,
    findings: list[Finding],
    line: str,
    part: str,
    words: dict[int, str],
    named: bool,
) -> Scene:
    (i, si), (j, _) = VIEW_AXES[name]
    left = region[0][i] if si > 0 else -region[1][i]
    view = View(name, scale, left, region[1][j])
    width, height = (region[1][i] - region[0][i]) * scale, (region[1][j] - region[0][j]) * scale
    scene = Scene(
        view, TITLES[name], round(width, 1), round(height + (24 if name != "rear" else 0), 1)
    )
    if named:
        _vehicle(scene, laid)
    placer = Placer((2.0, 2.0, width - 2, height - 2))
    letters = Placer((0.0, 0.0, width, height))
    for element, at, body, yaw in laid.stands.boxes():
        home = laid.stands.home[element.id]
        scene.parts.append(
            DrawnPart(
                element,
                view.body(at, body, yaw),
                home,
                part in (element.id, home),
                laid.stands.standing[home].typed,
            )
        )
    scene.valves = [(n, *view.at(at)) for n, at in laid.stands.valves.items()]
    scene.joints = [(n, *view.at(at)) for n, at in laid.stands.joints.items()]
    chosen = laid.lines.get(line)
    if chosen is not None and not chosen.inside:
        scene.handles = [(k, *view.at(c)) for k, c in enumerate(chosen.run.corners)]
    for p in scene.parts:
        x0, y0, wide, high = p.box
        if wide * high < 6000:
            letters.keep_clear((x0, y0, x0 + wide, y0 + high))
    for x in laid.lines.values():
        scene.lines.append(_line(view, x, line, placer, letters))
    _keep_clear(scene, placer)
    _marks(scene, placer, findings, words, (line, part))
    if named:
        _names(scene, placer, laid)
        _ticks(scene, laid, region)
    scene.labels = placer.labels
    return scene


def _vehicle(scene: Scene, laid: Laid) -> None:
    view, outline = scene.view, laid.outline
    if view.name == "side":
        scene.bodies = [view.shape(s) for s in outline.side]
        scene.glass = [view.shape(s) for s in outline.glass]
        scene.ground = view.at((0.0, 0.0, 0.0))[1]
    else:
        scene.bodies = [
            view.shape(s, mirrored=True)
            for s in (outline.plan if view.name == "plan" else outline.rear)
        ]
        if view.name == "rear":
            scene.ground = view.at((0.0, 0.0, 0.0))[1]
    for x, y, r, wide in outline.wheels:
        low, high = (x - r, y - wide / 2, 0.0), (x + r, y + wide / 2, 2 * r)
        scene.wheels.append(("round" if view.name == "side" else "flat", view.box(low, high)))
    for zone in sorted(outline.zones, key=lambda z: z.kind != "cabin"):
        if zone.kind not in ("ground", "crush"):
            scene.zones.append((zone.kind, view.zone(zone), zone.name, zone.title))
    scene.panels = [
        (p.name, view.panel(p), view.edge_on(p)) for p in outline.panels if view.edge_on(p)
    ]


def _line(view: View, x: LaidLine, chosen: str, placer: Placer, apart: Placer) -> DrawnLine:
    points = x.path.listed[0]
    flat = [view.at(p) for p in points]
    thick = max(2.6, 2 * x.outside * view.scale) if view.scale >= TRUE_FROM else 2.6
    letters = tuple(_letters(flat, placer, apart)) if not x.inside else ()
    guards = tuple((kind, view.path(_part_of(x.path, a, b))) for a, b, kind in x.protected)
    clamps = tuple(_stroke(view, x.path, c, thick) for c in x.clamps)
    for (ax, ay), (bx, by) in pairwise(flat):
        pieces = max(int(math.hypot(bx - ax, by - ay) / 14), 1)
        for t in range(pieces):
            px, py = ax + (bx - ax) * t / pieces, ay + (by - ay) * t / pieces
            placer.keep_clear((px - 3, py - 3, px + 3, py + 3))
    return DrawnLine(
        x.element,
        view.path(points),
        round(thick, 1),
        letters,
        clamps,
        guards,
        x.element.id == chosen,
        x.drawn,
    )


def _part_of(path: Polyline, a: float, b: float) -> list[Vector]:
    inner = [p for p, s in zip(*path.listed, strict=True) if a < s < b]
    return [path.at(a), *inner, path.at(b)]


def _letters(
    flat: list[tuple[float, float]], placer: Placer, apart: Placer
) -> list[tuple[float, float]]:
    """Where the letter of a line's role stands: near its ends and every so often between, where no
    other letter and no part is, or a little along.
    """
    legs = [math.hypot(b[0] - a[0], b[1] - a[1]) for a, b in pairwise(flat)]
    total = sum(legs)
    count = max(int(total / EVERY), 1)
    wanted = [total * (k + 0.5) / count for k in range(count)]
    if total > 120:
        wanted = [28.0, *wanted, total - 28.0]
    out: list[tuple[float, float]] = []
    for s in wanted if total > 40 else ():
        for by in (0.0, 14.0, -14.0, 28.0, -28.0):
            x, y = _along(flat, legs, min(max(s + by, 0.0), total))
            box = (x - 6, y - 9, x + 6, y + 9)
            if apart.free(box):
                placer.keep_clear(box)
                apart.keep_clear(box)
                out.append((round(x, 1), round(y, 1)))
                break
    return out


def _along(flat: list[tuple[float, float]], legs: list[float], s: float) -> tuple[float, float]:
    for (a, b), leg in zip(pairwise(flat), legs, strict=True):
        if s <= leg and leg > 0:
            return a[0] + (b[0] - a[0]) * s / leg, a[1] + (b[1] - a[1]) * s / leg
        s -= leg
    return flat[-1]


def _stroke(
    view: View, path: Polyline, at: float, thick: float
) -> tuple[float, float, float, float]:
    (x, y), (p, q), (r, s) = (
        view.at(path.at(at)),
        view.at(path.at(max(at - 5, 0.0))),
        view.at(path.at(at + 5)),
    )
    long = math.hypot(r - p, s - q)
    nx, ny = (-(s - q) / long, (r - p) / long) if long > 1e-6 else (0.0, 1.0)
    half = 5.0 + thick / 2
    return (
        round(x - nx * half, 1),
        round(y - ny * half, 1),
        round(x + nx * half, 1),
        round(y + ny * half, 1),
    )


def _keep_clear(scene: Scene, placer: Placer) -> None:
    for p in scene.parts:
        x, y, w, h = p.box
        placer.keep_clear((x, y, x + w, y + h) if w * h < 6000 else (x, y, x + w, y + 3))
    for _, x, y in scene.handles:
        placer.keep_clear((x - 9, y - 9, x + 9, y + 9))
    for _, x, y in (*scene.valves, *scene.joints):
        placer.keep_clear((x - 8, y - 8, x + 8, y + 8))


def _marks(
    scene: Scene,
    placer: Placer,
    findings: list[Finding],
    words: dict[int, str],
    chosen: tuple[str, ...],
) -> None:
    """The marks of at most three findings, those of what is chosen first, each at the nearest free
    place round what it is about, so that its leader crosses no text and no other leader; the rest
    stand in the list.
    """
    told = [
        (number, f)
        for number, f in enumerate(findings, 1)
        if f.spot is not None and f.level != "Note"
    ]
    for number, f in sorted(told, key=lambda x: x[1].element_id not in chosen):
        if len(scene.spots) == MOST_MARKS:
            break
        assert f.spot is not None
        to = scene.view.at(f.spot)
        leaders = [((s.x, s.y), s.to) for s in scene.spots]
        says = words.get(number, "")
        wide = len(f"{number} {says}") * FONT * 0.5 + MARK + 8
        for far in (34, 52, 74, 100, 135, 175, 220):
            place = next(
                (
                    p
                    for k in range(16)
                    if (p := _mark_at(to, far, k * math.pi / 8 + 0.35, wide, placer, leaders))
                ),
                None,
            )
            if place is not None:
                x, y, box = place
                placer.keep_clear(box)
                scene.spots.append(
                    FindingSpot(
                        number,
                        f.level,
                        round(x, 1),
                        round(y, 1),
                        (round(to[0], 1), round(to[1], 1)),
                        says,
                    )
                )
                placer.labels.append(
                    PlacedLabel(
                        f"{number}{' · ' + says if says else ''}",
                        round(x + MARK / 2 + 4, 1),
                        round(y + 5.5, 1),
                        "start",
                        f"spot-says {f.level.lower()}",
                        FONT,
                    )
                )
                break


Place = tuple[float, float]


def _mark_at(
    to: Place,
    far: float,
    angle: float,
    wide: float,
    placer: Placer,
    leaders: list[tuple[Place, Place]],
) -> tuple[float, float, Box] | None:
    x, y = to[0] + far * math.cos(angle), to[1] - far * math.sin(angle)
    box = (x - MARK / 2 - 2, y - MARK / 2 - 2, x + wide, y + MARK / 2 + 2)
    if not placer.free(box):
        return None
    texts = [box_of(lb.text, lb.x, lb.y, lb.anchor, lb.size) for lb in placer.labels]
    crossed = any(_crosses((x, y), to, t) for t in texts) or any(
        _crosses(a, b, box) or _straights_cross((x, y), to, a, b) for a, b in leaders
    )
    return None if crossed else (x, y, box)


def _straights_cross(a: Place, b: Place, c: Place, d: Place) -> bool:
    """Whether two straights cross one another."""

    def side(p: Place, q: Place, r: Place) -> float:
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    return side(a, b, c) * side(a, b, d) < 0 and side(c, d, a) * side(c, d, b) < 0


def _crosses(a: tuple[float, float], b: tuple[float, float], box: Box) -> bool:
    """Whether a straight goes through a box (Liang and Barsky's clipping)."""
    t0, t1 = 0.0, 1.0
    for p, q in (
        (a[0] - b[0], a[0] - box[0]),
        (b[0] - a[0], box[2] - a[0]),
        (a[1] - b[1], a[1] - box[1]),
        (b[1] - a[1], box[3] - a[1]),
    ):
        if abs(p) < 1e-9:
            if q < 0:
                return False
            continue
        if p < 0:
            t0 = max(t0, q / p)
        else:
            t1 = min(t1, q / p)
    return t0 <= t1


def _names(scene: Scene, placer: Placer, laid: Laid) -> None:
    """Names of parts, of zones where there is room, and of panels."""
    leaders = [(s.x, s.y, *s.to) for s in scene.spots]

    def spots(box: Box) -> list[tuple[float, float, str]]:
        x, y, w, h = box
        middle = (x + w / 2, y + h / 2 + 5, "middle")
        round_it = [
            (x + w / 2, y - 5, "middle"),
            (x + w / 2, y + h + 15, "middle"),
            (x + w + 4, y + h / 2 + 5, "start"),
            (x - 4, y + h / 2 + 5, "end"),
            (x + w / 2, y - 22, "middle"),
            (x + w / 2, y + h + 32, "middle"),
            (x + w + 6, y - 6, "start"),
            (x - 6, y + h + 14, "end"),
        ]
        return [middle, *round_it] if w > 60 and h > 24 else round_it

    def place(text: str, where: list[tuple[float, float, str]], style: str) -> None:
        free = [
            p
            for p in where
            if not any(_crosses((a, b), (c, d), box_of(text, *p, FONT)) for a, b, c, d in leaders)
        ]
        placer.place(text, free, style, FONT)

    seen: set[str] = set()
    for p in scene.parts:
        if (
            p.element.kind not in ("fitting", "check", "gauge", "strainer", "merge", "split")
            or p.chosen
        ):
            place(p.element.id, spots(p.box), "tag")
    for name, x, y in scene.valves:
        place(name, spots((x - 8, y - 8, 16, 16)), "tag")
    for kind, _, name, title in scene.zones:
        zone = next(z for z in laid.outline.zones if z.name == name)
        x, y, w, h = scene.view.box(zone.low, zone.high)
        text = (title or name).split(",")[0]
        if (
            text in seen
            or kind in ("ground", "crush")
            or (kind == "moving" and scene.view.name != "plan")
        ):
            continue
        inner = [
            (x + w * a, y + h * b + 5, "middle")
            for b in (0.5, 0.3, 0.7, 0.15, 0.85)
            for a in (0.5, 0.3, 0.7, 0.2, 0.8)
        ]
        if w >= len(text) * FONT * 0.5 and h >= 18:
            seen.add(text)
            place(text, inner, f"zone-says {kind}")


def _ticks(scene: Scene, laid: Laid, region: Region) -> None:
    if scene.view.name == "rear":
        return
    size = laid.outline.size
    step = 500.0 if scene.view.scale < 0.3 else 200.0
    count = int(size[0] / step)
    for k in range(count + 1):
        x = scene.view.at((size[0] - k * step if laid.outline.flies else k * step, 0.0, 0.0))[0]
        text = "" if k % 2 else f"{k * step / 1000:.1f}{' m' if k >= count - 1 else ''}"
        scene.ticks.append(
            (round(x, 1), text, "start" if x < 24 else "end" if x > scene.width - 24 else "middle")
        )


def letter(element: Element) -> str:
    """The letter of a line's role."""
    return ROLES[element.role]
