"""Which pumps hang in a tank, and which hoses lie in its fuel with them."""

from dataclasses import dataclass

from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import PumpMap
from tall_heron.core.document.kinds import PIPES
from tall_heron.core.document.path import downstream, upstream
from tall_heron.core.document.tank_shape import longest_mm

IN_TANK = ("in-tank", "module")  # how pumps are mounted that hang in fuel
HANGER = "hanger"
USUAL_SIDE_MM = 500.0  # of a tank that does not say its box


@dataclass(frozen=True)
class Hung:
    """A pump that is made to hang in a tank: the tank it draws from, hoses and lines on the way to
    it, other parts on the way that stand outside any tank, and the hanger behind it with the hoses
    up to that.
    """

    pump: Element
    tank: Element | None
    lines: tuple[Element, ...]
    outside: tuple[Element, ...]
    hanger: Element | None
    above: tuple[Element, ...]

    @property
    def reaches_mm(self) -> float:
        """How long a way from its outlet a tank can hold [mm]."""
        return (
            longest_mm(self.tank.properties) if self.tank is not None else None
        ) or USUAL_SIDE_MM

    @property
    def within(self) -> bool:
        """Whether all that leads to it can lie in its tank."""
        return (
            not self.outside
            and sum(e.length.mm for e in self.lines if e.length is not None) <= self.reaches_mm
        )

    @property
    def immersed(self) -> tuple[Element, ...]:
        """Hoses that lie in the fuel."""
        return (
            (*self.lines, *(self.above if self.hanger is not None else ())) if self.within else ()
        )


def hung_pumps(circuit: Circuit) -> list[Hung]:
    """Every pump that is made to hang in a tank."""
    return circuit.memo(_every_hung)


def _every_hung(circuit: Circuit) -> list[Hung]:
    return [_hung(circuit, e) for e in circuit.of_kind("pump") if e.properties.mount in IN_TANK]


def _hung(circuit: Circuit, pump: Element) -> Hung:
    before = upstream(circuit, pump)
    tanks = {t.ports["outlet"]: t for t in circuit.of_kind("tank")}
    nodes = [*pump.ports.values(), *(n for e in before for n in e.ports.values())]
    lines = tuple(e for e in before if e.kind in PIPES)
    outside = tuple(
        e
        for e in before
        if not (e.kind in (*PIPES, "strainer", "tank") or _lies_with(e))
        or e.properties.mount == "gascolator"
    )
    behind = downstream(circuit, pump)
    hanger = next((e for e in behind if e.properties.mount == HANGER), None)
    above = behind[: behind.index(hanger)] if hanger is not None else []
    return Hung(
        pump,
        next((tanks[n] for n in nodes if n in tanks), None),
        lines,
        outside,
        hanger,
        tuple(e for e in above if e.kind in PIPES),
    )


def _lies_with(element: Element) -> bool:
    """Whether a part lies wherever its lines do: a plain fitting, which goes through no wall."""
    return (
        element.kind == "fitting"
        and element.properties.mount in ("", "adapter")
        and not element.properties.family.startswith("bulkhead")
    )


def stands_outside(element: Element) -> bool:
    """Whether a pump is an electric one made to stand beside the tank."""
    return isinstance(element.figures, PumpMap) and element.properties.mount == "external"
