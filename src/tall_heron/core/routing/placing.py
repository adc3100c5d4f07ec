"""Where assemblies stand: as somebody placed them, else by rule from the outline; and the ports
that lines end on.
"""

import math
from dataclasses import dataclass, field, replace

from tall_heron.core.document.airspace import airspaces
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import Displacement, Regulator
from tall_heron.core.document.kinds import LINES
from tall_heron.core.document.path import upstream
from tall_heron.core.document.space import Place
from tall_heron.core.routing.assembly import (
    FLANGE_MM,
    NUT_MM,
    Assembly,
    Body,
    X,
    Z,
    assemblies_of,
    body_of,
    outlet_left,
    spread_out,
)
from tall_heron.core.routing.outline import Outline, Spot
from tall_heron.core.routing.run import Port
from tall_heron.core.routing.vectors import (
    Vector,
    add_vectors,
    scaled,
    size,
    subtract_vectors,
    unit,
)

DRAIN_MM = 120.0  # a drain under its tank
BESIDE_BOWL = (60.0, 120.0, -40.0)  # mm from a bowl, where the line to it is parted
APART = 55.0  # mm between two lines that end on one node
STEPS = {
    "pump": (-300.0, 0.0, 0.0),
    "filter": (260.0, 0.0, 0.0),
    "other": (260.0, 0.0, 0.0),
    "regulator": (0.0, -110.0, 0.0),
    "carburettor": (-280.0, 0.0, 0.0),
    "tank": (0.0, -480.0, 0.0),
}  # mm from one that stands there to the next


@dataclass(frozen=True)
class Standing:
    """An assembly in the vehicle: its place, whether somebody said it, and whether its left and
    right are swapped.
    """

    assembly: Assembly
    place: Place
    typed: bool
    mirrored: bool

    def way(self, local: Vector) -> Vector:
        """A direction of its own frame in the vehicle's."""
        x, y, z = local[0], -local[1] if self.mirrored else local[1], local[2]
        p, w = math.radians(self.place.pitch_deg), math.radians(self.place.yaw_deg)
        x, z = x * math.cos(p) - z * math.sin(p), x * math.sin(p) + z * math.cos(p)
        return x * math.cos(w) - y * math.sin(w), x * math.sin(w) + y * math.cos(w), z

    def point(self, local: Vector) -> Vector:
        """A place of its own frame in the vehicle's [mm]."""
        return add_vectors(self.place.at, self.way(local))


@dataclass
class Stands:
    """Where everything stands: `standing` by the id of the part that names the assembly, `home`
    says which assembly a part belongs to, valves and joints of lines by their names, in an
    `outline`.
    """

    standing: dict[str, Standing]
    home: dict[str, str]
    valves: dict[str, Vector]
    outline: Outline
    joints: dict[str, Vector] = field(default_factory=dict)
    plenum: Vector = (0.0, 0.0, 0.0)
    vents: tuple[Vector, ...] = ()

    def boxes(self) -> list[tuple[Element, Vector, Body, float]]:
        """Every body: its part, its middle, its size as it stands up, how it is turned about the
        upright [deg].
        """
        out = []
        for s in self.standing.values():
            for e in s.assembly.parts:
                body = s.assembly.bodies.get(e.id)
                if body is not None and e.id in s.assembly.at:
                    if round(s.place.pitch_deg / 90) % 2:
                        body = replace(body, long=body.high, high=body.long)
                    out.append((e, s.point(s.assembly.at[e.id]), body, s.place.yaw_deg))
        return out

    def nodes(self, circuit: Circuit) -> dict[str, Vector]:
        """Where every node lies that something stands on [mm]."""
        out = dict(self.joints)
        for s in self.standing.values():
            out |= {n: s.point(at) for n, at in s.assembly.nodes.items()}
        return {n.id: out[n.id] for n in circuit.nodes if n.id in out}


def stand(build: Build, outline: Outline) -> Stands:
    """Where the assemblies of a build stand."""
    typed = build.space.places
    standing, home, used = dict[str, Standing](), dict[str, str](), dict[str, int]()
    for a in assemblies_of(build.circuit):
        home |= {e.id: a.main.id for e in a.parts}
        name = _spot_name(a, build.circuit)
        count = used[name] = used.get(name, -1) + 1
        spot = _spot(outline, name, count)
        own = typed.get(a.main.id)
        place = own or Place(at=spot.at, yaw_deg=spot.yaw, pitch_deg=spot.pitch)
        if name == "tank" and outline.outlet_left:
            a = outlet_left(a)
        standing[a.main.id] = Standing(
            a, place, own is not None, a.main.kind == "tank" and place.at[1] < 0
        )
    valves = {}
    for i, e in enumerate(build.circuit.of_kind("vent_valve")):
        valves[e.id] = (
            typed[e.id].at
            if e.id in typed
            else add_vectors(_spot(outline, "vent", i).at, (0.0, 0.0, 0.0))
        )
        home[e.id] = e.id
    vents = tuple(_spot(outline, "vent", i).at for i in range(8))
    return Stands(standing, home, valves, outline, {}, outline.spots["plenum"].at, vents)


