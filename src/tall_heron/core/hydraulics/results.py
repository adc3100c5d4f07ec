"""What solving gives, in SI. A solution is flows of chains and pressures of junctions; all else is
read from them when it is asked for: shut links at exactly zero, undefined pressures as None, states
in the trade's words.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from tall_heron.core.base.constants import GRAVITY
from tall_heron.core.base.graphs import join, reached
from tall_heron.core.hydraulics.compile import JOINT, MANIFOLD
from tall_heron.core.hydraulics.laws import (
    FLATTEST,
    FLOW_LEAST,
    INFINITE,
    LEAK,
    PumpRise,
    RegulatorLaw,
    Resistance,
    loss,
    rise,
)
from tall_heron.core.hydraulics.network import Link, Network
from tall_heron.core.hydraulics.newton import NewtonState, pressure_scale
from tall_heron.core.physics.friction import LAMINAR_END, TURBULENT_START

STAGNANT = 1e-9  # of the largest flow
STAGNANT_REYNOLDS = 1e-3
MOST_PARTED = 64  # ways in which a frame's links can be parted that are kept
BEYOND = 0.02  # of a map's voltage: so near, its neighbor by affinity is as good as the map


@dataclass(slots=True)
class LinkResult:
    """One link: `flow` [m3/s] from start to end, `loss` [Pa] p_start - p_end or None where a
    pressure is undefined, `velocity` [m/s], `reynolds` [-].
    """

    element: str
    key: str
    start: str
    end: str
    flow: float
    loss: float | None
    state: str
    velocity: float | None = None
    reynolds: float | None = None
    transition: bool = False
    current: float | None = None


class Solution:
    """One point's answer. Not converged: the `part` and the `reason`, and no pressures."""

    def __init__(
        self,
        net: Network,
        state: NewtonState,
        part: str | None = None,
        reason: str = "",
        residual: float = 0.0,
    ) -> None:
        self.net, self.state, self.part, self.reason, self.residual = (
            net,
            state,
            part,
            reason,
            residual,
        )
        self.converged = part is None
        self._read: tuple[dict[str, float | None], dict[str, LinkResult]] | None = (
            None if self.converged else ({}, {})
        )

    @property
    def nodes(self) -> dict[str, float | None]:
        """Pressures [Pa gauge], None where undefined."""
        return self._both()[0]

    def pressure(self, node: str) -> float | None:
        """The pressure of one node [Pa gauge], as in `nodes`; quick where fuel flows past it, since
        that joins it to a fixed pressure.
        """
        if self._read is None:
            frame, state = self.net.frame, self.state
            least = STAGNANT * max(max(map(abs, state.flow), default=0.0), FLOW_LEAST)
            for i, before in frame.met.get(node, ()):
                if abs(state.flow[i]) > max(least, FLOW_LEAST):
                    return self._past(node, i, before)
        return self.nodes.get(node)

    def _past(self, node: str, i: int, before: int) -> float:
        """The pressure of a node on a chain that flows, behind so many of its members [Pa gauge]."""
        frame, net = self.net.frame, self.net
        junction = frame.junction_at.get(node)
        height = net.state.density * GRAVITY * net.geometry.elevation.get(node, 0.0)
        if junction is not None:
            return self.state.pressure[junction] - height
        chain, q = frame.chains[i], self.state.flow[i]
        here = self.state.pressure[frame.ends[i][0]]
        for k, sense in chain.members[:before]:
            law = net.law(k)
            assert not isinstance(law, RegulatorLaw)
            here -= sense * _loss(law, sense * q)
        return here - height

    def flow(self, key: str) -> float:
        """The flow of one link [m3/s], as in `links`, without reading the others; 0.0 where there
        is none of that key.
        """
        place = self.net.frame.chain_of.get(key) if self._read is None else None
        if place is None:
            link = self.links.get(key)
            return link.flow if link is not None else 0.0
        i, sense = place
        largest = max(max(map(abs, self.state.flow)), FLOW_LEAST)
        flow = sense * self.state.flow[i]
        return flow if abs(flow) > STAGNANT * largest and largest > FLOW_LEAST else 0.0

    def current(self, key: str) -> float | None:
        """What a pump draws [A], as in `links`, without reading the others; None where it stands or
        its sheet says no current.
        """
        place = self.net.frame.chain_of.get(key) if self._read is None and self.converged else None
        if place is None:
            link = self.links.get(key)
            return link.current if link is not None else None
        geometry, frame = self.net.geometry, self.net.frame
        k = next(
            k
            for k, _ in frame.chains[place[0]].members
            if geometry.links[frame.links[k].place].key == key
        )
        law = self.net.law(k)
        return _pump_current(law, self.flow(key)) if isinstance(law, PumpRise) else None

    @property
    def links(self) -> dict[str, LinkResult]:
        """Every link by its key."""
        return self._both()[1]

    @property
    def asked(self) -> float:
        """What all injectors are commanded [m3/s]."""
        return sum(self.net.state.commanded.values())

    @property
    def delivered(self) -> float:
        """What flows out of the circuit into the engine [m3/s]."""
        return (
            sum(x.flow for x in self.links.values() if x.element in self.net.geometry.injectors)
            if self.converged
            else 0.0
        )

    @property
    def density(self) -> float:
        """The fuel's [kg/m3]."""
        return self.net.state.density

    @property
    def viscosity(self) -> float:
        """The fuel's [Pa s]."""
        return self.net.state.viscosity

    def voltage(self, pump: str) -> float | None:
        """The voltage at a pump's terminals [V], behind its wires where the point says them; None
        where nothing is said.
        """
        return self.net.state.point.voltage_on(pump, self.current(pump))

    def link(self, element_id: str) -> LinkResult | None:
        """The first link of an element."""
        return self.links.get(element_id) or next(
            (x for x in self.links.values() if x.element == element_id), None
        )

    def with_readings(
        self, nodes: dict[str, float | None], links: dict[str, LinkResult]
    ) -> "Solution":
        """The same answer with other pressures and links read from it."""
        out = Solution(self.net, self.state, self.part, self.reason, self.residual)
        out._read = nodes, links
        return out

    def _both(self) -> tuple[dict[str, float | None], dict[str, LinkResult]]:
        if self._read is None:
            self._read = _read(self.net, self.state)
        return self._read


