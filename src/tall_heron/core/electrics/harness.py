"""What a harness is: its wires, the feed of each pump, relays and ground points, and what pumps
share of them. How its sizes are chosen: feeds.py.
"""

from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from tall_heron.core.document.wiring import GroundPoint, Relay, Wiring, WiringBranch
from tall_heron.core.electrics.driver import Driver
from tall_heron.core.electrics.wire import area_mm2


@dataclass(frozen=True)
class Wire:
    """A conductor as it is: its number on the drawing, what it joins, its size and whether that is
    by rule, length [mm] and whether that was measured, the current it is made for [A], its
    resistance at its temperature [ohm, degC] and what it carries [A].
    """

    number: str
    start: str
    end: str
    size: str
    by_rule: bool
    long_mm: float
    measured: bool
    ampere: float
    celsius: float
    ohm: float
    carries_a: float
    color: str = ""

    @property
    def drop(self) -> float:
        """What it takes of the voltage at the current it is made for [V]."""
        return self.ohm * self.ampere


@dataclass(frozen=True)
class Feed:
    """One pump on its wires. `highest` is the most it draws on its map up to its relief [A]; a
    brushless one hangs at its `driver`; its own wires go on `terminals`.
    """

    pump: str
    branch: WiringBranch
    highest: float
    fuse: float | None
    out: Wire
    back: Wire
    contacts: float  # ohm, crimps and the relay that is its own
    driver: Driver | None = None
    terminals: str = "blade"

    @cached_property
    def own(self) -> float:
        """The resistance that only its current flows through [ohm]."""
        return self.out.ohm + self.back.ohm + self.contacts


@dataclass(frozen=True)
class Contact:
    """A relay as it is: its rating, typed or by rule [A], the pumps it feeds, the wire to it, its
    fuse, the resistance that all its pumps share [ohm].
    """

    relay: Relay
    rated: float
    pumps: tuple[str, ...]
    supply: Wire
    fuse: float | None
    ampere: float
    shared: float


@dataclass(frozen=True)
class Grounding:
    """A ground point as it is: the pumps grounded there, the wire on from it, and what flows through
    that when all draw their most [A].
    """

    point: GroundPoint
    pumps: tuple[str, ...]
    wire: Wire
    ampere: float


@dataclass(frozen=True)
class SharedPath:
    """A relay or a ground point by its name, the pumps whose current goes through it, and its
    resistance [ohm].
    """

    kind: Literal["relay", "ground"]
    name: str
    pumps: tuple[str, ...]
    ohm: float


@dataclass(frozen=True)
class Harness:
    """All feeds by pump, all relays and ground points by name, the system's `volts`, the rise at peak
    [kPa], and the pumps that are `unwired`: nobody has wired them, or their sheet says no current.
    """

    wiring: Wiring
    volts: float
    kpa: float
    feeds: dict[str, Feed]
    relays: dict[str, Contact]
    grounds: dict[str, Grounding]
    unwired: tuple[str, ...] = ()

    @cached_property
    def shared_paths(self) -> list[SharedPath]:
        """What pumps may hang at together: relays, then ground points."""
        relays = [
            SharedPath("relay", c.relay.name, c.pumps, c.shared) for c in self.relays.values()
        ]
        grounds = [
            SharedPath("ground", g.point.name, g.pumps, g.wire.ohm) for g in self.grounds.values()
        ]
        return relays + grounds

    def shares(self, pump: str) -> list[tuple[float, tuple[str, ...]]]:
        """What a pump's current shares: each resistance [ohm], and the other pumps through it."""
        return [
            (path.ohm, tuple(p for p in path.pumps if p != pump))
            for path in self.shared_paths
            if pump in path.pumps
        ]

    def shared(self, pump: str) -> float:
        """The resistance that a pump's current may share with others' [ohm]."""
        return sum(ohm for ohm, _ in self.shares(pump))

    def beside(self, pump: str) -> tuple[str, ...]:
        """The other pumps behind the same relay or on the same ground point."""
        return tuple(dict.fromkeys(p for _, pumps in self.shares(pump) for p in pumps))

    @property
    def together(self) -> float:
        """What all its pumps may draw together [A]."""
        return sum(f.highest for f in self.feeds.values())

    @property
    def buses(self) -> list[str]:
        """The buses that something hangs at."""
        return sorted({f.branch.bus for f in self.feeds.values()})

    @property
    def wires(self) -> list[Wire]:
        """Every wire, those of relays and ground points first."""
        return [
            *(c.supply for c in self.relays.values()),
            *(g.wire for g in self.grounds.values()),
            *(w for f in self.feeds.values() for w in (f.out, f.back)),
        ]


def copper_kg(wire: Wire) -> float:
    """The mass of its copper [kg]; insulation is not in it."""
    return 8890 * area_mm2(wire.size) * 1e-6 * wire.long_mm / 1000
