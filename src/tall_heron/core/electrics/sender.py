"""A level sender in its divider: what is read over the level, how fine that is, where the reserve
mark lies.
"""

from dataclasses import dataclass

from tall_heron.core.document.wiring import Sender


def divided(ohm: float, pull_up: float, supply: float) -> float:
    """The voltage over a sender of a resistance that is pulled up to a supply [V]: V R / (R + R
    pull-up).

    >>> round(divided(240, 100, 5), 3), round(divided(33, 100, 5), 3)
    (3.529, 1.241)
    """
    return supply * ohm / (ohm + pull_up)


@dataclass(frozen=True)
class SenderReading:
    """At a level [-]: the sender's ohms, the voltage, what the converter counts, and how much level
    one count is there [-].
    """

    level: float
    ohm: float
    volts: float
    count: int
    step: float


@dataclass(frozen=True)
class SenderSheet:
    """Readings from empty to full, the one at the reserve mark, the coarsest step [-], the most heat
    in the sender [W], the levels of a straight line through empty and full at 0 V and at the end of
    the input's range [-], how far that line is off between them [-], and what is wrong with the
    divider, in words.
    """

    readings: tuple[SenderReading, ...]
    reserve: SenderReading
    coarsest: float
    heat_w: float
    line: tuple[float, float]
    line_off: float
    troubles: tuple[str, ...]


def make_sender_sheet(s: Sender) -> SenderSheet:
    """The sender's sheet, straight between its two ends, as long as nobody has measured it (station
    8).
    """
    count_v = s.range_v / 2**s.bits

    def at(level: float) -> SenderReading:
        ohm = s.empty_ohm + (s.full_ohm - s.empty_ohm) * level
        volts = divided(ohm, s.pull_up_ohm, s.supply_v)
        slope = (
            abs(s.full_ohm - s.empty_ohm) * s.supply_v * s.pull_up_ohm / (ohm + s.pull_up_ohm) ** 2
        )  # dV/dlevel
        return SenderReading(
            level,
            ohm,
            volts,
            min(int(volts / count_v), 2**s.bits - 1),
            count_v / slope if slope > 0 else float("inf"),
        )

    readings = tuple(at(i / 10) for i in range(11))
    most = max(r.volts for r in readings)
    low, high = sorted((s.empty_ohm, s.full_ohm))
    hottest = min(max(s.pull_up_ohm, low), high)  # where both are alike, else the end next to it
    most_a = s.supply_v / (s.pull_up_ohm + hottest)
    empty_v, span = readings[0].volts, readings[-1].volts - readings[0].volts

    def lined(volts: float) -> float:
        return (volts - empty_v) / span if span else 0.0

    troubles = []
    if s.empty_ohm == s.full_ohm:
        troubles.append(
            "The sender reads the same empty and full: its two resistances must differ."
        )
    if most > s.range_v:
        troubles.append(
            f"{most:.2f} V is more than the {s.range_v:g} V that the input reads: the level is cut off there."
        )
    if abs(readings[0].volts - readings[-1].volts) < 0.2 * s.range_v:
        troubles.append(
            f"Less than a fifth of the input's range is used: a pull-up of {best_pull_up(s.empty_ohm, s.full_ohm):.0f} Ω spreads it wider."
        )
    return SenderSheet(
        readings,
        at(s.reserve),
        max(r.step for r in readings),
        most_a**2 * hottest,
        (lined(0.0), lined(s.range_v)),
        max(abs(lined(r.volts) - r.level) for r in readings),
        tuple(troubles),
    )


def best_pull_up(empty: float, full: float) -> float:
    """The pull-up that spreads empty and full widest [ohm]: the root of their product. Where one of
    them is 0 ohm a smaller one always spreads them wider and heats more, down to a short; that of
    the other end is taken, which spreads them over half the supply.

    >>> round(best_pull_up(240, 33)), best_pull_up(0, 180)
    (89, 180)
    """
    return (empty * full) ** 0.5 if min(empty, full) > 0 else max(empty, full)
