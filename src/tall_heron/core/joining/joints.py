"""Every joint of a build: which two ports meet where, and what joins them. Read from the circuit,
the shelf's data and what somebody looked at.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property

from tall_heron.core.base.catalogue import by_name, table
from tall_heron.core.document.airspace import airspaces
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Circuit, Element, End
from tall_heron.core.document.faces import Face, face
from tall_heron.core.document.figures import Regulator
from tall_heron.core.document.kinds import LINES
from tall_heron.core.document.mounts import hung_pumps
from tall_heron.core.document.path import downstream, ways
from tall_heron.core.joining.chains import Adapter, Join, join, named
from tall_heron.core.joining.turned import Rows, faces_of, is_adapter

ENDS = {"start": "a", "end": "b"}  # the ends of a line, and its ports
TO_ITS_LINE = "flare line"  # a port that is made to order, in the size of the line that meets it
BORE_ONLY = ("injectors",)  # held by their cups, not by a thread


@dataclass(frozen=True)
class Side:
    """One port of a joint: the part, its port (an end of a line is `a` or `b`), its face, and
    whether nobody has said it.
    """

    element: str
    port: str
    face: Face
    assumed: bool = False
    line: bool = False

    @property
    def key(self) -> str:
        """Its name in the document."""
        return f"{self.element}.{self.port}"


@dataclass(frozen=True)
class Joint:
    """Two sides that meet; how they may be joined; the adapters that stand there, by rule or as
    somebody `picked`. `broken` says that what was picked does not fit any more.
    """

    one: Side
    other: Side
    how: Join
    pieces: tuple[Adapter, ...] = ()
    picked: bool = False
    broken: bool = False

    @property
    def key(self) -> str:
        """Its name: that of its first side."""
        return self.one.key

    @property
    def lines(self) -> tuple[str, ...]:
        """The lines that end here."""
        return tuple(s.element for s in (self.one, self.other) if s.line)


@dataclass(frozen=True)
class Joints:
    """All joints of a build; `hubs` are Ys and tees that its circuit does not draw though three or
    more ends meet, by the place; `shut` are ports that something must close; `alone` are
    sides that meet nothing.
    """

    joints: tuple[Joint, ...]
    hubs: tuple[tuple[str, str], ...] = ()
    shut: tuple[tuple[Side, str], ...] = ()
    alone: tuple[Side, ...] = ()

    @property
    def by_key(self) -> dict[str, Joint]:
        """The joints by their names."""
        return {j.key: j for j in self.joints}

    def at(self, key: str) -> Joint | None:
        """The joint that a port is at, by the name of either of its sides."""
        return next((j for j in self.joints if key in (j.one.key, j.other.key)), None)

    def of(self, element_id: str) -> tuple[Joint, ...]:
        """The joints that a part is at."""
        return tuple(j for j in self.joints if element_id in (j.one.element, j.other.element))


def joints_of(build: Build) -> Joints:
    """Every joint of a build, found once for a circuit and what its builder typed of its ports."""
    return build.circuit.memo(_make_joints, _Typed(build))


def same_joints(build: Build, other: Circuit) -> None:
    """Tell a circuit that differs in nothing a joint reads what the joints of a build are."""
    other.remember(joints_of(build), _make_joints, _Typed(build))


class _Typed:
    """A build, alike to any other whose builder typed the same of its ports and joints."""

    def __init__(self, build: Build) -> None:
        shop = build.shop
        self.build = build
        self.key = repr((shop.faces, shop.joints)) if shop.faces or shop.joints else ""

    def __hash__(self) -> int:
        return hash(self.key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Typed) and self.key == other.key


def _make_joints(_: Circuit, typed: _Typed) -> Joints:
    return _Finder(typed.build).result()


def end_face(line: Element, end: End | None) -> tuple[Face, bool]:
    """What the end of a line screws onto, and whether that is assumed: an end of one's own that
    does not say.
    """
    dash = (end.dash if end is not None else "") or line.properties.dash
    style = by_name("end_styles", "family").get(line.properties.family)
    if end is not None and end.face:
        return face(end.face), False
    if end is None:
        return Face("hose" if line.kind != "line" else "tube", dash), False
    return Face(str(style["face"]) if style is not None else "nut", dash), end.shelf is None


@dataclass
class _Finder:
    build: Build
    joints: list[Joint] = field(default_factory=list)
    hubs: list[tuple[str, str]] = field(default_factory=list)
    shut: list[tuple[Side, str]] = field(default_factory=list)
    alone: list[Side] = field(default_factory=list)

    @property
    def circuit(self) -> Circuit:
        return self.build.circuit

    def result(self) -> Joints:
        within = self._within()
        at: dict[str, list[Side]] = {}
        for e in self.circuit.elements:
            for port, node in e.ports.items():
                side = self._side(e, port, node)
                if side is not None and (e.id, node) not in within:
                    at.setdefault(node, []).append(side)
        for node, sides in at.items():
            self._meet(node, sides)
        for one, other in self._dry():
            self._join(one, other)
        return Joints(tuple(self.joints), tuple(self.hubs), tuple(self.shut), tuple(self.alone))

    def _within(self) -> set[tuple[str, str]]:
        """What hangs in a tank, and the tank's outlet that is no hole then: parts with the places
        where they meet nothing that screws.
        """
        out: set[tuple[str, str]] = set()
        for hung in hung_pumps(self.circuit):
            if hung.tank is None or not hung.within:
                continue
            node = hung.tank.ports["outlet"]
            out.add((hung.tank.id, node))
            drawn = [
                e
                for e in self.circuit.elements
                if node in e.ports.values() and e.kind in ("strainer", "hose", "line", "pump")
            ]
            out |= {
                (e.id, node)
                for e in drawn
                if next((n for p, n in e.ports.items() if p != "end"), "") == node
            }
            inlet = ways(hung.pump)[0][0]
            if not hung.lines:  # socks push onto the pumps
                out |= {(e.id, inlet) for e in self.circuit.elements if inlet in e.ports.values()}
            if hung.hanger is not None:
                out.update(self._on_the_hanger(hung.pump, hung.hanger))
        return out

    def _on_the_hanger(self, pump: Element, hanger: Element) -> Iterator[tuple[str, str]]:
        """Parts between a pump and what it hangs from: the hanger comes with its own lines and
        clamps for them, where none is drawn.
        """
        for e in (pump, *downstream(self.circuit, pump)):
            if e.id == hanger.id:
                yield e.id, e.ports["start"]
                return
            for node in e.ports.values():
                there = [x for x in self.circuit.elements if node in x.ports.values()]
                if (
                    e.kind not in LINES
                    and node != ways(pump)[0][0]
                    and not any(x.kind in LINES for x in there)
                ):
                    yield e.id, node

    def _side(self, e: Element, port: str, node: str) -> Side | None:
        """A port as a side of a joint; None for one that no thread belongs to."""
        if e.kind in BORE_ONLY:
            return None
        if e.kind in LINES:
            end = e.end_a if port == "start" else e.end_b
            result, guessed = end_face(e, end)
            return Side(
                e.id,
                ENDS[port],
                self._face_typed(e, ENDS[port]) or result,
                guessed and self._face_typed(e, ENDS[port]) is None,
                True,
            )
        typed = self._face_typed(e, port)
        if typed is not None:
            return Side(e.id, port, typed)
        known = faces_of(e)
        if known:
            return self._of_shelf(e, port, known, node)
        return Side(e.id, port, self._usual(e, node), True)

    def _face_typed(self, e: Element, port: str) -> Face | None:
        text = self.build.shop.faces.get(e.id, {}).get(port)
        try:
            return face(text) if text else None
        except ValueError:
            return None

    def _of_shelf(self, e: Element, port: str, known: dict[str, str], node: str) -> Side | None:
        text = known.get(port)
        if is_adapter(e) and known.get("start") != known.get("end"):
            text = (
                known["end" if port == "start" else "start"] if e.id in self._rows.turned else text
            )
        if text is None:
            return Side(e.id, port, self._usual(e, node), True)
        if text == TO_ITS_LINE:
            return Side(e.id, port, self._usual(e, node))
        result = face(text)
        return None if result.sort in ("open", "weld") else Side(e.id, port, result)

    @cached_property
    def _rows(self) -> Rows:
        return Rows(self.circuit, self._beside)

    def _beside(self, e: Element, node: str) -> Iterator[Face]:
        for other in self._rows.at.get(node, ()):
            if other.id == e.id or other.kind in BORE_ONLY or is_adapter(other):
                continue
            for port, at in other.ports.items():
                if at == node and (side := self._side(other, port, node)) is not None:
                    yield side.face

    def _usual(self, e: Element, node: str) -> Face:
        """The face of a part that does not say, in the size of the line that meets it."""
        row = by_name("ports_usual", "kind").get(e.kind)
        sort = str(row["sort"]) if row is not None else "flare"
        dash = self._dash_at(e, node) or e.properties.dash or "-8"
        pipe = {"-4": "1/8", "-6": "1/4", "-8": "3/8", "-10": "1/2", "-12": "3/4", "-16": "1"}
        return Face(
            sort, "1/8" if sort == "taper" else pipe.get(dash, "3/8") if sort == "pipe" else dash
        )

    def _dash_at(self, e: Element, node: str) -> str:
        """The size of the line that meets a part at a place, past the adapters between; where no
        line does, of the part that does.
        """
        met = {e.id}
        while True:
            there = [
                x
                for x in self._rows.at.get(node, ())
                if x.id not in met and not (e.kind == "tank" and x.ports.get("end") == node)
            ]  # what flows into a tank has its own opening
            line = next(
                (
                    x.properties.dash
                    for x in sorted(there, key=lambda x: x.kind not in LINES)
                    if x.properties.dash and not is_adapter(x)
                ),
                "",
            )
            if line or len(there) != 1 or not is_adapter(there[0]):
                return line
            met.add(there[0].id)
            node = next(n for n in there[0].ports.values() if n != node)

    def _meet(self, node: str, sides: list[Side]) -> None:
        """Join what meets at a place."""
        taps = [s for s in sides if self._kind(s) == "gauge"]
        rest = [s for s in sides if s not in taps]
        rest = self._to_tank(rest)
        for tap in taps:
            self._tap(node, tap, rest)
        if len(rest) == 2:
            one, other = sorted(rest, key=lambda s: not s.line)
            self._join(one, other)
        elif len(rest) == 1:
            self._single(node, rest[0])
        elif len(rest) > 2:
            self._hub(node, rest)

    def _kind(self, side: Side) -> str:
        e = self.circuit.element(side.element)
        return e.kind if e is not None else ""

    def _single(self, node: str, side: Side) -> None:
        """A port that meets nothing: a rail's far end is plugged, an inlet opens into its tank, a
        line's end is left over.
        """
        there = [
            e for e in self.circuit.elements if node in e.ports.values() and e.id != side.element
        ]
        if side.line and not any(e.kind in ("tank", "fitting") for e in there):
            self.alone.append(side)
        elif self._kind(side) == "rail":
            self.shut.append((side, "its far end"))
        elif not there and self._kind(side) not in ("tank",):
            self.shut.append((side, "nothing leads on from it"))

    def _to_tank(self, sides: list[Side]) -> list[Side]:
        """What flows into a tank where others draw has an opening of its own there."""
        tank = next((s for s in sides if self._kind(s) == "tank"), None)
        if tank is None:
            return sides
        inward = [s for s in sides if s is not tank and s.port in ("b", "end")]
        if len(sides) - len(inward) < 2 and len(inward) == 1:
            return sides  # a return into a tank that nothing else draws from here
        e = self.circuit.element(tank.element)
        assert e is not None
        for s in inward:
            self._join(s, self._extra(e, "return", s.face))
        return [s for s in sides if s not in inward]

    def _extra(self, e: Element, port: str, like: Face) -> Side:
        """A port of a part beside those that its kind has: a tank's vent, a regulator's reference.
        Assumed where its data does not say: of the size of what meets it.
        """
        typed = self._face_typed(e, port)
        if typed is not None:
            return Side(e.id, port, typed)
        text = faces_of(e).get(port)
        if text not in (None, TO_ITS_LINE):
            return Side(e.id, port, face(text))
        mate = {"nut": "flare", "hose": "bead", "tube": "bead"}.get(like.sort, "flare")
        return Side(e.id, port, Face(mate, like.size), text is None)

    def _tap(self, node: str, tap: Side, rest: list[Side]) -> None:
        """A gauge goes into a gauge port of what stands there, else into a tee of the line's size."""
        for s in rest:
            e = self.circuit.element(s.element)
            taken = {j.other.key for j in self.joints}
            if e is not None and "gauge" in faces_of(e) and f"{e.id}.gauge" not in taken:
                self._join(tap, self._extra(e, "gauge", tap.face))
                return
        size = next(
            (s.face.size for s in rest if s.line),
            next((s.face.size for s in rest if s.face.size.startswith("-")), "-8"),
        )
        name = f"gauge-tee{size}"
        if name in by_name("closures"):
            self.hubs.append((node, name))
            self._join(tap, Side(node, "gauge", Face("pipe", "1/8")))

    def _hub(self, node: str, sides: list[Side]) -> None:
        """Three ends or more at one place: tees of the largest line there, in a row."""
        sizes = [int(s.face.size.lstrip("-")) for s in sides if s.face.size.startswith("-")]
        wanted = max(sizes, default=8)
        tees = sorted(
            (int(str(r["name"]).rpartition("-")[2]), str(r["name"]))
            for r in table("plain_parts")
            if r["kind"] == "tee"
        )
        size, name = next(((n, t) for n, t in tees if n >= wanted), tees[-1])
        for i in range(len(sides) - 2):
            self.hubs.append((node, name))
            if i:
                self.hubs.append((node, f"swivel-{size}"))
        for i, s in enumerate(sides, 1):
            self._join(s, Side(node, f"leg {i}", Face("flare", f"-{size}")))

    def _join(self, one: Side, other: Side) -> None:
        how = join(one.face, other.face)
        key = one.key
        names = self.build.shop.joints.get(key)
        chain = named(one.face, tuple(names), other.face) if names else None
        if chain is not None:
            self.joints.append(Joint(one, other, how, chain, True))
        else:
            self.joints.append(
                Joint(one, other, how, how.ways[0] if how.ways else (), False, bool(names))
            )

    def _dry(self) -> Iterator[tuple[Side, Side]]:
        """Joints of lines that no node of the circuit holds: vents, references, overflows, fillers
        and drains, by the order they stand in.
        """
        c = self.circuit
        tanks, airs, valves = c.of_kind("tank"), airspaces(c.elements), c.of_kind("vent_valve")
        felt = [
            e
            for e in c.elements
            if isinstance(e.figures, Regulator) and e.figures.reference != "atmosphere"
        ] or c.of_kind("regulator")
        pots = [t for t in tanks if t.properties.family in ("pot", "header")]
        whole = [t for t in tanks if t not in pots] or tanks
        for kind, first, port in (
            ("vent", airs or tanks, "vent"),
            ("filler", whole, "filler"),
            ("drain", tanks, "drain"),
            ("overflow", pots or tanks, "overflow"),
        ):
            for i, line in enumerate(c.of_kind(kind)):
                if line.ports or not first:
                    continue
                a, b = (self._line_end(line, x) for x in "ab")
                yield a, self._extra(first[min(i, len(first) - 1)], port, a.face)
                if kind == "vent" and i < len(valves):
                    yield b, self._extra(valves[i], "start", b.face)
                elif kind == "overflow" and whole:
                    yield b, self._extra(whole[0], "return", b.face)
        for i, line in enumerate(c.of_kind("reference")):
            b = self._line_end(line, "b")
            yield self._line_end(line, "a"), Side("manifold", "plenum", Face("pipe", "1/8"), True)
            if felt:
                yield b, self._extra(felt[min(i, len(felt) - 1)], "reference", b.face)

    def _line_end(self, line: Element, end: str) -> Side:
        result, guessed = end_face(line, line.end_a if end == "a" else line.end_b)
        typed = self._face_typed(line, end)
        return Side(line.id, end, typed or result, guessed and typed is None, True)