def _spread(net: Network, state: NewtonState) -> tuple[list[float], list[float]]:
    """Pressures of all nodes [Pa, piezometric] and flows of all links [m3/s], from junctions and
    chains.
    """
    frame, links = net.frame, net.links
    pressure, flow = [0.0] * len(frame.ids), [0.0] * len(links)
    for node, p in zip(frame.junctions, state.pressure, strict=True):
        pressure[node] = p
    for i, chain in enumerate(frame.chains):
        q = state.flow[i]
        for k, sense in chain.members:
            flow[k] = sense * q
        if not chain.within:
            continue
        here, there = pressure[chain.u], pressure[chain.v]
        one_way = [n for n, (k, _) in enumerate(chain.members) if can_shut(links[k])]
        shut = bool(one_way) and q <= 0
        for n, ((k, sense), node) in enumerate(zip(chain.members, chain.within, strict=False)):
            if shut:  # nothing flows: what lies before the shut part hangs on one end, what lies behind it on the other
                pressure[node] = here if n < one_way[0] else there
            else:
                law = links[k].law
                assert not isinstance(law, RegulatorLaw)
                here -= sense * _loss(law, sense * q)
                pressure[node] = here
    return pressure, flow


def _loss(law: Resistance | PumpRise, q: float) -> float:
    """What a link takes at a flow [Pa], in its own sense."""
    if isinstance(law, PumpRise):
        return -rise(law, q)[0]
    return loss(law, q) + law.cracking


def can_shut(link: Link) -> bool:
    """Whether a link can hold its ends apart."""
    return not isinstance(link.law, Resistance) or link.law.one_way


