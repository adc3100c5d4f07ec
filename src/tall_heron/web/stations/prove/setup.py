"""The set-up of a test as a row of parts: what runs, what is shut, where it is read. From the
circuit, not from where symbols stand.
"""

from dataclasses import dataclass, field
from typing import Any

from tall_heron.core.document.circuit import Circuit
from tall_heron.core.document.figures import Displacement
from tall_heron.core.prove.proof import Proof
from tall_heron.web.show.text import shown

WITHOUT = ("match", "run", "noise", "stop")  # tests of which a picture says nothing
AT_REST = ("leak", "drips", "hold", "soak")  # pumps off
CLOSED = ("leak", "drips")  # tank and regulator shut off


@dataclass(frozen=True)
class Drawn:
    """One part: its symbol, its name, how it stands (on, shut, set, read) and what more is to be
    said.
    """

    kind: str
    label: str
    state: str = ""
    note: str = ""
    part: dict[str, Any] = field(default_factory=lambda: {"holds": "inlet"})


def drawn_setup(circuit: Circuit, proof: Proof) -> list[Drawn]:
    """The parts of a test's set-up, in flow order."""
    if proof.name in WITHOUT:
        return []
    tanks = circuit.of_kind("tank")
    out = [
        Drawn(
            "tank",
            proof.part if proof.name in ("tank", "sender") else tanks[0].id if tanks else "tank",
            "shut" if proof.name in CLOSED else "",
        )
    ]
    if proof.name in ("tank", "sender"):
        return [
            *out,
            Drawn(
                "gauge",
                "gauge" if proof.name == "tank" else "meter",
                "read",
                shown(proof.x, "pressure") if proof.x else "after each pour",
            ),
        ]
    out += _pumps(circuit, proof)
    if proof.name in ("volts", "amps", "earth", "relay"):
        return [
            *out,
            Drawn(
                "sensor",
                "meter",
                "read",
                {"earth": "to the battery's post", "relay": "battery to 87"}.get(
                    proof.name, f"at {proof.part}"
                ),
            ),
        ]
    gauge = Drawn("gauge", "gauge", "read")
    fine = circuit.of_kind("filter")
    if proof.name == "drop":
        out += [
            Drawn("gauge", "gauge", "read", "before"),
            Drawn("filter", proof.part),
            Drawn("gauge", "gauge", "read", "behind"),
        ]
    elif fine:
        out.append(Drawn("filter", fine[0].id))
    if proof.quantity in ("volume_flow", "volume"):
        if proof.name in ("gravity", "flush", "flush_open"):
            return [
                *out,
                Drawn(
                    "tank", "can", "read", "time it" if proof.name == "gravity" else "and a screen"
                ),
            ]
        against = proof.setup.against if proof.setup is not None else None
        return [
            *out,
            Drawn("gauge", "gauge", "read", shown(against, "pressure") if against else ""),
            Drawn("valve", "valve", "set"),
            Drawn("tank", "can", "read", "time it"),
        ]
    out.append(Drawn("rail", "rail") if circuit.of_kind("rail") else Drawn("carburettor", "inlet"))
    if proof.name in ("base", "follow", "hold", "soak", "prime", "leak", "drips"):
        out.append(gauge)
    if regulators := circuit.of_kind("regulator"):
        out.append(
            Drawn(
                "regulator",
                regulators[0].id,
                "shut" if proof.name in CLOSED else "",
                {"base": "reference off", "follow": "hand pump on"}.get(proof.name, ""),
            )
        )
        if proof.name == "return":
            out.append(Drawn("gauge", "gauge", "read", "behind it"))
    return out


def _pumps(circuit: Circuit, proof: Proof) -> list[Drawn]:
    pumps = circuit.of_kind("pump")
    if not pumps:
        return []
    alone = proof.setup.alone if proof.setup is not None else ()
    stands = {
        e.id
        for e in pumps
        if proof.setup is not None
        and proof.setup.rpm == 0.0
        and isinstance(e.figures, Displacement)
    }  # the engine turns it
    on, off = (
        [e.id for e in pumps if ((not alone or e.id in alone) and e.id not in stands) == runs]
        for runs in (True, False)
    )
    before = (
        [Drawn("gauge", "vacuum gauge", "read", f"at {proof.part}")]
        if proof.name == "suction"
        else []
    )
    return [
        *before,
        Drawn(
            "pump",
            " ".join(on[:3]),
            "" if proof.name in AT_REST else "on",
            f"{' '.join(off)} off" if off else "",
        ),
    ]
