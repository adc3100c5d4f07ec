"""What the alternator gives, and how long a battery alone lasts."""

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.wiring import Wiring

FULL_V, FLAT_V = 12.3, 10.5  # V of a 12 V battery under load, full and flat: common practice


def alternator_gives(w: Wiring, idle: bool) -> float:
    """What the alternator gives hot [A], at idle or at speed: a share of its label."""
    s = w.supply
    share = (
        (s.idle_share or house_figure("idle_alternator_share"))
        if idle
        else (s.hot_share or house_figure("hot_alternator_share"))
    )
    return s.alternator_a * share


def usable_ah(w: Wiring) -> float:
    """What of the battery's label may be used [Ah]."""
    return w.supply.battery_ah * house_figure(
        "battery_aged_share" if w.supply.aged else "battery_new_share"
    )


def battery_minutes(w: Wiring, pumps: float, end_v: float, cells: float = 1.0) -> float:
    """How long the battery alone carries pumps [A] and the loads that are kept, down to a voltage
    at its terminals [min]; straight from full to flat as it empties.

    >>> round(battery_minutes(Wiring(), 20.0, 10.5), 1)
    144.0
    """
    taken = pumps + sum(x.ampere for x in w.loads if x.kept)
    share = min(max((FULL_V - end_v / cells) / (FULL_V - FLAT_V), 0.0), 1.0)
    return 60 * usable_ah(w) * share / taken if taken > 0 else float("inf")


def surge(highest: float) -> float:
    """What a pump draws as it starts [A]."""
    return highest * house_figure("start_surge_times")
