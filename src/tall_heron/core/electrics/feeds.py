"""How a harness comes about: sizes and fuses by rule or as typed, and the resistance from the source
to each pump and back. What it is made of: harness.py.
"""

import itertools
import math
from collections.abc import Sequence

from tall_heron.core.base.catalogue import Row, house_figure, table
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import PumpMap
from tall_heron.core.document.wiring import Conductor, Relay, Wiring
from tall_heron.core.electrics.driver import driver_of
from tall_heron.core.electrics.harness import Contact, Feed, Grounding, Harness, Wire
from tall_heron.core.electrics.wire import area_mm2, carries, next_fuse, resistance, sizes, warm

SHARED_DROP = (
    0.2  # of the drop allowed, what the wire to a shared relay, or from a ground point, takes
)
LEAST_ROOM = 0.2  # of the drop allowed, what the wires may take however much the contacts do
IN_HAND = 0.9  # of the drop allowed, what is used of it: a pump on full voltage draws a little more than its map of less says
RELAY_A, CRIMP_MM2 = (
    30.0,
    4.0,
)  # what the house's figures of a relay that no row knows and of a crimp are for
OF_28_V = 20.0  # volts from which a system is one of 28 V


def highest_current(element: Element) -> float | None:
    """The most a pump draws on its maps, at no more than its relief [A]; None where its sheet has
    no currents.
    """
    law = element.figures
    if not isinstance(law, PumpMap) or any(len(r) < 3 for c in law.curves for r in c.rows):
        return None
    rows, relief = law.curves[-1].rows, law.relief_kpa or math.inf
    below = max((r[2] for r in rows if r[1] <= relief), default=0.0)
    return max(float(below), _drawn(rows, relief)) if relief < rows[0][1] else float(below)


def _drawn(rows: Sequence[Sequence[float]], kpa: float) -> float:
    """The current against a rise [A, kPa], straight between the rows of a map."""
    for (_, p1, i1), (_, p0, i0) in itertools.pairwise(rows):
        if p0 <= kpa <= p1:
            return float(i0 + (kpa - p0) / (p1 - p0) * (i1 - i0)) if p1 > p0 else float(i1)
    return float(rows[0][2] if kpa > rows[0][1] else rows[-1][2])


def running_current(element: Element, kpa: float) -> float | None:
    """What a pump draws against a rise [A] on the map of its highest voltage, straight between its
    rows; None where its sheet has no currents.
    """
    law = element.figures
    if highest_current(element) is None or not isinstance(law, PumpMap):
        return None
    return _drawn(law.curves[-1].rows, kpa)


def drop_allowed(volts: float) -> float:
    """The continuous drop allowed in a system of a voltage [V]."""
    return house_figure("drop_28" if volts >= OF_28_V else "drop_14")


def conducting(
    w: Wiring, c: Conductor, number: str, start: str, end: str, ampere: float, size: str
) -> Wire:
    """A conductor of a size as a wire that carries a current [A]."""
    celsius = warm(size, ampere, w.ambient_c, w.together, w.insulation_c)
    most = carries(size, w.ambient_c, w.together, w.insulation_c)
    return Wire(
        number,
        start,
        end,
        size,
        c.size is None,
        c.long_mm,
        c.length_mm is not None,
        ampere,
        celsius,
        resistance(size, c.long_mm, celsius),
        most,
        c.colour,
    )


def relay_row(rated: float) -> Row:
    """The row of relays.csv that a rating is nearest under [A]: its body, what wire it takes, its
    price.
    """
    return next((r for r in table("relays") if float(r["rated_a"]) >= rated), table("relays")[-1])


def relay_ohm(rated: float) -> float:
    """The resistance of the contact of a relay of a rating [ohm]."""
    row = next((r for r in table("relays") if float(r["rated_a"]) == rated), None)
    return float(row["ohm"]) if row is not None else house_figure("relay_ohm") * RELAY_A / rated