def _spot_name(a: Assembly, circuit: Circuit) -> str:
    main = a.main
    if main.kind == "filter" and any(
        isinstance(e.figures, Displacement) for e in upstream(circuit, main)
    ):
        return "engine filter"
    if main.kind == "split" and circuit.of_kind("carburettor"):
        return "bowl split"
    if main.kind == "tank":
        return main.properties.family if main.properties.family in ("pot", "header") else "tank"
    if main.kind == "selector":
        return "return selector" if main.role == "return" else "selector"
    if isinstance(main.figures, Displacement):
        return "engine pump"
    by_kind = {"controller": "regulator", "relief": "regulator", "strainer": "pump", "jet": "pump"}
    name = by_kind.get(main.kind, main.kind)
    if name in ("rail", "carburettor", "pump", "regulator", "filter"):
        return name
    return "pump" if main.role == "suction" else "other"


def _spot(outline: Outline, name: str, count: int) -> Spot:
    """The spot of a name, the next of it where one stands there, or a step away."""
    if name == "engine filter" and "engine pump" in outline.spots:
        pump, top = (_spot(outline, x, 0).at for x in ("engine pump", "carburettor"))
        return Spot(scaled(add_vectors(pump, top), 0.5), 0.0)
    if name == "bowl split":
        bowl = _spot(outline, "carburettor", count)
        return Spot(add_vectors(bowl.at, BESIDE_BOWL), 0.0)
    numbered = f"{name} {count + 1}"
    if count and numbered in outline.spots:
        return outline.spots[numbered]
    first = (
        outline.spots.get(name)
        or outline.spots.get("selector" if name == "return selector" else "other")
        or Spot((0.0, 0.0, 0.0), 0.0)
    )
    step = STEPS.get(name, (-140.0, 0.0, 0.0))
    return Spot(add_vectors(first.at, step, float(count)), first.yaw, first.pitch)


