"""A circuit that speeds up, brakes, climbs or dives: what its heights come to."""

import math
from dataclasses import dataclass

from tall_heron.core.base.constants import GRAVITY
from tall_heron.core.document.circuit import Circuit, Node
from tall_heron.core.document.kinds import PIPES
from tall_heron.core.document.path import ways

STRAIGHT = 0.9  # of a line's length, how much further ahead it ends: common practice, until somebody places it


@dataclass(frozen=True)
class BodyAcceleration:
    """How hard it speeds up, `ahead` [m/s2, below 0: it brakes], and turns to the left, `left`
    [m/s2, below 0: to the right], how far its nose is up, `pitch`, and its right side down,
    `bank` [rad].
    """

    ahead: float = 0.0
    pitch: float = 0.0
    left: float = 0.0
    bank: float = 0.0

    def __bool__(self) -> bool:
        return bool(self.ahead or self.pitch or self.left or self.bank)

    @property
    def readings(self) -> tuple[float, float, float]:
        """What an accelerometer fixed to the vehicle would read ahead, to the left and up [g] (ISO
        8855 axes, from memory).

        >>> [round(x, 3) for x in BodyAcceleration(ahead=0.5 * 9.80665, pitch=math.radians(10)).readings]
        [0.674, 0.0, 0.985]
        """
        level = math.cos(self.pitch)
        return (
            math.sin(self.pitch) + self.ahead / GRAVITY,
            math.sin(self.bank) * level + self.left / GRAVITY,
            math.cos(self.bank) * level,
        )

    def height(self, ahead: float, right: float, up: float) -> float:
        """The height [m] at which a place, so far ahead, to the right and up [m], would feel at
        rest and level what it feels now: its place along what an accelerometer reads [g].

        A liquid that moves with an acceleration a stands under g - a: p falls by rho a x over a
        distance x ahead. Source: hydrostatics of a liquid in uniform acceleration.

        >>> round(745 * 9.80665 * BodyAcceleration(ahead=1.5 * 9.80665).height(4.0, 0.0, 0.0) / 1000, 1)
        43.8
        """
        x, y, z = self.readings
        return ahead * x - right * y + up * z


def ahead_of(circuit: Circuit, flies: bool) -> dict[str, float]:
    """How far each place lies ahead of the first tank [m]: as it is said, or reckoned along the
    lines from there. What returns runs back. In an aircraft lines on the suction side come inward
    from the wings, not forward. A place that nothing leads to lies at the tank.
    """
    typed = {n.id: n.ahead_mm / 1000 for n in circuit.nodes if n.ahead_mm is not None}
    tanks = [e.ports["outlet"] for e in circuit.of_kind("tank")]
    onward: dict[str, list[tuple[str, float]]] = {}
    for e in circuit.elements:
        forward = e.kind in PIPES and e.length is not None and not (flies and e.role == "suction")
        for a, b in ways(e):
            step = (
                STRAIGHT * e.length.mm / 1000 * (-1 if e.role == "return" else 1)
                if forward and e.length is not None
                else 0.0
            )
            onward.setdefault(a, []).append((b, step))
            if not step and e.kind != "pump":
                onward.setdefault(b, []).append((a, 0.0))
    out = dict.fromkeys(tanks, 0.0)
    todo = list(tanks)
    while todo:
        here = todo.pop(0)
        for there, step in sorted(onward.get(here, []), key=lambda x: abs(x[1])):
            if there not in out:
                out[there] = out[here] + step
                todo.insert(0, there) if not step else todo.append(there)
    return {n.id: typed.get(n.id, out.get(n.id, 0.0)) for n in circuit.nodes}


def accelerated(circuit: Circuit, acceleration: BodyAcceleration, flies: bool) -> Circuit:
    """The circuit with the heights that its places feel. A tank's level stays above its outlet as
    it is: its surface is looked at elsewhere.
    """
    ahead = ahead_of(circuit, flies)

    def height(n: Node) -> float:
        return max(
            -1e5,
            min(
                1e5,
                1000
                * acceleration.height(
                    ahead[n.id], (n.right_mm or 0.0) / 1000, n.elevation_mm / 1000
                ),
            ),
        )

    nodes = [n.model_copy(update={"elevation_mm": height(n)}) for n in circuit.nodes]
    return circuit.model_copy(update={"nodes": nodes})