def takes_mm2(rated: float) -> float:
    """The thickest wire that goes on a relay of a rating [mm2]."""
    return float(relay_row(rated)["to_mm2"])


def _ratings(relay: Relay, ampere: float) -> list[float]:
    """What a relay may be rated [A]: as typed, else each that carries a current, the largest there
    is where none does.
    """
    if relay.contact_a is not None:
        return [relay.contact_a]
    every = [float(r["rated_a"]) for r in table("relays")]
    return [a for a in every if a >= ampere] or every[-1:]


def crimp_ohm(size: str) -> float:
    """The resistance of one crimp on a wire [ohm]."""
    return house_figure("crimp_ohm") * min(1.0, CRIMP_MM2 / area_mm2(size))


def _sized(
    w: Wiring,
    conductors: tuple[Conductor, ...],
    ampere: float,
    fuse: float | None,
    room: float,
    crimps: int = 0,
    most_mm2: float = math.inf,
) -> tuple[str, bool]:
    """The thinnest size that carries its fuse and takes no more than so much of the voltage [V],
    its crimps with it, and whether there is one up to so much copper [mm2]; else the thickest.
    """
    choices = [s for s in sizes(w.sizes) if area_mm2(s) <= most_mm2] or sizes(w.sizes)[:1]
    for size in choices:
        celsius = warm(size, ampere, w.ambient_c, w.together, w.insulation_c)
        drop = (
            sum(resistance(size, c.long_mm, celsius) for c in conductors) + crimps * crimp_ohm(size)
        ) * ampere
        if drop <= room and carries(size, w.ambient_c, w.together, w.insulation_c) >= (
            fuse or ampere
        ):
            return size, True
    return choices[-1], False


def _with_relay(
    w: Wiring,
    relay: Relay,
    long: tuple[Conductor, ...],
    feed: tuple[float, float, float | None],
    allowed: float,
    crimps: int,
    most_mm2: float,
) -> tuple[float, str]:
    """The rating of a pump's own relay and the size of its wires, together: the smallest relay that
    carries the pump and whose terminals take a wire thick enough, its contact's loss counted; where
    none does the one with the thickest.
    """
    running, highest, fuse = feed
    tried = []
    for rated in _ratings(relay, highest):
        room = max(IN_HAND * allowed - relay_ohm(rated) * running, LEAST_ROOM * allowed)
        size, holds = _sized(
            w,
            long,
            running,
            fuse,
            room,
            crimps,
            min(most_mm2, math.inf if relay.contact_a is not None else takes_mm2(rated)),
        )
        tried.append((not holds, -area_mm2(size), rated, size))
        if holds:
            break
    return min(tried)[2:]


