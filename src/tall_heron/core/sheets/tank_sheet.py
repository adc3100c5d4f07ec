"""What is done to a tank: its openings in order with their holes, what is cut to its depth, what it
still lacks.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from tall_heron.core.base.arithmetic import Why
from tall_heron.core.base.catalogue import by_name, house_figure, table
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.faces import Face
from tall_heron.core.document.mounts import HANGER, hung_pumps
from tall_heron.core.document.properties import Properties
from tall_heron.core.document.tank_shape import FILLED
from tall_heron.core.joining.joints import Joints, Side
from tall_heron.core.routing.assembly import body_of
from tall_heron.core.routing.laid import Laid
from tall_heron.core.routing.vectors import Vector

CAUTIONS = (
    "Never drill, cut or weld a tank that held fuel, unless a professional has certified it free of gas: a new tank is cheaper.",
    "On a new or certified tank: an air drill, slow and greased, from below, so that chips fall out and not in.",
    "Drain cold, battery off, no flame or heater near, extinguisher in reach, can and filler bonded.",
    "A tank is tested alone, with liquid, at its own low pressure; never with compressed air.",
)
TILE_WIDE_MM, TILE_HIGH_MM = (
    180.0,
    220.0,
)  # what A4 and Letter both hold of a template, a check square under it
IN_WALL_MM = 15.0  # under the top, from where an opening is one of a wall


@dataclass(frozen=True)
class TankOpening:
    """An opening of a tank: what for, the line or part at it, its thread, the hole [mm], its place
    from the rear and from the left of the tank's top [mm] where the drawing knows it.
    """

    sort: str
    title: str
    what: str
    thread: str
    hole_mm: float | None
    place: tuple[float, float] | None
    assumed: bool
    flange_mm: float | None = None

    @property
    def needs_mm(self) -> float | None:
        """How wide the metal must be that is its own [mm]: its flange, or the nut round its thread;
        None where no hole is known.
        """
        return self.flange_mm or (
            self.hole_mm * house_figure("nut_over_thread") if self.hole_mm else None
        )


@dataclass(frozen=True)
class CutToDepth:
    """Something that is cut to the tank's depth [mm]; None where nobody says how deep the tank is."""

    title: str
    mm: float | None
    why: Why


@dataclass(frozen=True)
class TankSheet:
    """A tank's sheet: its inside depth [mm], sides [mm] as seen from above (along, across),
    openings in order, what is cut to depth, how many openings it comes with, what is missing or
    wrong, and why its holes must not be drilled as they stand: nothing of it is printed then.
    """

    element: Element
    depth_mm: float | None
    sides: tuple[float, float]
    openings: tuple[TankOpening, ...]
    cuts: tuple[CutToDepth, ...]
    comes_with: int | None
    troubles: tuple[str, ...]
    undrillable: tuple[str, ...] = ()

    @property
    def to_make(self) -> int:
        """How many openings are to be made; 0 where it has enough, or nobody says."""
        return max(len(self.openings) - self.comes_with, 0) if self.comes_with is not None else 0


def make_tank_sheets(build: Build, laid: Laid, joints: Joints) -> list[TankSheet]:
    """A sheet for every tank, in document order."""
    return [_sheet(build, laid, joints, e) for e in build.circuit.of_kind("tank")]


def _sheet(build: Build, laid: Laid, joints: Joints, tank: Element) -> TankSheet:
    p = tank.properties
    depth = p.high_mm + (p.sump_mm or 0.0) if p.high_mm is not None else None
    body = body_of(tank)
    holes = _openings(build, laid, joints, tank)
    order = {str(r["sort"]): int(r["order"]) for r in table("tank_openings")}
    openings = tuple(sorted(holes, key=lambda o: order[o.sort]))
    sorts = {o.sort for o in openings}
    troubles = []
    if "vent" not in sorts and not p.vented and p.family != "pot":
        troubles.append("no vent: it draws a vacuum until the pump starves, or bursts in the sun")
    if "drain" not in sorts:
        troubles.append("no drain: water stays on the floor, and it is emptied by siphon")
    if "filler" not in sorts and p.family not in ("pot", "header"):
        troubles.append(
            "no filler is drawn: add one under Circuit, or say that it is filled otherwise"
        )
    if p.level_gauge is None or "sender" not in sorts:
        troubles.append("no level sender: say where its level can be seen")
    if p.openings is not None and len(openings) > p.openings:
        troubles.append(
            f"it comes with {p.openings} openings and needs {len(openings)}: {len(openings) - p.openings} to make, only in a tank that never held fuel"
        )
    sides = (body.long, body.wide)
    cuts = (*_cuts(build, tank, depth), *_expansion(p))
    return TankSheet(
        tank,
        depth,
        sides,
        openings,
        cuts,
        p.openings,
        tuple(troubles),
        tuple(_undrillable(sides, openings, cuts)),
    )


