"""A tank's inside: a box, or a box over a sump, and what of its fuel the outlet cannot reach."""

from tall_heron.core.document.properties import Properties

FILLED = ("pot", "header")  # families of tanks that something fills


def longest_mm(tank: Properties) -> float | None:
    """The longest side of a tank's box [mm]; None where it does not say its sides."""
    return max(
        (x for x in (tank.long_mm, tank.wide_mm, tank.high_mm) if x is not None), default=None
    )


def depth_mm(tank: Properties) -> float | None:
    """How deep a tank is from its top to its lowest point [mm]; None where it does not say."""
    return None if tank.high_mm is None else tank.high_mm + (tank.sump_mm or 0.0)


def out_of_reach_l(tank: Properties) -> float | None:
    """What stays under the outlet of a level tank [L]: of the sump where there is one, then of the
    box; None where its figures do not say.
    """
    if tank.outlet_mm is None or tank.capacity_l is None:
        return None
    sump, deep = (tank.sump_l or 0.0, tank.sump_mm) if tank.sump_mm else (0.0, 0.0)
    if deep and tank.outlet_mm <= deep:
        return sump * tank.outlet_mm / deep
    if tank.high_mm is None:
        return None
    return min(
        sump + (tank.capacity_l - sump) * (tank.outlet_mm - (deep or 0.0)) / tank.high_mm,
        tank.capacity_l,
    )
