"""Which tanks breathe by themselves."""

from collections.abc import Sequence

from tall_heron.core.document.circuit import Element
from tall_heron.core.document.path import ways

ONE_AIR = ("saddle tank",)  # families whose tanks in one circuit are parts of one


def airspaces(elements: Sequence[Element]) -> list[Element]:
    """The tanks that need a vent line of their own: one with a valve of its own does not; both
    halves of a saddle tank share their air, and a pot that something fills lets its air out through
    its overflow, where there is one; one with a valve of its own needs no line.
    """
    outlets = {e.ports["outlet"]: e for e in elements if e.kind == "tank"}
    lifted: set[str] = set()
    if any(e.kind == "overflow" for e in elements):
        onward: dict[str, list[str]] = {}
        for e in elements:
            for a, b in ways(e):
                onward.setdefault(a, []).append(b)
        for pump in (e for e in elements if e.kind == "pump"):
            here, met = ways(pump)[0][1], set[str]()
            while here not in met and here not in outlets and len(onward.get(here, ())) == 1:
                met.add(here)
                here = onward[here][0]
            lifted |= {outlets[here].id} if here in outlets else set()
    out: list[Element] = []
    shared: set[str] = set()
    for tank in outlets.values():
        air = tank.properties.family if tank.properties.family in ONE_AIR else ""
        if tank.id not in lifted and not (air and air in shared) and not tank.properties.vented:
            out.append(tank)
        shared |= {air} if air else set()
    return out