def _undrillable(
    sides: tuple[float, float], openings: tuple[TankOpening, ...], cuts: tuple[CutToDepth, ...]
) -> Iterator[str]:
    """Holes outside the surface or nearer its edge than what covers them, holes whose flanges or
    nuts lie on one another, and what is deeper than the tank.
    """
    known = [
        (f"hole {i} ({o.title})", o.place, need)
        for i, o in enumerate(openings, start=1)
        if o.place is not None and (need := o.needs_mm) is not None
    ]
    for i, (name, (x, y), need) in enumerate(known):
        room = min(x, sides[0] - x, y, sides[1] - y)
        if room < need / 2:
            yield (
                f"{name} is {room:.0f} mm from the edge; it needs {need / 2:.0f} mm"
                if room > 0
                else f"{name} lies outside the tank"
            )
        for other, there, its in known[i + 1 :]:
            if (far := math.dist((x, y), there)) < (need + its) / 2:
                yield f"{name} and {other} are {far:.0f} mm apart, middle to middle; they need {(need + its) / 2:.0f} mm"
    for c in cuts:
        if c.mm is not None and c.mm <= 0:
            yield f"{c.title}: the tank is {-c.mm:.0f} mm too shallow for it"


def _openings(build: Build, laid: Laid, joints: Joints, tank: Element) -> list[TankOpening]:
    out = []
    node = tank.ports["outlet"]
    hung = [
        h
        for h in hung_pumps(build.circuit)
        if h.tank is not None and h.tank.id == tank.id and h.within
    ]
    hangers = {h.hanger.id: h.hanger for h in hung if h.hanger is not None}
    for e in hangers.values():
        out.append(_opening(laid, tank, "hanger", f"{e.id} {e.title}", "", e.id, False))
    if hung and not hangers:
        out.append(
            _opening(
                laid, tank, "hanger", f"{', '.join(h.pump.id for h in hung)} inside", "", "", True
            )
        )
    for e in build.circuit.elements:
        if e.properties.mount == "inlet" and node in e.ports.values():
            face = Face("flare", e.properties.dash or "-8")
            out.append(
                _opening(laid, tank, "return", f"{e.id} {e.title}", face.thread, e.id, False, face)
            )
    for j in joints.joints:
        for mine, other in ((j.one, j.other), (j.other, j.one)):
            if mine.element == tank.id and mine.port in (
                "outlet",
                "return",
                "vent",
                "overflow",
                "filler",
                "drain",
            ):
                out.append(
                    _opening(
                        laid,
                        tank,
                        mine.port,
                        other.element,
                        mine.face.thread,
                        _seat_of(j.one, j.other, tank),
                        mine.assumed,
                        mine.face,
                    )
                )
    if tank.properties.level_gauge:
        out.append(_opening(laid, tank, "sender", "level sender", "", "", False))
    return out


def _seat_of(one: Side, other: Side, tank: Element) -> str:
    return next((s.key for s in (one, other) if s.element != tank.id), "")


def _opening(
    laid: Laid,
    tank: Element,
    sort: str,
    what: str,
    thread: str,
    at: str,
    assumed: bool,
    face: Face | None = None,
) -> TankOpening:
    row = by_name("tank_openings", "sort")[sort]
    hole = row["hole"] if isinstance(row["hole"], float) else None
    if hole is None and face is not None and face.row is not None:
        hole = face.row["panel_hole_mm"] or face.row["drill_mm"] or face.major_mm or None
    return TankOpening(
        sort,
        str(row["title"]),
        what,
        thread,
        hole,
        _place(laid, tank, at),
        assumed,
        row["flange_mm"],
    )


def _place(laid: Laid, tank: Element, at: str) -> tuple[float, float] | None:
    """Where something lies on a tank, from its rear and from its left side [mm]: the seat of a
    line's end, or a part that stands on it.
    """
    stands = laid.stands.standing.get(laid.stands.home.get(tank.id, ""))
    if stands is None or not at:
        return None
    name, _, end = at.partition(".")
    line = laid.lines.get(name)
    seat: Vector | None = None
    if line is not None and not line.inside:
        seat = (line.run.other if end == "b" else line.run.one).port.seat
    elif name in stands.assembly.at:
        seat = stands.point(stands.assembly.at[name])
    if (
        seat is None or seat[2] - stands.place.at[2] < body_of(tank).high - IN_WALL_MM
    ):  # in a wall, not on the top that the template shows
        return None
    turn = -math.radians(stands.place.yaw_deg)
    x, y = seat[0] - stands.place.at[0], seat[1] - stands.place.at[1]
    x, y = x * math.cos(turn) - y * math.sin(turn), x * math.sin(turn) + y * math.cos(turn)
    body = body_of(tank)
    return x + body.long / 2, body.wide / 2 - y


