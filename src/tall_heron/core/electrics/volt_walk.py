"""Voltage along a pump's path, from the source to ground, as the pressure walk goes along a line."""

from collections.abc import Mapping
from dataclasses import dataclass

from tall_heron.core.electrics.harness import Harness


@dataclass(frozen=True)
class VoltStep:
    """A stretch of the path: what it is called, what the wires' current takes there [V], and the
    voltage behind it [V over ground].
    """

    name: str
    drop: float
    volts: float


def volt_walk(harness: Harness, pump: str, amperes: Mapping[str, float]) -> list[VoltStep]:
    """The voltage behind each part of a pump's path, the source first, ground last; empty for a
    pump that stands.

    Args: harness; pump; what each pump draws [A]. Returns: steps [V]. Source: ohm-1827.
    """
    feed, own = harness.feeds[pump], amperes.get(pump, 0.0)
    if own <= 0:
        return []
    out = [VoltStep("source", 0.0, harness.volts)]

    def behind(name: str, drop: float) -> None:
        out.append(VoltStep(name, drop, out[-1].volts - drop))

    contact = harness.relays.get(feed.branch.relay)
    if contact is not None:
        together = sum(amperes.get(p, 0.0) for p in contact.pumps)
        behind(f"wire {contact.supply.number}", contact.supply.ohm * together)
        behind(f"relay {contact.relay.name}", (contact.shared - contact.supply.ohm) * together)
    behind(f"wire {feed.out.number}", feed.out.ohm * own)
    behind(f"{feed.branch.crimps} crimps", feed.contacts * own)
    back, ground = feed.back.ohm * own, harness.grounds.get(feed.branch.ground)
    on = ground.wire.ohm * sum(amperes.get(p, 0.0) for p in ground.pumps) if ground else 0.0
    behind(pump, out[-1].volts - back - on)
    behind(f"wire {feed.back.number}", back)
    if ground is not None:
        behind(f"ground {ground.point.name}", on)
    return out