@dataclass
class Ends:
    """Gives each end of a line its port; two that end on one node stand apart."""

    stands: Stands
    circuit: Circuit
    used: dict[str, int] = field(default_factory=dict)

    def of(self, line: Element) -> tuple[Port | None, Port | None]:
        """The ports of a line's ends A and B; None for an end that nothing says the place of, or a
        joint of lines that has no direction.
        """
        if line.ports:
            return self._at(line.ports["start"]), self._at(line.ports["end"])
        return {
            "vent": self._vent,
            "reference": self._reference,
            "overflow": self._overflow,
            "filler": self._filler,
            "drain": self._drain,
        }[line.kind](line)

    def _at(self, node: str) -> Port | None:
        for s in self.stands.standing.values():
            if node in s.assembly.nodes:
                ways = s.assembly.ways_out[node]
                seat = f"{s.assembly.main.id} {s.assembly.nodes[node]}"
                count = self.used[seat] = self.used.get(seat, -1) + 1
                away = unit(s.way(ways[0]))
                side = (0.0, 0.0, 1.0) if abs(away[2]) < 0.5 else (1.0, 0.0, 0.0)
                if s.assembly.main.kind != "tank" and count and len(ways) > 1:
                    return Port(
                        s.point(s.assembly.nodes[node]),
                        unit(s.way(ways[min(count, len(ways) - 1)])),
                    )
                return Port(add_vectors(s.point(s.assembly.nodes[node]), side, APART * count), away)
        return None

    def _nth(self, line: Element) -> int:
        return [e.id for e in self.circuit.of_kind(line.kind)].index(line.id)

    def _top(self, tank: Element, shift: int) -> Port:
        s = self.stands.standing[self.stands.home[tank.id]]
        box = body_of(tank)
        # Vents stand at the far side, clear of what hangs in the tank and of one another.
        over = {"hanger": FLANGE_MM, "inlet": NUT_MM}
        mounted = [
            (*s.assembly.at[e.id][:2], over[e.properties.mount])
            for e in s.assembly.parts
            if e.properties.mount in over
        ]
        wanted = [
            (str(i), -box.long / 2 + 60.0 + APART * i, box.wide / 2 - 50.0, NUT_MM)
            for i in range(shift + 1)
        ]
        at = spread_out(box, wanted, mounted)[str(shift)]
        return Port(s.point((*at, box.high)), unit(s.way(Z)))

    def _vent(self, line: Element) -> tuple[Port | None, Port | None]:
        i, airs = self._nth(line), airspaces(self.circuit.elements)
        tanks = airs or self.circuit.of_kind("tank")
        one = (
            self._top(tanks[min(i, len(tanks) - 1)], max(i - len(tanks) + 1, 0)) if tanks else None
        )
        valves = list(self.stands.valves.values())
        if i < len(valves):
            return one, Port(valves[i], (0.0, 0.0, -1.0))
        return one, Port(
            self.stands.vents[min(i, 7)], (0.0, 0.0, 1.0)
        )  # an open end that looks down

    def _tank(self, line: Element) -> Element | None:
        """The tank that a line of its kind belongs to, by the order they stand in; the last for
        those over.
        """
        tanks = self.circuit.of_kind("tank")
        return tanks[min(self._nth(line), len(tanks) - 1)] if tanks else None

    def _filler(self, line: Element) -> tuple[Port | None, Port | None]:
        """From the tank to its cap: straight up where the cap is over it, else from its upper side."""
        tank, cap = self._tank(line), self._spot("filler", line)
        if tank is None:
            return None, None
        s, box = self.stands.standing[self.stands.home[tank.id]], body_of(tank)
        long, wide = (
            (box.wide, box.long) if round(s.place.yaw_deg / 90) % 2 else (box.long, box.wide)
        )
        x, y, z = s.place.at
        near = (
            max(x - long / 2 + 60, min(x + long / 2 - 60, cap[0])),
            max(y - wide / 2 + 60, min(y + wide / 2 - 60, cap[1])),
        )
        if abs(near[1] - cap[1]) < 1.0:
            return Port((*near, z + box.high), (0.0, 0.0, 1.0)), Port(cap, (0.0, 0.0, -1.0))
        side = 1.0 if cap[1] > y else -1.0
        return Port((near[0], y + side * wide / 2, z + box.high - 40.0), (0.0, side, 0.0)), Port(
            cap, unit((0.0, -side, -1.0))
        )

    def _drain(self, line: Element) -> tuple[Port | None, Port | None]:
        """Straight down from the middle of the tank's underside."""
        tank = self._tank(line)
        if tank is None:
            return None, None
        s = self.stands.standing[self.stands.home[tank.id]]
        low = s.point((0.0, 0.0, 0.0))
        return Port(low, (0.0, 0.0, -1.0)), Port(
            add_vectors(low, (0.0, 0.0, -DRAIN_MM)), (0.0, 0.0, 1.0)
        )

    def _spot(self, name: str, line: Element) -> Vector:
        return _spot(self.stands.outline, name, self._nth(line)).at

    def _reference(self, line: Element) -> tuple[Port | None, Port | None]:
        felt = [
            e
            for e in self.circuit.elements
            if isinstance(e.figures, Regulator) and e.figures.reference != "atmosphere"
        ] or self.circuit.of_kind("regulator")
        i = min(self._nth(line), len(felt) - 1)
        if i < 0:
            return None, None
        s = self.stands.standing[self.stands.home[felt[i].id]]
        body = body_of(felt[i])
        other = Port(
            s.point(add_vectors(s.assembly.at[felt[i].id], Z, body.high / 2)), unit(s.way(Z))
        )
        toward = subtract_vectors(other.seat, self.stands.plenum)
        away = (
            (-1.0 if toward[0] < 0 else 1.0, 0.0, 0.0)
            if abs(toward[0]) > abs(toward[1])
            else (0.0, -1.0 if toward[1] < 0 else 1.0, 0.0)
        )
        return Port(self.stands.plenum, away), other

    def _overflow(self, line: Element) -> tuple[Port | None, Port | None]:
        tanks = self.circuit.of_kind("tank")
        pots = [t for t in tanks if t.properties.family in ("pot", "header")]
        rest = [t for t in tanks if t not in pots]
        if not pots or not rest:
            return None, None
        return self._top(pots[min(self._nth(line), len(pots) - 1)], 0), self._top(rest[0], 2)


def joints_between(build: Build, circuit: Circuit, stands: Stands) -> None:
    """Place what only lines meet at: as somebody said, else half-way between what the lines lead
    to.
    """
    lines = [e for e in circuit.elements if e.kind in LINES and e.ports]
    known = stands.nodes(circuit)
    for node in dict.fromkeys(n for e in lines for n in e.ports.values()):
        if node in known:
            continue
        own = build.space.places.get(node)
        far = [
            known[n]
            for e in lines
            if node in e.ports.values()
            for n in e.ports.values()
            if n in known
        ]
        middle = scaled(_sum(far), 1 / len(far)) if far else (0.0, 0.0, 300.0)
        known[node] = stands.joints[node] = own.at if own is not None else middle


def _sum(vectors: list[Vector]) -> Vector:
    out = (0.0, 0.0, 0.0)
    for v in vectors:
        out = add_vectors(out, v)
    return out


def facing(port_at: Vector, to: Vector) -> Vector:
    """The direction from a place to another, or forward where they are one."""
    d = subtract_vectors(to, port_at)
    return unit(d) if size(d) > 1.0 else X