def _cuts(build: Build, tank: Element, depth: float | None) -> list[CutToDepth]:
    gap = build.shop.tank_gap_mm.get(tank.id, house_figure("pickup_gap_mm"))
    out = []
    hung = [
        h
        for h in hung_pumps(build.circuit)
        if h.tank is not None and h.tank.id == tank.id and h.within
    ]
    source = (
        "Gap under the pickup: common practice, or as you typed it; lengths of parts: their own."
    )
    for h in hung:
        long = body_of(h.pump).long
        mm = depth - gap - long if depth is not None else None
        steps = (
            (
                f"{depth:g} mm deep − {gap:g} mm under it − {long:g} mm pump and sock = {mm:.0f} mm".replace(
                    "-", "−"
                ),
            )
            if mm is not None and depth is not None
            else ()
        )
        out.append(
            CutToDepth(
                f"{h.pump.id}: pump hanger from the flange down to the pump", mm, Why(steps, source)
            )
        )
    if not hung and any(
        e.properties.mount == HANGER and tank.ports["outlet"] in e.ports.values()
        for e in build.circuit.elements
    ):
        mm = depth - gap if depth is not None else None
        out.append(
            CutToDepth(
                "pickup tube from the flange down",
                mm,
                Why(
                    (f"{depth:g} mm deep − {gap:g} mm under it = {mm:.0f} mm",)
                    if mm is not None
                    else (),
                    source,
                ),
            )
        )
    sender = house_figure("sender_gap_mm")
    mm = depth - sender if depth is not None else None
    out.append(
        CutToDepth(
            "level sender from the flange down",
            mm,
            Why(
                (f"{depth:g} mm deep − {sender:g} mm over the floor = {mm:.0f} mm",)
                if mm is not None
                else (),
                "Gap under a sender: common practice.",
            ),
        )
    )
    return out


def _expansion(p: Properties) -> Iterator[CutToDepth]:
    """How far under the top fuel may be filled, so that it finds room as it warms: nothing of a
    pot or a header, or of a tank that does not say what it holds and how deep it is.
    """
    share = house_figure("tank_expansion_share")
    if p.capacity_l is None or p.high_mm is None or p.family in FILLED:
        return
    box = p.capacity_l - (p.sump_l or 0.0)
    mm = share * p.capacity_l / box * p.high_mm
    yield CutToDepth(
        "expansion space: the filler's lip under the top, at least",
        mm,
        Why(
            (
                f"expansion space {100 * share:g} % × {p.capacity_l:g} L = {share * p.capacity_l:.1f} L, ÷ {box:g} L × {p.high_mm:g} mm high = {mm:.1f} mm",
            ),
            str(by_name("house_figures")["tank_expansion_share"]["source"]),
        ),
    )


@dataclass(frozen=True)
class Tile:
    """A piece of paper of a template at full size: its number and that of all, and what of the
    tank's top it shows [mm].
    """

    number: int
    count: int
    left: float
    top: float
    wide: float
    high: float


def tiles_of(sheet: TankSheet) -> list[Tile]:
    """The papers that a tank's top is printed on at full size; none while its holes must not be
    drilled, or where no place of one is known.
    """
    if sheet.undrillable or not any(o.place and o.hole_mm for o in sheet.openings):
        return []
    across, down = (
        max(math.ceil(side / most), 1)
        for side, most in zip(sheet.sides, (TILE_WIDE_MM, TILE_HIGH_MM), strict=True)
    )
    lefts = [
        (TILE_WIDE_MM * i, min(TILE_WIDE_MM, sheet.sides[0] - TILE_WIDE_MM * i))
        for i in range(across)
    ]
    tops = [
        (TILE_HIGH_MM * k, min(TILE_HIGH_MM, sheet.sides[1] - TILE_HIGH_MM * k))
        for k in range(down)
    ]
    return [
        Tile(n, across * down, x, y, w, h)
        for n, ((y, h), (x, w)) in enumerate(
            ((down_, across_) for down_ in tops for across_ in lefts), start=1
        )
    ]
