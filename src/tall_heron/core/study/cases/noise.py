"""What a pump's mounting does to its noise in the cabin: through its mounting, through the lines at
it and through the air, against the same pump bolted to the body. A comparison with an honest doubt,
never a level.
"""

import math
from dataclasses import dataclass

from tall_heron.core.base.arithmetic import Why
from tall_heron.core.base.catalogue import Row, by_name, house_figure, table
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.kinds import PIPES
from tall_heron.core.document.mounts import stands_outside
from tall_heron.core.document.path import ways
from tall_heron.core.physics.vibration import together, transmissibility


@dataclass(frozen=True)
class Mounting:
    """A way to mount a pump: its name and title, how much less comes into the cabin than from the
    same pump bolted on [dB] and the doubt of that, what it costs, and how that is reckoned.
    """

    name: str
    title: str
    less: float
    doubt: float
    price: float | None
    fitted: bool
    why: Why


def mountings(circuit: Circuit, pump: Element) -> list[Mounting]:
    """Every way to mount a pump that stands outside the tank; none for others."""
    if not stands_outside(pump):
        return []
    rigid = hard_lines(circuit, pump)
    before = together(_ways(None, bool(rigid)))
    return [_mounting(row, pump, rigid, before) for row in table("soft_mounts")]


def fitted(element: Element) -> Row | None:
    """The row of what a part is mounted on, where that is more than bolts."""
    row = by_name("soft_mounts").get(element.mounting or "")
    return row if row is not None and row["pieces"] and stands_outside(element) else None


def hard_lines(circuit: Circuit, pump: Element) -> list[str]:
    """The hard lines that hold a pump: the first line at each of its ports, where that is no hose."""
    out = []
    for port in pump.ports.values():
        met, here, e = {pump.id}, port, None
        while e is None or e.kind not in PIPES:
            e = next(
                (
                    x
                    for x in circuit.elements
                    if x.id not in met and ways(x) and here in x.ports.values()
                ),
                None,
            )
            if e is None:
                break
            met.add(e.id)
            here = next(n for n in e.ports.values() if n != here)
        if e is not None and e.kind == "line":
            out.append(e.id)
    return out


def _ways(row: Row | None, rigid: bool) -> tuple[float, float, float]:
    """What comes through the mounting, the lines and the air [dB], over the first of a bolted pump."""
    through = 0.0
    if row is not None and row["natural_hz"]:
        ratio = house_figure("hum_hz") / row["natural_hz"]
        through = 20 * math.log10(transmissibility(ratio, row["damping"]))
    lines = house_figure("noise_line_db" if rigid else "noise_hose_db")
    return through, -lines, -house_figure("noise_air_db")


def _mounting(row: Row, pump: Element, rigid: list[str], before: float) -> Mounting:
    ways_in = _ways(row, bool(rigid))
    less, doubt = before - together(ways_in), house_figure("noise_doubt_db")
    hum = house_figure("hum_hz")
    steps = [f"bolted: mounting 0, lines {ways_in[1]:g}, air {ways_in[2]:g} dB: {before:.1f} dB"]
    if row["natural_hz"]:
        ratio = hum / row["natural_hz"]
        let = transmissibility(ratio, row["damping"])
        steps.append(
            f"r = {hum:g} Hz ÷ {row['natural_hz']:g} Hz = {ratio:.1f}; T = √((1 + (2 × {row['damping']:g} r)²) ÷ ((1 − r²)² + (2 × {row['damping']:g} r)²)) = {let:.3f}, {ways_in[0]:.1f} dB"
        )
        steps.append(
            f"10 lg (10^{ways_in[0] / 10:.2f} + 10^{ways_in[1] / 10:.2f} + 10^{ways_in[2] / 10:.2f}) = {together(ways_in):.1f} dB: {less:.0f} dB less, give or take {doubt:g}"
        )
    braced = (
        f"{' and '.join(rigid)} hold it: hose at the pump would let less through." if rigid else ""
    )
    price = row["price"] * row["pieces"] if row["price"] is not None else None
    return Mounting(
        str(row["name"]),
        str(row["title"]),
        less,
        doubt if less > 0 else 0.0,
        price,
        (pump.mounting or "bolted") == row["name"],
        Why(tuple(steps), f"Den Hartog; shares of lines and air common practice. {braced}".strip()),
    )