def make_harness(circuit: Circuit, wiring: Wiring, volts: float, kpa: float) -> Harness:
    """Every feed as it is typed, and by rule where nothing is said. Args: the circuit, its wiring,
    the system's voltage [V], the rise that pumps run against at peak [kPa]. Fuses are chosen by the
    highest current, sizes by their fuse and by the drop at what a pump draws at peak.
    """
    feeds: dict[str, Feed] = {}
    ratings: dict[str, float] = {}
    allowed = drop_allowed(volts)
    for pump, branch in wiring.branches.items():
        element = circuit.element(pump)
        ampere = highest_current(element) if element is not None else None
        if element is None or ampere is None:
            continue
        driver = driver_of(element, ampere)
        most = driver.to_mm2 if driver is not None else math.inf
        fuse = (
            branch.fuse_a
            if branch.fuse_a is not None
            else next_fuse(house_figure("fuse_least") * ampere)
        )
        running = (
            min(running_current(element, kpa) or ampere, ampere)
            if not element.properties.dead_heads
            else ampere
        )
        alone = (
            wiring.relay(branch.relay)
            if sum(b.relay == branch.relay for b in wiring.branches.values()) == 1
            else None
        )
        if alone is not None:
            ratings[alone.name], size = _with_relay(
                wiring,
                alone,
                (branch.feed, branch.earth, alone.supply),
                (running, ampere, fuse),
                allowed * (1 - SHARED_DROP * bool(branch.ground)),
                branch.crimps,
                most,
            )
        else:
            shared = SHARED_DROP * (bool(branch.relay) + bool(branch.ground))
            room = max(IN_HAND * (1 - shared) * allowed, LEAST_ROOM * allowed)
            size, _ = _sized(
                wiring, (branch.feed, branch.earth), running, fuse, room, branch.crimps, most
            )
        contacts = branch.crimps * crimp_ohm(branch.feed.size or size)
        source = branch.relay or f"bus {branch.bus}"
        load = driver.name if driver is not None else pump
        out = conducting(
            wiring, branch.feed, f"{pump}-1", source, load, running, branch.feed.size or size
        )
        back = conducting(
            wiring,
            branch.earth,
            f"{pump}-2",
            load,
            branch.ground or "ground",
            running,
            branch.earth.size or size,
        )
        feeds[pump] = Feed(
            pump,
            branch,
            ampere,
            fuse,
            out,
            back,
            contacts,
            driver,
            element.properties.terminals or "blade",
        )
    relays: dict[str, Contact] = {}
    for relay in wiring.relays:
        pumps = tuple(p for p, f in feeds.items() if f.branch.relay == relay.name)
        if not pumps:
            continue
        ampere = sum(feeds[p].highest for p in pumps)
        # What protects the wire to a relay of one pump is that pump's fuse, which stands at the
        # source.
        fuse = (
            relay.fuse_a
            if relay.fuse_a is not None
            else feeds[pumps[0]].fuse
            if len(pumps) == 1
            else next_fuse(house_figure("fuse_least") * ampere)
        )
        own = feeds[pumps[0]].out
        rated = ratings.get(relay.name) or _ratings(relay, ampere)[0]
        most = math.inf if relay.contact_a is not None else takes_mm2(rated)
        size = relay.supply.size or (
            own.size
            if len(pumps) == 1
            else _sized(wiring, (relay.supply,), ampere, fuse, SHARED_DROP * allowed, 0, most)[0]
        )
        supply = conducting(
            wiring,
            relay.supply,
            f"{relay.name}-30",
            f"bus {feeds[pumps[0]].branch.bus}",
            relay.name,
            ampere,
            size,
        )
        relays[relay.name] = Contact(
            relay, rated, pumps, supply, fuse, ampere, supply.ohm + relay_ohm(rated)
        )
    return Harness(
        wiring,
        volts,
        kpa,
        feeds,
        relays,
        _grounds(wiring, feeds, allowed),
        tuple(
            e.id for e in circuit.elements if isinstance(e.figures, PumpMap) and e.id not in feeds
        ),
    )


def _grounds(wiring: Wiring, feeds: dict[str, Feed], allowed: float) -> dict[str, Grounding]:
    """Each ground point that a pump is on: its wire stands all their fuses together, and takes no
    more than its part of the drop allowed [V].
    """
    out: dict[str, Grounding] = {}
    for point in wiring.grounds:
        on = [f for f in feeds.values() if f.branch.ground == point.name]
        if on:
            ampere = sum(f.highest for f in on)
            fuses = sum(f.fuse or f.highest for f in on)
            size = (
                point.wire.size
                or _sized(wiring, (point.wire,), ampere, fuses, SHARED_DROP * allowed)[0]
            )
            number = f"{point.name}-31"
            wire = conducting(wiring, point.wire, number, point.name, "ground", ampere, size)
            out[point.name] = Grounding(point, tuple(f.pump for f in on), wire, ampere)
    return out


def harness_of(build: Build) -> Harness | None:
    """The wires of a build; None where it has none."""
    if build.wiring is None or build.brief is None:
        return None
    return make_harness(
        build.circuit,
        build.wiring,
        build.brief.voltage_v,
        build.brief.base_kpa + build.brief.boost_kpa,
    )