def _read(
    net: Network, state: NewtonState
) -> tuple[dict[str, float | None], dict[str, LinkResult]]:
    pressure, flow = _spread(net, state)
    largest = max(max(map(abs, flow), default=0.0), FLOW_LEAST)
    # A link beyond its kink holds its ends apart: it carries a leak that is a device of the method,
    # reported as zero.
    least = max(STAGNANT * largest, 2 * LEAK * pressure_scale(net, pressure))
    parted = [q < least and can_shut(k) for k, q in zip(net.links, flow, strict=True)]
    stagnant = largest <= FLOW_LEAST
    defined = anchored(net, parted)
    if not all(defined):
        _dead_headed(net, parted, pressure, defined)
    nodes: dict[str, float | None] = {
        name: None for name in net.frame.unconnected if name not in net.geometry.joints
    }
    manifolds, joints = net.frame.injector_node, net.geometry.joints
    head, elevation = net.state.density * GRAVITY, net.geometry.elevation
    for name, p, known in zip(net.ids, pressure, defined, strict=True):
        if name not in manifolds and name not in joints:
            nodes[name] = p - head * elevation.get(name, 0.0) if known else None
    links: dict[str, LinkResult] = {}
    for k, q, apart in zip(net.links, flow, parted, strict=True):
        element, key, start, end, u, v, law, area = k
        if joints:
            if key + JOINT in joints:
                continue  # where a Y's flow is one: its legs tell it
            start, end = joints.get(start, start), joints.get(end, end)
        if apart or stagnant:
            q = 0.0
        if inward := end.startswith(MANIFOLD):
            end, gone = "", pressure[u] - pressure[v] if defined[u] else None
        else:
            gone = _difference(nodes, start, end)
        velocity = q / area if area else None
        result = links[key] = LinkResult(element, key, start, end, q, gone, "", velocity)
        if isinstance(law, Resistance) and law.friction_scale:
            _describe_pipe(law, q, result)
        else:
            _describe(net, k, q, apart, inward, pressure, result)
    for element, key, start, end, words in net.frame.shut:
        if key + JOINT in joints:
            continue
        start, end = joints.get(start, start), joints.get(end, end)
        links[key] = LinkResult(
            element, key, start, end, 0.0, _difference(nodes, start, end), words
        )
    return nodes, links


def _difference(nodes: Mapping[str, float | None], start: str, end: str) -> float | None:
    a, b = nodes.get(start), nodes.get(end)
    return a - b if a is not None and b is not None else None


def anchored(net: Network, parted: list[bool]) -> list[bool]:
    """Which nodes hang on a fixed pressure through links that are not parted; the others have no
    defined pressure.
    """
    frame = net.frame
    apart = bytes([1 if x else 0 for x in parted])  # a batch has truths of numpy
    known = frame.anchored.get(apart)
    if known is None:
        near: dict[int, list[int]] = {}
        for k, off in zip(frame.links, parted, strict=True):
            if not off:
                join(near, k.u, k.v)
        connected = reached(near, range(net.n, len(net.ids)))
        known = tuple([i in connected for i in range(len(net.ids))])
        if len(frame.anchored) < MOST_PARTED:
            frame.anchored[apart] = known
    return list(known)


def _dead_headed(
    net: Network, parted: list[bool], pressure: list[float], defined: list[bool]
) -> None:
    """Sections that are shut in stand at what presses on them: a running pump against a shut line,
    a line through a check valve less what that takes to open, or through a regulator as far as it
    lets on; the highest of all. Written into `pressure`; they are `defined` then. What nothing
    presses on stays undefined.
    """
    near: dict[int, list[int]] = {}
    presses: list[
        tuple[int, int, float, float, float]
    ] = []  # from, to, what is gained on the way; only from a least pressure on, and to a most
    for k, apart in zip(net.links, parted, strict=True):
        if not apart:
            join(near, k.u, k.v)
        elif isinstance(k.law, PumpRise) and k.law.given is None:
            presses.append((k.u, k.v, k.law.shut_off, -INFINITE, INFINITE))
        elif isinstance(k.law, Resistance) and k.law.one_way and not k.into_manifold:
            presses.append((k.u, k.v, -k.law.cracking, -INFINITE, INFINITE))
        elif isinstance(k.law, RegulatorLaw):
            presses.append(
                (k.u, k.v, 0.0, k.law.target, INFINITE)
                if k.law.side == 0
                else (k.u, k.v, 0.0, -INFINITE, k.law.target)
            )
    whole = {i: tuple(reached(near, [i])) for _, i, *_ in presses if not defined[i]}
    level: dict[int, float] = {}
    for _ in presses:  # as many rounds as there can be in a row
        before = dict(level)
        for u, v, gain, least, most in presses:
            if not defined[v] and (defined[u] or u in level):
                here = pressure[u] if defined[u] else level[u]
                top = min(here + gain, most)
                if here > least and top > level.get(v, -INFINITE):
                    level |= dict.fromkeys(whole[v], top)
        if level == before:
            break
    for i, top in level.items():
        pressure[i], defined[i] = top, True


def _describe_pipe(law: Resistance, q: float, result: LinkResult) -> None:
    """State and Reynolds number of a line."""
    re = abs(q) * law.reynolds_per_flow
    result.reynolds = re
    if re < STAGNANT_REYNOLDS:
        result.state = "still"
    elif re <= LAMINAR_END:
        result.state = "laminar"
    elif re < TURBULENT_START:
        result.state, result.transition = "transition", True
    else:
        result.state = "turbulent"


def _describe(
    net: Network,
    k: Link,
    q: float,
    apart: bool,
    inward: bool,
    pressure: list[float],
    result: LinkResult,
) -> None:
    """State and current of a link that is no line."""
    law = k.law
    if isinstance(law, PumpRise):
        result.state = _pump_state(law, q, apart, result.loss)
        result.current = _pump_current(law, q)
    elif isinstance(law, RegulatorLaw):
        result.state = "shut" if apart else _regulator_state(law, q, pressure[k.u], pressure[k.v])
    elif inward:
        want = net.state.commanded[k.element]
        result.state = (
            "shut" if apart else "short of command" if q < want * (1 - 1e-6) else "on command"
        )
    else:
        result.state = "shut" if apart else "open" if law.one_way else "flowing"


BEYOND_TABLE, BEYOND_VOLTS = (
    "beyond its table",
    "running, beyond its voltages",
)  # states of a pump whose figures are scaled from the nearest of its sheet


def _pump_state(law: PumpRise, q: float, apart: bool, loss: float | None) -> str:
    if apart:
        return "at shut-off"
    if q > law.last_flow * (1 + 1e-9):
        return BEYOND_TABLE
    if loss is not None and -loss >= law.relief * (1 - FLATTEST * q) * (1 - 1e-6):
        return "relief open"
    return BEYOND_VOLTS if law.outside or _beyond(law, q) else "running"


def _beyond(law: PumpRise, q: float) -> bool:
    """Whether a pump's wire leaves it a voltage that is clearly beyond its maps'."""
    if law.wire is None:
        return False
    source, ohm, low, high = law.wire
    volts = source - ohm * (_pump_current(law, q) or 0.0)
    return not low * (1 - BEYOND) <= volts <= high * (1 + BEYOND)


def _pump_current(law: PumpRise, q: float) -> float | None:
    if law.currents is None:
        return None
    # Current stands in the curves' order; between voltages it is weighted like the rise, outside it
    # keeps the nearest map's; a turbine's goes with density.
    total = sum(s.weight for s in law.shares)
    rows = zip(law.shares, law.currents, strict=True)
    return law.with_density * sum(
        s.weight / total * c.at(q * s.flow_scale + s.flow_shift)[0] for s, c in rows
    )


def _regulator_state(law: RegulatorLaw, q: float, pu: float, pv: float) -> str:
    beyond_target = pu - law.target if law.side == 0 else law.target - pv
    beyond_target -= max(law.slope, 0.0) * q
    return "wide open" if beyond_target > 1e-6 * max(abs(pu), abs(pv), 1.0) else "holding"
